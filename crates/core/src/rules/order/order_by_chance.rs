//! Callbacks of different layers have the same priority, and no constraint

use crate::link::Registry;
use crate::rules::{Example, Finding, Level, Rule};

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "order-by-chance",
    level: Level::Note,
    links: &[],
    awaited: true,
    summary: "Callbacks of different layers have the same priority, and no constraint",
    explanation: "They run in the order of their layers. Where the order matters, a priority or a constraint says so to the next reader.",
    wrong: Example(&[
        (
            "../shingle/truehook.toml",
            r##"[theme]
name = "shingle"
label = "Shingle"
open = true

[[attach]]
to = "hook:document-end"
call = "notes.js#imprint"
"##,
        ),
        (
            "../shingle/code/notes.js",
            r##"export function imprint() { return "Marsh Lane 4"; }
"##,
        ),
        (
            "code/notes.js",
            r##"export function today() { return "Low water"; }
"##,
        ),
        (
            "truehook.toml",
            r##"[theme]
name = "example"
label = "Example"
base = { path = "../shingle" }

[[attach]]
to = "hook:document-end"
call = "notes.js#today"
"##,
        ),
    ]),
    right: Example(&[(
        "truehook.toml",
        r##"[theme]
name = "example"
label = "Example"
base = { path = "../shingle" }

[[attach]]
to = "hook:document-end"
call = "notes.js#today"
after = ["shingle:notes.js#imprint"]
"##,
    )]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    for point in registry.points() {
        let pair = point.slots.windows(2).find(|pair| {
            let free = |at: usize| pair[at].before.is_empty() && pair[at].after.is_empty();
            pair[0].layer != pair[1].layer && pair[0].priority == pair[1].priority && free(0) && free(1)
        });
        let Some([first, second]) = pair else { continue };
        let layer = first.layer.max(second.layer);
        let message = format!(
            "on `{}` the layers alone decide that `{}` runs before `{}`",
            point.address,
            registry.slot_name(first),
            registry.slot_name(second)
        );
        let finding = Finding::new(&RULE, layer, message).about(point.address);
        let (own, other) = if second.layer == layer { (second, first) } else { (first, second) };
        let finding = finding.at(registry, own.place, format!("priority {}", own.priority));
        let finding = finding.at(registry, other.place, format!("priority {}, too", other.priority));
        found.push(finding.mend("give one of them another priority, or say before or after"));
    }
}
