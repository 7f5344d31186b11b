//! Something is replaced that is not attached below

use crate::link::{Link, Registry};
use crate::rules::layers::nothing_below;
use crate::rules::telling::list;
use crate::rules::{Example, Finding, Level, Rule};

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "replace-target",
    level: Level::Error,
    links: &[Link::ReplaceToSlot],
    awaited: false,
    summary: "Something is replaced that is not attached below",
    explanation: "The replacement does nothing. Most often the callback has another spelling. Where it is attached to several points, `in` has to say which of them is meant.",
    wrong: Example(&[
        (
            "../shingle/code/notes.js",
            r##"export function imprint() { return "Marsh Lane 4"; }
export function motto() { return "Tides and mud"; }
"##,
        ),
        (
            "../shingle/truehook.toml",
            r##"[theme]
name = "shingle"
label = "Shingle"
open = true

[[attach]]
to = "hook:document-end"
call = "notes.js#imprint"

[[attach]]
to = "hook:document-end"
call = "notes.js#motto"
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

[[replace]]
call = "shingle:notes.js#imprnt"
with = "notes.js#today"
"##,
        ),
    ]),
    right: Example(&[(
        "truehook.toml",
        r##"[theme]
name = "example"
label = "Example"
base = { path = "../shingle" }

[[replace]]
call = "shingle:notes.js#imprint"
with = "notes.js#today"
"##,
    )]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    nothing_below(registry, &RULE, "replace something at", found);
    for ambiguous in registry.ambiguous() {
        let points: Vec<String> = ambiguous.slots.iter().map(|(point, _)| format!("`{point}`")).collect();
        let message =
            format!("`{}` is attached to {}, and it is not said where to replace it", ambiguous.name, list(&points));
        let layer = registry.layer_of(ambiguous.place);
        let mut finding = Finding::new(&RULE, layer, message).at(registry, ambiguous.place, "`in` belongs beside this");
        for (_, place) in &ambiguous.slots {
            finding = finding.at(registry, *place, "attached here");
        }
        found.push(finding.mend(format!("in = \"{}\"", ambiguous.slots[0].0)));
    }
}
