//! Points, with all that the layers say about them.

use serde::Serialize;

use super::fills::{FillView, HolderView, fills, holders};
use super::slots::SlotView;
use super::variables::{VariableView, variables};
use super::{AssetView, FeatureView, PlaceView, VERSION};
use crate::address::Kind;
use crate::link::{Point, Registry, Renderer, START, Slot, UseId};
use crate::scan::Verb;
use crate::source::{FileId, Place};

/// A placement of a point.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub struct PlacementView {
    /// Where.
    #[serde(flatten)]
    pub place: PlaceView,
    /// The types of pages that get there.
    pub reached_by: Vec<String>,
}

/// A variable: an input of a component, or an argument.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub struct FieldView {
    /// Its name.
    pub name: String,
    /// Its type, in the words of JSON Schema.
    #[serde(rename = "type")]
    pub type_word: Option<String>,
    /// Its value where none is given.
    pub default: Option<serde_json::Value>,
    /// One sentence.
    pub about: Option<String>,
}

/// A point.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub struct PointView {
    /// Its address.
    pub address: String,
    /// For people.
    pub label: Option<String>,
    /// One sentence.
    pub about: Option<String>,
    /// The highest layer that declares it.
    pub layer: String,
    /// Where that is.
    pub declared: PlaceView,
    /// From which version of its layer on it is there.
    pub since: Option<String>,
    /// From which version of its layer on it should not be used any more.
    pub retired: Option<String>,
    /// What to use in place of a retired one.
    pub instead: Option<String>,
    /// Does it render without being offered to site editors?
    pub reserved: bool,
    /// Did a layer take it out of use?
    pub dropped: bool,
    /// Is it fired by the host, and never placed?
    pub moment: bool,
    /// How many levels of entries a menu spot shows.
    pub levels: Option<u64>,
    /// The type of a filter's value or of an option, in the words of JSON Schema.
    pub value: Option<serde_json::Value>,
    /// What a component may hold.
    pub holds: Vec<String>,
    /// What site editors can pick of it.
    pub offers: Vec<String>,
    /// The assets that a component or asset needs.
    pub needs: Vec<String>,
    /// What is known of an asset.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub asset: Option<AssetView>,
    /// What is known of a feature.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub feature: Option<FeatureView>,
    /// What renders it: a file, or a callback.
    pub renderer: Option<String>,
    /// The inputs of a component or template, the arguments of anything else.
    pub inputs: Vec<FieldView>,
    /// Where it is placed, or sent through.
    pub placements: Vec<PlacementView>,
    /// The points that hold it, for components.
    pub held_by: Vec<HolderView>,
    /// What is attached, in running order.
    pub slots: Vec<SlotView>,
    /// What fills it.
    pub fills: Vec<FillView>,
    /// The types of pages that get to it.
    pub reached_by: Vec<String>,
    /// What the template of a component or page sees; only where one point is shown.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub variables: Vec<VariableView>,
}

/// All points, or some.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub struct PointsView {
    /// [`VERSION`].
    pub version: u32,
    /// The points.
    pub points: Vec<PointView>,
}

impl PointsView {
    /// The points of a registry that a filter lets through, by kind and name.
    pub fn new(registry: &Registry, mut wanted: impl FnMut(&PointView) -> bool) -> PointsView {
        let mut points: Vec<&Point> = registry.points().filter(|point| !point.declared.is_empty()).collect();
        points.sort_by_key(|point| point.address);
        let points = points.into_iter().map(|point| PointView::new(registry, point));
        PointsView { version: VERSION, points: points.filter(|point| wanted(point)).collect() }
    }
}

impl PointView {
    /// One point.
    pub fn new(registry: &Registry, point: &Point) -> PointView {
        let types = |types| registry.type_names(types).into_iter().map(str::to_string).collect::<Vec<_>>();
        let declared = point.declared.last().map(|declared| declared.place);
        let start = Place { file: FileId(0), at: START };
        let declared = PlaceView::of(registry, declared.unwrap_or(start));
        let inputs = if point.address.kind == Kind::Template { &point.inputs } else { point.passed() };
        let placement = |id: &UseId| PlacementView {
            place: PlaceView::of(registry, registry.use_place(*id)),
            reached_by: types(registry.use_reached(*id)),
        };
        PointView {
            address: point.address.to_string(),
            label: point.label.map(|label| label.to_string()),
            about: point.about.map(|about| about.to_string()),
            layer: declared.layer.clone(),
            declared,
            since: point.since.as_ref().map(ToString::to_string),
            retired: point.retired.as_ref().map(|retired| retired.since.to_string()),
            instead: point.instead.map(|instead| instead.raw.to_string()),
            reserved: point.reserved,
            dropped: point.dropped.is_some(),
            moment: point.moment,
            levels: point.levels,
            value: point.schema().cloned(),
            holds: point.holds.iter().map(|(pattern, _)| pattern.raw.to_string()).collect(),
            offers: point
                .offers
                .iter()
                .flatten()
                .map(|(_, offer)| offer.label.map_or("", |label| label.as_str()).to_string())
                .collect(),
            needs: point.needs.iter().map(|(needed, _)| needed.raw.to_string()).collect(),
            asset: AssetView::new(registry, point),
            feature: FeatureView::new(registry, point, point.address),
            renderer: point.renderer.map(|renderer| match renderer {
                Renderer::Template(file) => registry.project().shown(file),
                Renderer::Callback(callback) => registry.callback_name(callback),
            }),
            inputs: inputs.iter().map(|input| FieldView::new(&input.field)).collect(),
            placements: point
                .uses
                .iter()
                .filter(|id| matches!(registry.use_of(**id).verb, Verb::Place | Verb::Through | Verb::With))
                .map(placement)
                .collect(),
            held_by: if point.address.kind.is_component() { holders(registry, point) } else { Vec::new() },
            slots: {
                let mut slots: Vec<&Slot> = point.slots.iter().chain(&point.detached).collect();
                // What is gone comes last.
                slots.sort_by_key(|slot| slot.detached.is_some());
                slots.into_iter().map(|slot| SlotView::new(registry, point, slot)).collect()
            },
            fills: fills(registry, point),
            reached_by: types(point.reached),
            variables: Vec::new(),
        }
    }

    /// One point, with the variables that its template sees.
    pub fn whole(registry: &Registry, point: &Point) -> PointView {
        let view = PointView::new(registry, point);
        let is_rendered = point.address.kind.is_component() || point.address.kind == Kind::Template;
        let variables = if is_rendered { variables(registry, point) } else { Vec::new() };
        PointView { variables, ..view }
    }
}

impl FieldView {
    fn new(field: &crate::scan::Field) -> FieldView {
        FieldView {
            name: field.name.to_string(),
            type_word: field.type_word().map(str::to_string),
            default: field.default().cloned(),
            about: field.schema.get("about").and_then(|about| about.as_str()).map(str::to_string),
        }
    }
}
