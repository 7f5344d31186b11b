//! Points, with all that the layers say about them.

use serde::Serialize;

use super::{AssetView, FeatureView, PlaceView, VERSION};
use crate::address::{Kind, Role};
use crate::link::{
    PAGE_KEYS, Point, Registry, Renderer, Runs, SITE_KEYS, START, Slot, THEME_KEYS, UseId, body_partial, body_region,
    menu_partial,
};
use crate::scan::{FillContent, Item, Verb};
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

/// One attachment.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub struct SlotView {
    /// The callback's name, or the partial's address.
    pub callback: String,
    /// What it does.
    pub role: String,
    /// Lower runs earlier.
    pub priority: u8,
    /// The layer that attaches it.
    pub layer: String,
    /// `on`, or what became of it: `replaced`, where something else runs in its place; `detached`; or
    /// `broken`.
    pub state: String,
    /// Who replaced or detached it, and where.
    pub by: Option<ByView>,
    /// Can layers above neither detach nor replace it?
    pub sealed: bool,
    /// What it has to run before.
    pub before: Vec<String>,
    /// What it has to run after.
    pub after: Vec<String>,
    /// The condition.
    pub when: Option<String>,
    /// Where it is attached.
    pub place: PlaceView,
}

/// What a higher layer did to an attachment.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub struct ByView {
    /// The layer.
    pub layer: String,
    /// What runs in its place, where it was replaced.
    pub callback: Option<String>,
    /// Where that is said.
    pub place: PlaceView,
}

/// An item that the site put into a point, or the menu that fills a menu spot.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub struct FillView {
    /// The component's address.
    pub component: Option<String>,
    /// The menu's name.
    pub menu: Option<String>,
    /// The condition.
    pub when: Option<String>,
    /// Where it is filled in.
    pub place: PlaceView,
    /// What the item holds.
    pub holds: Vec<FillView>,
}

impl FillView {
    /// What fills the point: a component's address, or a menu's name.
    pub fn what(&self) -> &str {
        self.component.as_deref().or(self.menu.as_deref()).unwrap_or_default()
    }
}

/// A point that holds a component: as an item, or attached in place of a callback.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub struct HolderView {
    /// The holder's address.
    pub point: String,
    /// Where it is said.
    pub place: PlaceView,
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

/// Something that a template can read.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub struct VariableView {
    /// Its name, joined by dots.
    pub name: String,
    /// Its type, in the words of JSON Schema and `markup`.
    #[serde(rename = "type")]
    pub type_word: Option<String>,
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
            retired: point.retired.as_ref().map(|(version, _, _)| version.to_string()),
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
            feature: FeatureView::new(registry, point),
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

fn variables(registry: &Registry, point: &Point) -> Vec<VariableView> {
    let text = |word: Option<&str>| word.map(str::to_string);
    let own = point.inputs.iter().map(|input| (input.field.name.to_string(), text(input.field.type_word())));
    let under = |root: &'static str, keys: Vec<(String, Option<String>)>| {
        keys.into_iter().map(move |(key, word)| (format!("{root}.{key}"), word))
    };
    let given = |keys: &[&str]| keys.iter().map(|key| (key.to_string(), text(Some(type_of_key(key))))).collect();
    let mut page: Vec<(String, Option<String>)> = given(&PAGE_KEYS);
    for page_type in registry.types() {
        let shown = point.address.kind != Kind::Template
            || point.address.name == page_type.name
            || point.address.name == "page";
        for field in page_type.keys.iter().filter(|_| shown) {
            if !page.iter().any(|(known, _)| field.name == *known) {
                page.push((field.name.to_string(), text(field.type_word())));
            }
        }
    }
    let options = registry.points().filter(|point| point.address.kind == Kind::Option);
    let options = options.map(|option| {
        let word = option.schema().and_then(|schema| schema.get("type")?.as_str());
        (option.address.name.to_string(), text(word))
    });
    own.chain(under("page", page))
        .chain(under("site", given(&SITE_KEYS)))
        .chain(under("theme", given(&THEME_KEYS)))
        .chain(under("options", options.collect()))
        .map(|(name, type_word)| VariableView { name, type_word })
        .collect()
}

