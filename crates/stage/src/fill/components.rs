//! Components, each rendered by its template or callback.

use std::time::Instant;

use minijinja::Value;
use truehook_core::address::Address;
use truehook_core::link::{Callback, Point, Renderer};
use truehook_core::source::FileId;

use super::Filler;
use crate::engines::templates::{Inputs, Wrap};
use crate::host::{Call, CallError};
use crate::points::components::{self, markup_of};
use crate::points::turns::note_render;
use crate::record::holes::Frame;
use crate::record::trace::{Failure, StepState, StepValues};
use crate::value::{Given, shown};

impl Filler<'_> {
    /// Renders a component with its inputs; nothing where that fails, which is noted.
    pub(super) fn component(&self, point: &Point, given: Given, held: Vec<Value>) -> Option<String> {
        let inputs = components::inputs(&self.here(), point, given);
        let frame = Frame { component: point.address, held };
        let markup = self.scene.page.within(Some(frame), || match point.renderer {
            Some(Renderer::Template(file)) => self.template(file, inputs, Some(point.address)),
            Some(Renderer::Callback(callback)) => self.by_callback(point, callback, inputs),
            None => {
                self.fail(Failure::at(point.address, "nothing renders it"));
                None
            }
        })?;
        match point.wrap {
            Some(_) => self.wrapped(Wrap::Whole, point, vec![("body", Value::from_safe_string(markup))]),
            None => Some(markup),
        }
    }

    pub(super) fn template(&self, file: FileId, inputs: Inputs, point: Option<Address>) -> Option<String> {
        let rendered = self.templates.render(self.scene, file, inputs);
        let about = |failure| Failure { point: point.map(|point| point.to_string()), ..failure };
        rendered.map_err(|failure| self.fail(about(failure))).ok()
    }

    pub(super) fn by_callback(&self, point: &Point, callback: Callback, inputs: Inputs) -> Option<String> {
        let begun = Instant::now();
        let here = self.here();
        let value = Value::from_pairs(inputs);
        let result = here.calls.call(&Call { callback, piped: Some(&value), args: &[], point: point.address });
        let markup = result.and_then(|value| markup_of(&value));
        let state = if markup.is_ok() { StepState::Ran } else { StepState::Failed };
        let after = || markup.as_ref().cloned().unwrap_or_default();
        let values = self.scene.page.watched.then(|| StepValues { before: shown(&value), after: after() });
        note_render(&here, point.address, callback, state, begun, values);
        let fail = |error: CallError| {
            self.scene.page.fail_callback(point.address, callback, error.message, error.place);
        };
        markup.map_err(fail).ok()
    }

    /// Puts the wrapping markup of a point around something.
    pub(super) fn wrapped(&self, wrap: Wrap, point: &Point, values: Inputs) -> Option<String> {
        let result = self.templates.wrap(self.scene, wrap, point.address, values);
        result.map_err(|message| self.fail(Failure::at(point.address, message))).ok()
    }
}
