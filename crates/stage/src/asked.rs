//! One page, rendered to tell why something on it does, or does not, show.

use truehook_core::link::{Callback, Runs, Slot};
use truehook_core::source::Place;
use truehook_core::why::{Asked, Seen, SeenStep};

use crate::{Rendered, Stage, StepState};

impl Stage {
    /// What a page tells of conditions and callbacks. Where a callback is in question, the page is rendered a
    /// second time without it. Nothing where there is no such page.
    pub fn asked(&self, path: &str, callback: Option<Callback>) -> Option<Asked> {
        let rendered = self.watch(path)?;
        let info = self.pages.info(self.pages.position(path)?);
        let page_type = self.registry.types.iter().position(|known| known.name == *info.page_type);
        let mut seen = seen(&rendered);
        seen.spare = callback.map(|callback| spare(self, callback, path, &rendered)).unwrap_or_default();
        Some(Asked { path: path.to_string(), page_type, seen })
    }
}

/// A callback's attachments, where it ran and the page is the same without them.
fn spare(stage: &Stage, callback: Callback, path: &str, rendered: &Rendered) -> Vec<Place> {
    let is_it = |slot: &&Slot| matches!(slot.runs, Runs::Callback(_, Some(found)) if found == callback);
    let slots = stage.registry.points.values().flat_map(|point| &point.slots).filter(is_it);
    let places: Vec<Place> = slots.map(|slot| slot.place).collect();
    let ran = rendered.trace.steps.iter().any(|step| step.slot.is_some_and(|slot| places.contains(&slot)));
    match ran.then(|| stage.render_without(path, &places)).flatten() {
        Some(without) if without.html == rendered.html => places,
        _ => Vec::new(),
    }
}

/// What a page tells about its points and attachments.
fn seen(rendered: &Rendered) -> Seen {
    let steps = rendered.trace.steps.iter().filter_map(|step| {
        let slot = step.slot?;
        let (before, after) = step.values.clone().unwrap_or_default();
        let failure = rendered.failures.iter().find(|failure| {
            failure.source.as_deref() == Some(&*step.name) && failure.point.as_deref() == Some(&step.point.to_string())
        });
        Some(SeenStep {
            slot,
            state: match step.state {
                StepState::Ran => "ran",
                StepState::Off => "off",
                StepState::Failed => "failed",
            },
            failure: failure.map(|failure| failure.message.clone()),
            // A partial that is attached has no value of its own; whether it shows is seen in the page.
            gave_nothing: step.values.is_some() && after.trim().is_empty(),
            gave_the_same: step.values.is_some() && before == after,
        })
    });
    Seen {
        points: rendered.trace.points.clone(),
        shown: rendered.tree.shown(),
        steps: steps.collect(),
        assets: rendered.assets.clone(),
        spare: Vec::new(),
    }
}
