//! Points, with all that the layers say about them.

use serde::Serialize;

use super::fills::{FillView, HolderView, fills, holders};
use super::slots::{SlotState, SlotView};
use super::variables::{VariableView, variables};
use super::{AssetView, FeatureView, PlaceView, PresenceView, VERSION};
use crate::address::Kind;
use crate::link::{Point, Registry, Renderer, START, Slot, UseId, component_template};
use crate::read::FileKind;
use crate::scan::Verb;
use crate::source::{FileId, Place};

/// A placement of a point.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, schemars::JsonSchema)]
pub struct PlacementView {
    /// Where.
    #[serde(flatten)]
    pub place: PlaceView,
    /// The pages that get there.
    #[serde(flatten)]
    pub presence: PresenceView,
}

/// A variable: an input of a component, or an argument.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, schemars::JsonSchema)]
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
    /// What it may be, where that is one of several.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub choices: Vec<serde_json::Value>,
    /// What is in it, where it is a table, or a list of tables.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub fields: Vec<FieldView>,
}

/// What renders a component or page, in one layer.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, schemars::JsonSchema)]
pub struct RendererView {
    /// The layer.
    pub layer: String,
    /// A template, as a path below that layer's folder, or a callback.
    pub name: String,
    /// Is it the one that renders?
    pub in_force: bool,
}

/// A point.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, schemars::JsonSchema)]
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
    /// What would render it, layer by layer, the one in force first.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub renderers: Vec<RendererView>,
    /// The markup that goes around it.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub wrap: Option<String>,
    /// The markup that goes around the title of an item in it.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub wrap_title: Option<String>,
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
    /// The pages that get to it.
    #[serde(flatten)]
    pub presence: PresenceView,
    /// Where templates, callbacks and conditions read it, of an option.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub read: Vec<PlaceView>,
    /// What the template of a component or page sees; only where one point is shown.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub variables: Vec<VariableView>,
}

/// All points, or some.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, schemars::JsonSchema)]
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
        let declared = point.declared.last().map(|declared| declared.place);
        let start = Place { file: FileId(0), at: START };
        let declared = PlaceView::of(registry, declared.unwrap_or(start));
        let inputs = if point.address.kind == Kind::Template { &point.inputs } else { point.passed() };
        let placement = |id: &UseId| PlacementView {
            place: PlaceView::of(registry, registry.use_place(*id)),
            presence: PresenceView::of_use(registry, *id),
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
            renderers: renderers(registry, point),
            wrap: point.wrap.map(|wrap| wrap.to_string()),
            wrap_title: point.wrap_title.map(|wrap| wrap.to_string()),
            inputs: inputs.iter().map(|input| FieldView::new(&input.field)).collect(),
            placements: point
                .uses
                .iter()
                .filter(|id| matches!(registry.use_of(**id).verb, Verb::Place | Verb::Through | Verb::With))
                .map(placement)
                .collect(),
            held_by: if point.address.kind.is_component() { holders(registry, point) } else { Vec::new() },
            slots: {
                let mut slots: Vec<&Slot> = point.slots.iter().chain(point.detached.iter()).collect();
                // What is gone comes last.
                slots.sort_by_key(|slot| slot.detached.is_some());
                slots.into_iter().map(|slot| SlotView::new(registry, point, slot)).collect()
            },
            fills: fills(registry, point),
            presence: PresenceView::of_point(registry, point),
            read: match point.address.kind {
                Kind::Option => registry.option_references(point.address, false).into_iter(),
                _ => Vec::new().into_iter(),
            }
            .map(|reference| PlaceView::of(registry, reference.from))
            .collect(),
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

impl PointView {
    /// How it is with the point, in words: `dropped`, `reserved`, `off`, `unplaced`, `empty`.
    pub fn states(&self) -> Vec<&'static str> {
        let kind = self.address.split(':').next().unwrap_or_default();
        let kind = Kind::from_word(kind);
        let mut states = Vec::new();
        states.extend(self.dropped.then_some("dropped"));
        states.extend(self.reserved.then_some("reserved"));
        states.extend(self.feature.as_ref().is_some_and(|feature| !feature.on).then_some("off"));
        let is_placed = kind.is_some_and(Kind::needs_placement);
        let unplaced =
            is_placed && self.placements.is_empty() && self.held_by.is_empty() && !self.moment && !self.dropped;
        states.extend(unplaced.then_some("unplaced"));
        let on = || self.slots.iter().any(|slot| slot.state != SlotState::Detached);
        let empty = match kind {
            // What the host itself does at its own, nobody sees here.
            Some(Kind::Hook | Kind::Filter) => !on() && self.layer != "host",
            Some(Kind::Region | Kind::Area | Kind::Menu) => !on() && self.fills.is_empty() && self.address != main(),
            _ => false,
        };
        states.extend((empty && !unplaced && !self.dropped).then_some("empty"));
        states
    }
}

/// The region of the page's body, which is never empty.
fn main() -> String {
    crate::link::body_region().to_string()
}

/// What would render a point: the templates of that name, or the callback that was named.
fn renderers(registry: &Registry, point: &Point) -> Vec<RendererView> {
    let layer_of = |file: FileId| registry.project().layer(registry.project().file(file).layer).name.to_string();
    let template = |file: FileId, in_force| RendererView {
        layer: layer_of(file),
        name: registry.project().file(file).path.to_string(),
        in_force,
    };
    let stack =
        |name: &str| registry.files_named(FileKind::Template, name).iter().rev().copied().collect::<Vec<FileId>>();
    match point.renderer {
        Some(Renderer::Template(chosen)) => {
            let name = registry.project().file(chosen).name();
            let mut all: Vec<RendererView> = vec![template(chosen, true)];
            all.extend(stack(name).into_iter().filter(|file| *file != chosen).map(|file| template(file, false)));
            all
        }
        Some(Renderer::Callback(callback)) => {
            let own =
                RendererView { layer: layer_of(callback.file), name: registry.callback_name(callback), in_force: true };
            let covered = stack(&component_template(point.address));
            [own].into_iter().chain(covered.into_iter().map(|file| template(file, false))).collect()
        }
        None => Vec::new(),
    }
}

impl FieldView {
    fn new(field: &crate::scan::Field) -> FieldView {
        FieldView::of(field.name.as_str(), &field.schema, 0)
    }

    /// A schema, with what is in it; depth keeps what refers to itself short.
    fn of(name: &str, schema: &serde_json::Value, depth: usize) -> FieldView {
        let text = |key: &str| schema.get(key).and_then(|text| text.as_str()).map(str::to_string);
        let inner = schema.get("properties").or_else(|| schema.get("items")?.get("properties"));
        let inner = inner.and_then(|inner| inner.as_object()).into_iter().flatten().filter(|_| depth < 4);
        FieldView {
            name: name.to_string(),
            type_word: text("type"),
            default: schema.get("default").cloned(),
            about: text("about"),
            choices: schema.get("enum").and_then(|all| all.as_array()).cloned().unwrap_or_default(),
            fields: inner.map(|(name, schema)| FieldView::of(name, schema, depth + 1)).collect(),
        }
    }
}
