//! What became of the attachments of a point.

use super::answer::{CallbackState, WhyCallback};
use super::asking::{Asking, slots};
use super::seen::SeenState;
use crate::address::{Address, Kind};
use crate::link::{Point, Replaced, Runs, Slot};
use crate::source::Place;

/// What became of the attachments of a point.
pub fn of_point(asking: &Asking<'_>, address: Address) -> Vec<WhyCallback> {
    let Some(point) = asking.registry.point(address) else { return Vec::new() };
    slots(point).into_iter().map(|slot| became(asking, point, slot)).collect()
}

/// What became of an attachment, as seen by whom it was made for: what replaces it has its own view.
pub fn became(asking: &Asking<'_>, point: &Point, slot: &Slot) -> WhyCallback {
    let registry = asking.registry;
    let (state, text) = match (slot.replaced, turn(asking, point, slot)) {
        (Some(Replaced { by, .. }), (state, _)) if state.is_in_turn() => {
            let (layer, name) = (registry.project().layer(by.layer).name, registry.slot_name(slot));
            let view = asking.place(by.place);
            (CallbackState::Replaced, format!("is replaced by {layer} {name} ({}:{})", view.file, view.line))
        }
        (_, other) => other,
    };
    WhyCallback {
        callback: registry.first_name(slot),
        point: point.address.to_string(),
        state,
        text,
        place: asking.place(slot.place),
        has_condition: slot.when.is_some() || slot.switched_off,
    }
}

/// What became of an attachment when it came to its turn.
pub fn turn(asking: &Asking<'_>, point: &Point, slot: &Slot) -> (CallbackState, String) {
    let registry = asking.registry;
    let layer = |layer| registry.project().layer(layer).name;
    let at = |place: Place| {
        let view = asking.place(place);
        format!("{}:{}", view.file, view.line)
    };
    let steps = || asking.seen().into_iter().flat_map(|seen| &seen.steps).filter(|step| step.slot == slot.place);
    let step = steps().find(|step| step.state == SeenState::Ran && !step.gave_nothing).or_else(|| steps().next());
    let there = matches!(slot.runs, Runs::Callback(_, Some(_)) | Runs::Partial(_, true));
    match (slot.detached, step) {
        (Some(by), _) => (CallbackState::Detached, format!("is detached by {} ({})", layer(by.layer), at(by.place))),
        _ if !there => (CallbackState::Failed, lacking(asking, slot)),
        _ if slot.switched_off => (CallbackState::Off, "has a condition that can't be understood".to_string()),
        (None, None) if point.moment && asking.seen().is_some_and(|seen| !seen.points.contains(&point.address)) => {
            let text = format!("waits for {}, which is not fired when {} is made", point.address, asking.here());
            (CallbackState::Off, text)
        }
        (None, None) if asking.page.is_some() => (CallbackState::Off, "never came to its turn".to_string()),
        (None, None) => (CallbackState::Attached, String::new()),
        (None, Some(step)) => match step.state {
            SeenState::Off => {
                let when = slot.when.as_ref().map_or("", |when| when.text.as_str());
                (CallbackState::Off, format!("is off, since `{when}` does not hold"))
            }
            SeenState::Failed => {
                (CallbackState::Failed, format!("failed: {}", step.failure.as_deref().unwrap_or("see render")))
            }
            _ if step.gave_nothing && point.address.kind == Kind::Hook => {
                (CallbackState::Nothing, "ran and gave nothing".to_string())
            }
            _ if step.gave_the_same => (CallbackState::Unchanged, "ran and gave back what it was given".to_string()),
            _ if asking.seen().is_some_and(|seen| seen.spare.contains(&slot.place)) => in_vain(asking, point, slot),
            _ => (CallbackState::Ran, "ran".to_string()),
        },
    }
}

/// Why what an attachment names is not there.
fn lacking(asking: &Asking<'_>, slot: &Slot) -> String {
    let Runs::Callback(call, _) = slot.runs else { return "is not there".to_string() };
    match asking.registry.unparsed_module(&call.raw, slot.layer) {
        Some(file) => format!("is not there: {} does not parse", asking.registry.project().shown(file)),
        None => "is not there".to_string(),
    }
}

/// What to say of an attachment that ran, and without which the page is the same.
fn in_vain(asking: &Asking<'_>, point: &Point, slot: &Slot) -> (CallbackState, String) {
    let steps = asking.seen().map_or(&[][..], |seen| &seen.steps);
    let changed = |other: &&Slot| steps.iter().any(|step| step.slot == other.place && step.changed());
    let later = point.slots.iter().skip_while(|other| other.place != slot.place).skip(1).filter(changed).last();
    match later.filter(|_| point.address.kind != Kind::Hook) {
        Some(later) => {
            let name = asking.registry.slot_name(later);
            (CallbackState::Overridden, format!("ran, and the page is the same without it: {name} overrides it later"))
        }
        None => (CallbackState::Spare, "ran, and the page is the same without it".to_string()),
    }
}
