//! Attachments having their turn: conditions, what runs, what became of each.

use std::borrow::Cow;
use std::time::Instant;

use minijinja::Value;
use truehook_core::address::Address;
use truehook_core::link::{Callback, Point, Runs, Slot};

use crate::host::{CallError, Here};
use crate::record::trace::{Step, StepState, StepValues};
use crate::value::{from_json, shown};

/// What callbacks at a point get as its arguments: what was passed, and the defaults of the others.
pub fn with_defaults<'a>(point: &Point, args: &'a [(String, Value)]) -> Cow<'a, [(String, Value)]> {
    let is_given = |name: &str| args.iter().any(|(given, _)| given == name);
    let lacking = point.args.iter().filter(|arg| !is_given(&arg.field.name));
    let defaults: Vec<(String, Value)> =
        lacking.filter_map(|arg| Some((arg.field.name.to_string(), from_json(arg.field.default()?)))).collect();
    match defaults.is_empty() {
        true => Cow::Borrowed(args),
        false => Cow::Owned(args.iter().cloned().chain(defaults).collect()),
    }
}

/// Lets one attachment have its turn: checks its condition, runs it, notes what became of it. `given`
/// is what is piped through it.
pub fn run_slot(
    here: &Here<'_>,
    point: &Point,
    slot: &Slot,
    given: Option<&Value>,
    act: impl FnOnce(Callback) -> Result<Value, CallError>,
) -> Option<Value> {
    let Runs::Callback(_, found) = slot.runs else { return None };
    if !is_on(here, point, slot) {
        return None;
    }
    let page = here.page;
    let begun = Instant::now();
    let Some(callback) = found else {
        note_step(here, point, slot, StepState::Failed, begun, None);
        let name = page.registry().slot_name(slot);
        let why = match page.registry().unparsed_module(&name, slot.layer) {
            Some(file) => format!("{} does not parse", page.registry().project().shown(file)),
            None => "the callback is not there".to_string(),
        };
        page.fail_at(slot.place, Some(point.address), Some(name), why);
        return None;
    };
    // Nothing that a callback does is part of the component in whose template its point stands.
    let outcome = page.within(None, || act(callback));
    let (state, value, error) = match outcome {
        Ok(value) => (StepState::Ran, Some(value), None),
        Err(error) => (StepState::Failed, None, Some(error)),
    };
    let text = |value: Option<&Value>| value.map(shown).unwrap_or_default();
    let values = page.watched.then(|| StepValues { before: text(given), after: text(value.as_ref()) });
    note_step(here, point, slot, state, begun, values);
    if let Some(error) = error {
        page.fail_callback(point.address, callback, error.message, error.place);
    }
    value
}

/// Is an attachment on for this page? One whose condition is broken never is. Either is noted.
pub fn is_on(here: &Here<'_>, point: &Point, slot: &Slot) -> bool {
    if slot.switched_off {
        here.page.fail_condition(point, slot, "its condition can't be evaluated, so it never runs");
        note_step(here, point, slot, StepState::Failed, Instant::now(), None);
        return false;
    }
    let on = holds(here, point, slot);
    if !on {
        note_step(here, point, slot, StepState::Off, Instant::now(), None);
    }
    on
}

/// Does an attachment's condition hold on this page?
pub fn holds(here: &Here<'_>, point: &Point, slot: &Slot) -> bool {
    if here.page.left_out.contains(&slot.place) {
        return false;
    }
    let Some(when) = &slot.when else { return true };
    here.host.holds(here, when.text).unwrap_or_else(|error| {
        here.page.fail_condition(point, slot, format!("its condition can't be evaluated: {error}"));
        false
    })
}

/// Notes what became of an attachment.
pub fn note_step(
    here: &Here<'_>,
    point: &Point,
    slot: &Slot,
    state: StepState,
    begun: Instant,
    values: Option<StepValues>,
) {
    let name = here.page.slot_name(slot);
    let step = Step { point: point.address, slot: Some(slot.place), name, state, time: begun.elapsed(), values };
    here.page.trace.borrow_mut().step(step);
}

/// Notes what became of a callback that renders a component.
pub fn note_render(
    here: &Here<'_>,
    point: Address,
    callback: Callback,
    state: StepState,
    begun: Instant,
    values: Option<StepValues>,
) {
    let name = here.page.registry().callback_name(callback).into();
    here.page.trace.borrow_mut().step(Step { point, slot: None, name, state, time: begun.elapsed(), values });
}
