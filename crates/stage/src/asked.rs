//! One page, rendered to tell why something on it does, or does not, show.

use std::convert::Infallible;

use truehook_core::source::Place;
use truehook_core::why::{Asked, Seen, SeenState, SeenStep};

use crate::record::trace::StepState;
use crate::stage::{Manner, Rendered, Stage};

impl Stage {
    /// What a page tells of conditions and callbacks. For each group of attachments in question the page is
    /// rendered once more without them, where one of them ran. Nothing where there is no such page.
    pub fn asked(&self, path: &str, groups: &[Vec<Place>]) -> Option<Asked> {
        self.asked_by(path, groups, |manner| Ok::<_, Infallible>(self.rendered(path, manner))).unwrap_or_default()
    }

    /// As [`asked`](Stage::asked), of pages that are rendered elsewhere.
    ///
    /// # Errors
    /// Those of the rendering.
    pub fn asked_by<E>(
        &self,
        path: &str,
        groups: &[Vec<Place>],
        mut render: impl FnMut(Manner) -> Result<Option<Rendered>, E>,
    ) -> Result<Option<Asked>, E> {
        let Some(info) = self.page(path) else { return Ok(None) };
        let Some(rendered) = render(Manner::watched())? else { return Ok(None) };
        let page_type = self.registry().types().iter().position(|known| known.name == *info.page_type);
        let mut seen = seen(&rendered);
        for group in groups {
            let ran = |step: &SeenStep| step.state == SeenState::Ran && group.contains(&step.slot);
            if !seen.steps.iter().any(ran) {
                continue;
            }
            let without = render(Manner::without(group))?;
            if without.is_some_and(|without| without.html == rendered.html) {
                seen.spare.extend(group);
            }
        }
        Ok(Some(Asked { path: path.to_string(), page_type, seen }))
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
        met: rendered.met.clone(),
        spare: Vec::new(),
    }
}
