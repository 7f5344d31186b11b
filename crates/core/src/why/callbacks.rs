//! What became of callbacks: of those of a point, and of one wherever it is attached.

use super::chain::{placed, slots};
use super::{Asking, WhyCallback, WhyLink, said};
use crate::address::{Address, Kind};
use crate::link::{Callback, Point, Renderer, Runs, Slot, Target};
use crate::source::Place;

/// What became of the attachments of a point.
pub(super) fn of_point(asking: &Asking<'_>, address: Address) -> Vec<WhyCallback> {
    let Some(point) = asking.registry.point(address) else { return Vec::new() };
    slots(point).into_iter().map(|slot| became(asking, point, slot)).collect()
}

/// What became of an attachment, as seen by whom it was made for: what replaces it has its own view.
fn became(asking: &Asking<'_>, point: &Point, slot: &Slot) -> WhyCallback {
    let registry = asking.registry;
    let (state, text) = match (slot.replaced, turn(asking, point, slot)) {
        (Some((_, by, place)), ("ran" | "attached" | "unchanged" | "nothing" | "spare" | "overridden", _)) => {
            let (layer, name) = (registry.project.layer(by).name, registry.slot_name(slot));
            let view = asking.place(place);
            ("replaced", format!("is replaced by {layer} {name} ({}:{})", view.file, view.line))
        }
        (_, other) => other,
    };
    WhyCallback {
        callback: registry.first_name(slot),
        point: point.address.to_string(),
        state,
        text,
        place: asking.place(slot.place),
    }
}

/// What became of an attachment when it came to its turn.
fn turn(asking: &Asking<'_>, point: &Point, slot: &Slot) -> (&'static str, String) {
    let registry = asking.registry;
    let layer = |layer| registry.project.layer(layer).name;
    let at = |place: Place| {
        let view = asking.place(place);
        format!("{}:{}", view.file, view.line)
    };
    let steps = || asking.seen().into_iter().flat_map(|seen| &seen.steps).filter(|step| step.slot == slot.place);
    let step = steps().find(|step| step.state == "ran" && !step.gave_nothing).or_else(|| steps().next());
    let there = matches!(slot.runs, Runs::Callback(_, Some(_)) | Runs::Partial(_, true));
    match (slot.detached, step) {
        (Some((by, place)), _) => ("detached", format!("is detached by {} ({})", layer(by), at(place))),
        _ if !there => ("failed", "is not there".to_string()),
        _ if slot.switched_off => ("off", "has a condition that can't be understood".to_string()),
        (None, None) if asking.page.is_some() => ("off", "never came to its turn".to_string()),
        (None, None) => ("attached", String::new()),
        (None, Some(step)) => match step.state {
            "off" => {
                let when = slot.when.as_ref().map_or("", |when| when.text.as_str());
                ("off", format!("is off, since `{when}` does not hold"))
            }
            "failed" => ("failed", format!("failed: {}", step.failure.as_deref().unwrap_or("see render"))),
            _ if step.gave_nothing && point.address.kind == Kind::Hook => {
                ("nothing", "ran and gave nothing".to_string())
            }
            _ if step.gave_the_same => ("unchanged", "ran and gave back what it was given".to_string()),
            _ if asking.seen().is_some_and(|seen| seen.spare.contains(&slot.place)) => in_vain(asking, point, slot),
            _ => ("ran", "ran".to_string()),
        },
    }
}

/// What to say of an attachment that ran, and without which the page is the same.
fn in_vain(asking: &Asking<'_>, point: &Point, slot: &Slot) -> (&'static str, String) {
    let steps = asking.seen().map_or(&[][..], |seen| &seen.steps);
    let changed = |other: &&Slot| steps.iter().any(|step| step.slot == other.place && step.changed());
    let later = point.slots.iter().skip_while(|other| other.place != slot.place).skip(1).filter(changed).last();
    match later.filter(|_| point.address.kind != Kind::Hook) {
        Some(later) => {
            let name = asking.registry.slot_name(later);
            ("overridden", format!("ran, and the page is the same without it: {name} overrides it later"))
        }
        None => ("spare", "ran, and the page is the same without it".to_string()),
    }
}

/// All links of one callback, what became of it wherever it is attached, and the point that matters most.
pub(super) fn chain(asking: &Asking<'_>, callback: Callback) -> (Vec<WhyLink>, Vec<WhyCallback>, Option<Address>) {
    let registry = asking.registry;
    let name = registry.callback_name(callback);
    let export = registry.export(callback).map(|export| Place { file: callback.file, at: export.at });
    let exported = WhyLink::good("exported", export.into_iter().map(|place| asking.line(place, "")).collect());
    let is_it = |runs: &Runs| matches!(runs, Runs::Callback(_, Some(found)) if *found == callback);
    let mut states = Vec::new();
    let mut lines = Vec::new();
    let mut points: Vec<&Point> = Vec::new();
    for point in registry.points.values() {
        for slot in slots(point) {
            let first = slot.replaced.as_ref().is_some_and(|(first, _, _)| is_it(first));
            if is_it(&slot.runs) || first {
                lines.push(asking.line(slot.place, format!("to {}", point.address)));
                let mut state = became(asking, point, slot);
                if !first && slot.replaced.is_some() {
                    let (word, text) = turn(asking, point, slot);
                    let text = if word == "ran" { "runs in place of another".to_string() } else { text };
                    (state.callback, state.state, state.text) = (name.clone(), word, text);
                }
                states.push(state);
                points.push(point);
            }
        }
        if point.renderer == Some(Renderer::Callback(callback)) {
            lines.extend(
                point.declared.last().map(|declared| asking.line(declared.place, format!("renders {}", point.address))),
            );
            points.push(point);
        }
    }
    let Some(first) = points.iter().find(|point| asking.on_page(point.reached)).or(points.first()) else {
        let imported = registry.is_referred(Target::Export(callback.file, callback.export));
        let reason = match imported {
            true => "it is attached to nothing; other modules import it",
            false => "it is attached to nothing, renders nothing, and no module imports it",
        };
        return (vec![exported, WhyLink::broken("attached", vec![said("–")], reason)], states, None);
    };
    let (placed, reached) = placed(asking, first);
    let mut chain = vec![exported, WhyLink::good("attached", lines), placed, reached];
    let alive = states.iter().find(|state| matches!(state.state, "ran" | "attached" | "unchanged" | "nothing"));
    let renders = first.renderer == Some(Renderer::Callback(callback));
    chain.push(match (alive, states.first()) {
        (Some(state), _) if state.state == "attached" => {
            WhyLink::idle("on", "name a page with --page, and it is rendered to see")
        }
        (Some(state), _) => WhyLink::good("on", vec![said(state.text.clone())]),
        (None, Some(state)) if !renders => WhyLink::broken("on", vec![said(state.state)], format!("it {}", state.text)),
        _ => WhyLink::idle("on", "it renders a component"),
    });
    (chain, states, Some(first.address))
}
