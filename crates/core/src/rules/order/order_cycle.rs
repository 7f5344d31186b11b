//! Callbacks have to run before each other

use crate::link::{OrderTrouble, Registry};
use crate::rules::{Example, Finding, Level, Rule};
use crate::source::Place;

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "order-cycle",
    level: Level::Error,
    links: &[],
    awaited: false,
    summary: "Callbacks have to run before each other",
    explanation: "Each would have to run before the other. No order can do justice to that, so their numbers alone decide, as if nothing had been said.",
    wrong: Example(&[
        (
            "code/notes.js",
            r##"export function today() { return "Low water"; }
export function boots() { return "Boots needed"; }
"##,
        ),
        (
            "truehook.toml",
            r##"[[attach]]
to = "hook:document-end"
call = "notes.js#today"
before = ["notes.js#boots"]

[[attach]]
to = "hook:document-end"
call = "notes.js#boots"
before = ["notes.js#today"]
"##,
        ),
    ]),
    right: Example(&[(
        "truehook.toml",
        r##"[[attach]]
to = "hook:document-end"
call = "notes.js#today"
before = ["notes.js#boots"]

[[attach]]
to = "hook:document-end"
call = "notes.js#boots"
"##,
    )]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    for trouble in registry.order_troubles() {
        let OrderTrouble::Cycle { point, steps } = trouble else { continue };
        let slots = registry.point(*point).map(|point| &*point.slots).unwrap_or_default();
        let name = |place: &Place| {
            slots.iter().find(|slot| slot.place == *place).map_or(String::new(), |slot| registry.slot_name(slot))
        };
        let names: Vec<String> = steps.iter().map(|(slot, _)| name(slot)).collect();
        let message = format!("callbacks of `{point}` wait for each other: {} → {}", names.join(" → "), names[0]);
        let layer = steps.iter().map(|(_, place)| registry.layer_of(*place)).max().unwrap_or(registry.project().top());
        let mut finding = Finding::new(&RULE, layer, message).about(*point);
        let mut places: Vec<(Place, String)> = Vec::new();
        for (at, (_, place)) in steps.iter().enumerate() {
            places.push((*place, format!("so `{}` has to run before `{}`", names[at], names[(at + 1) % names.len()])));
        }
        places.sort_by_key(|(place, _)| (registry.layer_of(*place) != layer, *place));
        for (place, label) in places {
            finding = finding.at(registry, place, label);
        }
        found.push(finding.mend("take one of these constraints away"));
    }
}
