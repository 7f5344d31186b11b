//! A callback is attached to one point twice

use rustc_hash::FxHashMap;

use crate::link::{Registry, Runs, Slot};
use crate::rules::{Example, Finding, Level, Rule};

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "doubled-attachment",
    level: Level::Warning,
    links: &[],
    awaited: false,
    summary: "A callback is attached to one point twice",
    explanation: "It runs twice, and its output shows twice. Two attachments under different conditions are left alone.",
    wrong: Example(&[
        (
            "code/notes.js",
            r##"export function today() { return "Low water"; }
"##,
        ),
        (
            "truehook.toml",
            r##"[[attach]]
to = "hook:document-end"
call = "notes.js#today"

[[attach]]
to = "hook:document-end"
call = "notes.js#today"
"##,
        ),
    ]),
    right: Example(&[(
        "truehook.toml",
        r##"[[attach]]
to = "hook:document-end"
call = "notes.js#today"
"##,
    )]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    for point in registry.points().filter(|point| point.slots.len() > 1) {
        let mut slots: Vec<&Slot> = point.slots.iter().collect();
        slots.sort_by_key(|slot| (slot.layer, slot.position));
        let mut before: FxHashMap<String, Vec<&Slot>> = FxHashMap::default();
        for slot in slots {
            let same = before.entry(registry.slot_name(slot)).or_default();
            let first = same.iter().find(|other| is_same(other, slot)).copied();
            same.push(slot);
            let Some(first) = first else { continue };
            let message = format!("`{}` is attached to `{}` twice", registry.slot_name(slot), point.address);
            let finding = Finding::new(&RULE, slot.layer, message).about(point.address);
            let finding = finding.at(registry, slot.place, "attached here");
            found.push(finding.at(registry, first.place, "and here").mend("take one of the two away"));
        }
    }
}

fn is_same(one: &Slot, other: &Slot) -> bool {
    let runs = match (&one.runs, &other.runs) {
        (Runs::Callback(_, Some(one)), Runs::Callback(_, Some(other))) => one == other,
        (Runs::Partial(one, _), Runs::Partial(other, _)) => one == other,
        _ => false,
    };
    let text = |slot: &Slot| slot.when.as_ref().map(|when| when.text);
    let apart = one.when.is_some() && other.when.is_some() && text(one) != text(other);
    runs && !apart
}
