//! What points hold, and what holds them.

use serde::Serialize;

use super::PlaceView;
use crate::address::Kind;
use crate::link::{Point, Registry, Runs, body_partial, body_region, menu_partial};
use crate::scan::{FillContent, Item};
use crate::source::{FileId, Place};

/// An item that the site put into a point, or the menu that fills a menu spot.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, schemars::JsonSchema)]
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
#[derive(Clone, Debug, PartialEq, Eq, Serialize, schemars::JsonSchema)]
pub struct HolderView {
    /// The holder's address.
    pub point: String,
    /// Where it is said.
    pub place: PlaceView,
}

pub(super) fn holders(registry: &Registry, component: &Point) -> Vec<HolderView> {
    let mut holders = Vec::new();
    let mut hold = |point: &Point, place: Place| {
        holders.push(HolderView { point: point.address.to_string(), place: PlaceView::of(registry, place) });
    };
    for point in registry.points() {
        for item in point.items.iter().filter(|item| item.component == Some(component.address)) {
            hold(point, item.place);
        }
        for slot in point.slots.iter() {
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

pub(super) fn fills(registry: &Registry, point: &Point) -> Vec<FillView> {
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
