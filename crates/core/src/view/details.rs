//! A point with the lines of the files that speak of it, and what can be done about it.

use serde::Serialize;

use super::{ExcerptView, PointView, SlotView, WayView, ways};
use crate::link::{Callback, Point, Registry, Renderer, Runs, Slot};

/// An attachment, with its callback's own lines.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, schemars::JsonSchema)]
pub struct StepView {
    /// The attachment.
    #[serde(flatten)]
    pub slot: SlotView,
    /// What runs.
    pub runs: String,
    /// Its function.
    pub source: Option<ExcerptView>,
}

/// A point in full.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, schemars::JsonSchema)]
pub struct DetailView {
    /// What the layers say of it.
    #[serde(flatten)]
    pub point: PointView,
    /// The lines that declare it.
    pub declaration: Option<ExcerptView>,
    /// The lines that place it, or send a value through it.
    pub placed: Vec<ExcerptView>,
    /// What renders it.
    pub rendered: Option<ExcerptView>,
    /// What is attached, in running order, what is detached last.
    pub steps: Vec<StepView>,
    /// What can be done about it.
    pub ways: Vec<WayView>,
}

impl DetailView {
    /// A point of a registry.
    pub fn new(registry: &Registry, point: &Point) -> DetailView {
        let view = PointView::new(registry, point);
        let placed = view.placements.iter().filter_map(|placed| ExcerptView::around(registry, &placed.place, 1));
        let placed = placed.collect();
        let rendered = match point.renderer {
            Some(Renderer::Template(file)) => Some(ExcerptView::file(registry, file)),
            Some(Renderer::Callback(callback)) => ExcerptView::function(registry, callback),
            None => None,
        };
        let mut slots: Vec<&Slot> = point.slots.iter().chain(point.detached.iter()).collect();
        slots.sort_by_key(|slot| slot.detached.is_some());
        let steps = slots.iter().zip(&view.slots).map(|(slot, view)| StepView {
            slot: view.clone(),
            runs: view.running().to_string(),
            source: source(registry, slot),
        });
        DetailView {
            declaration: ExcerptView::table(registry, &view.declared),
            placed,
            rendered,
            steps: steps.collect(),
            ways: ways(registry, point),
            point: view,
        }
    }
}

/// The function that an attachment runs; of a partial, what renders it.
fn source(registry: &Registry, slot: &Slot) -> Option<ExcerptView> {
    let callback = |callback: Callback| ExcerptView::function(registry, callback);
    match slot.runs {
        Runs::Callback(_, Some(found)) => callback(found),
        Runs::Callback(_, None) => None,
        Runs::Partial(address, _) => match registry.point(address)?.renderer? {
            Renderer::Template(file) => Some(ExcerptView::file(registry, file)),
            Renderer::Callback(found) => callback(found),
        },
    }
}