/// The type of a key that every page, site or theme has.
fn type_of_key(key: &str) -> &'static str {
    match key {
        "body" | "root" => "markup",
        "sections" => "array",
        "data" | "menus" => "object",
        _ => "string",
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

impl SlotView {
    fn new(registry: &Registry, point: &Point, slot: &Slot) -> SlotView {
        let there = matches!(slot.runs, Runs::Callback(_, Some(_)) | Runs::Partial(_, true));
        let name_of = |layer| registry.project().layer(layer).name.to_string();
        let (state, by) = match (slot.detached, slot.replaced) {
            (Some((layer, place)), _) => ("detached", Some((layer, place, None))),
            (None, Some((_, layer, place))) => ("replaced", Some((layer, place, Some(registry.slot_name(slot))))),
            (None, None) if there && !slot.switched_off => ("on", None),
            (None, None) => ("broken", None),
        };
        SlotView {
            callback: registry.first_name(slot),
            role: match slot.runs {
                Runs::Partial(..) => "partial".into(),
                Runs::Callback(..) => point.address.kind.role().map_or("", Role::word).into(),
            },
            priority: slot.priority,
            layer: name_of(slot.layer),
            state: state.into(),
            by: by.map(|(layer, place, callback)| ByView {
                layer: name_of(layer),
                callback,
                place: PlaceView::of(registry, place),
            }),
            sealed: slot.sealed,
            before: slot.before.iter().map(|name| name.to_string()).collect(),
            after: slot.after.iter().map(|name| name.to_string()).collect(),
            when: slot.when.as_ref().map(|when| when.text.to_string()),
            place: PlaceView::of(registry, slot.place),
        }
    }

    /// What runs: what was attached, or what a higher layer put in its place.
    pub fn running(&self) -> &str {
        self.by.as_ref().and_then(|by| by.callback.as_deref()).unwrap_or(&self.callback)
    }

    /// Does this slot hold a callback of that role?
    pub fn is(&self, role: Role) -> bool {
        self.role == role.word()
    }
}

fn holders(registry: &Registry, component: &Point) -> Vec<HolderView> {
    let mut holders = Vec::new();
    let mut hold = |point: &Point, place: Place| {
        holders.push(HolderView { point: point.address.to_string(), place: PlaceView::of(registry, place) });
    };
    for point in registry.points() {
        for item in point.items.iter().filter(|item| item.component == Some(component.address)) {
            hold(point, item.place);
        }
        for slot in &point.slots {
            if matches!(slot.runs, Runs::Partial(address, _) if address == component.address) {
                hold(point, slot.place);
            }
        }
    }
    for item in registry.page_sections().iter().filter(|item| item.component == Some(component.address)) {
        holders.push(HolderView { point: "sections".into(), place: PlaceView::of(registry, item.place) });
    }
    let mut hold = |point: &Point, place: Place| {
        holders.push(HolderView { point: point.address.to_string(), place: PlaceView::of(registry, place) });
    };
    if component.address == menu_partial() {
        let spots = registry.points().filter(|point| point.address.kind == Kind::Menu);
        spots.filter_map(|point| Some((point, point.declared.last()?.place))).for_each(|(point, at)| hold(point, at));
    }
    if component.address == body_partial()
        && let Some(point) = registry.point(body_region())
        && let Some(declared) = point.declared.last()
    {
        hold(point, declared.place);
    }
    holders
}

fn fills(registry: &Registry, point: &Point) -> Vec<FillView> {
    let mut fills = Vec::new();
    for (file, at) in &point.fills {
        match registry.fill_of(*file, *at).map(|fill| &fill.content) {
            Some(FillContent::Items(items)) => fills.extend(items.iter().map(|item| fill(registry, *file, item))),
            Some(FillContent::Menu(menu)) => fills.push(FillView {
                component: None,
                menu: Some(menu.name.to_string()),
                when: None,
                place: PlaceView::of(registry, Place { file: *file, at: menu.at }),
                holds: Vec::new(),
            }),
            None => {}
        }
    }
    fills
}

fn fill(registry: &Registry, file: FileId, item: &Item) -> FillView {
    FillView {
        component: Some(item.component.raw.to_string()),
        menu: None,
        when: item.when.as_ref().map(|when| when.text.to_string()),
        place: PlaceView::of(registry, Place { file, at: item.component.at }),
        holds: item.holds.iter().map(|held| fill(registry, file, held)).collect(),
    }
}
