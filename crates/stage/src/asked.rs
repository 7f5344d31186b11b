//! One page, rendered to tell why something on it does, or does not, show.

use truehook_core::source::Place;
use truehook_core::why::{Asked, Seen, SeenState, SeenStep};

use crate::record::trace::StepState;
use crate::stage::{Rendered, Stage};

impl Stage {
    /// What a page tells of conditions and callbacks. For each group of attachments in question the page is
    /// rendered once more without them, where one of them ran. Nothing where there is no such page.
    pub fn asked(&self, path: &str, groups: &[Vec<Place>]) -> Option<Asked> {
        let rendered = self.watch(path)?;
        let info = self.page(path)?;
        let page_type = self.registry().types().iter().position(|known| known.name == *info.page_type);
        let mut seen = seen(&rendered);
        let in_vain = |group: &&Vec<Place>| {
            let ran = |step: &&SeenStep| step.state == SeenState::Ran && group.contains(&step.slot);
            let without = seen.steps.iter().any(|step| ran(&step)).then(|| self.render_without(path, group));
            without.flatten().is_some_and(|without| without.html == rendered.html)
        };
        let spare = groups.iter().filter(in_vain).flatten().copied().collect();
        seen.spare = spare;
        Some(Asked { path: path.to_string(), page_type, seen })
    }
}

/// What a page tells about its points and attachments.
fn seen(rendered: &Rendered) -> Seen {
    let steps = rendered.trace.steps.iter().filter_map(|step| {
        let slot = step.slot?;
        let values = step.values.as_ref();
        let failure = rendered.failures.iter().find(|failure| {
            failure.source.as_deref() == Some(&*step.name) && failure.point.as_deref() == Some(&step.point.to_string())
        });
        Some(SeenStep {
            slot,
            state: match step.state {
                StepState::Ran => SeenState::Ran,
                StepState::Off => SeenState::Off,
                StepState::Failed => SeenState::Failed,
            },
            failure: failure.map(|failure| failure.message.clone()),
            // A partial that is attached has no value of its own; whether it shows is seen in the page.
            gave_nothing: values.is_some_and(|values| values.after.trim().is_empty()),
            gave_the_same: values.is_some_and(|values| values.before == values.after),
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
