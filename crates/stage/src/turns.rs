//! Attachments having their turn: conditions, what became of each, and failures with their places.

use std::time::Instant;

use minijinja::Value;
use truehook_core::address::Address;
use truehook_core::link::{Callback, Point, Runs, Slot};
use truehook_core::source::{FileId, LineIndex, Place};

use crate::engine::CallError;
use crate::markup;
use crate::run::{Failure, Run, Step, StepState};
use crate::urls;

/// What a step was given, and what came of it.
pub type Values = Option<(String, String)>;

/// Lets one attachment have its turn: checks its condition, runs it, notes what became of it. `given`
/// is what is piped through it.
pub fn run_slot(
    run: &Run,
    point: &Point,
    slot: &Slot,
    given: Option<&Value>,
    act: impl FnOnce(&Run, Callback) -> Result<Value, CallError>,
) -> Option<Value> {
    let Runs::Callback(_, found) = slot.runs else { return None };
    if !is_on(run, point, slot) {
        return None;
    }
    let begun = Instant::now();
    let Some(callback) = found else {
        note_step(run, point, slot, StepState::Failed, begun, None);
        let name = run.registry.slot_name(slot);
        run.fail_at(slot.place, Some(point.address), Some(name), "the callback is not there");
        return None;
    };
    // Nothing that a callback does is part of the component in whose template its point stands.
    let outcome = run.within(None, || act(run, callback));
    let (state, value, error) = match outcome {
        Ok(value) => (StepState::Ran, Some(value), None),
        Err(error) => (StepState::Failed, None, Some(error)),
    };
    let values = run.watched.then(|| {
        let text = |value: Option<&Value>| value.map(shown).unwrap_or_default();
        (text(given), text(value.as_ref()))
    });
    note_step(run, point, slot, state, begun, values);
    if let Some(error) = error {
        fail_callback(run, point.address, callback, error);
    }
    value
}

/// Is an attachment on for this page? One whose condition is broken never is.
pub fn is_on(run: &Run, point: &Point, slot: &Slot) -> bool {
    if slot.switched_off {
        let name = run.registry.slot_name(slot);
        run.fail_at(slot.place, Some(point.address), Some(name), "its condition can't be evaluated, so it never runs");
        note_step(run, point, slot, StepState::Failed, Instant::now(), None);
        return false;
    }
    let on = holds(run, slot);
    if !on {
        note_step(run, point, slot, StepState::Off, Instant::now(), None);
    }
    on
}

/// Does an attachment's condition hold on this page?
pub fn holds(run: &Run, slot: &Slot) -> bool {
    if run.left_out.contains(&slot.place) {
        return false;
    }
    let Some(when) = &slot.when else { return true };
    markup::holds(when, run.globals()).unwrap_or_else(|error| {
        let at = Place { file: slot.place.file, at: when.at };
        run.fail_at(at, None, Some(run.registry.slot_name(slot)), format!("its condition can't be evaluated: {error}"));
        false
    })
}

/// Notes what became of an attachment.
pub fn note_step(run: &Run, point: &Point, slot: &Slot, state: StepState, begun: Instant, values: Values) {
    let name = run.slot_name(slot);
    let time = begun.elapsed();
    let step = Step { point: point.address, slot: Some(slot.place), name, state, time, values };
    run.trace.borrow_mut().steps.push(step);
}

/// Notes what became of a callback that renders a component.
pub fn note_render(run: &Run, point: Address, callback: Callback, state: StepState, begun: Instant, values: Values) {
    let name = run.registry.callback_name(callback).into();
    run.trace.borrow_mut().steps.push(Step { point, slot: None, name, state, time: begun.elapsed(), values });
}

/// A value for people, in the trace: as JSON, markup as it is.
pub fn shown(value: &Value) -> String {
    match value.is_safe() {
        true => value.to_string(),
        false if value.is_undefined() => "nothing".into(),
        false => serde_json::to_string(value).unwrap_or_else(|_| format!("{value:?}")),
    }
}

/// What to say of a callback that returned the wrong type.
pub fn wrong_type(wanted: &str, got: &str) -> CallError {
    CallError { message: format!("returned {got} where {wanted} belongs"), place: None }
}

/// Notes a callback's failure, at the place that the engine names, else where it is exported.
pub fn fail_callback(run: &Run, point: Address, callback: Callback, error: CallError) {
    let registry = &run.registry;
    let name = registry.callback_name(callback);
    let known = error.place.and_then(|(module, line, column)| {
        let (layer, path) = module.split_once(':')?;
        let layer = registry.project.layer_named(layer)?;
        let file = registry.project.find(layer, &format!("code/{path}"))?;
        Some((registry.project.shown(file), line, column))
    });
    match (known, registry.export(callback)) {
        (None, Some(export)) => {
            run.fail_at(Place { file: callback.file, at: export.at }, Some(point), Some(name), error.message);
        }
        (place, _) => {
            run.fail(Failure { point: Some(point.to_string()), source: Some(name), place, message: error.message });
        }
    }
}

/// Notes a template's failure, at the place that the template engine names.
pub fn fail_template(run: &Run, point: Option<Address>, file: FileId, error: &minijinja::Error) {
    let registry = &run.registry;
    let named = error.name().and_then(|name| {
        let (layer, path) = name.split_once(':')?;
        registry.project.find(registry.project.layer_named(layer)?, &format!("markup/{path}"))
    });
    let at = named.unwrap_or(file);
    let text = registry.project.file(at).text();
    let index = LineIndex::new(text);
    let (line, column) = match (error.range(), error.line()) {
        (Some(range), _) => index.position(urls::original(text, range.start) as u32),
        (None, line) => (line.unwrap_or(1), 1),
    };
    let detail = error.detail().map_or_else(|| error.kind().to_string(), str::to_string);
    run.fail(Failure {
        point: point.map(|point| point.to_string()),
        source: Some(registry.template_name(file)),
        place: Some((registry.project.shown(at), line, column)),
        message: format!("the template can't be rendered: {detail}"),
    });
}
