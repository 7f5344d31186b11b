//! A constraint goes against different priorities

use crate::link::{OrderTrouble, Registry};
use crate::rules::{Example, Finding, Level, Rule};

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "order-conflict",
    level: Level::Note,
    links: &[],
    awaited: true,
    summary: "A constraint goes against different priorities",
    explanation: "The constraint wins, whatever the numbers say. If that is meant, the priorities could say it too, and nobody would stumble over it.",
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
priority = 80
before = ["notes.js#boots"]

[[attach]]
to = "hook:document-end"
call = "notes.js#boots"
priority = 20
"##,
        ),
    ]),
    right: Example(&[(
        "truehook.toml",
        r##"[[attach]]
to = "hook:document-end"
call = "notes.js#today"
priority = 20
before = ["notes.js#boots"]

[[attach]]
to = "hook:document-end"
call = "notes.js#boots"
priority = 80
"##,
    )]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    for trouble in registry.order_troubles() {
        let OrderTrouble::Conflict { point, constraint, first, second } = trouble else { continue };
        let message = format!("on `{point}` a constraint goes against the priorities, and wins");
        let layer = registry.layer_of(*constraint);
        let finding = Finding::new(&RULE, layer, message)
            .about(*point)
            .at(registry, *constraint, "this decides")
            .at(registry, *first, "so this runs first, in spite of its number")
            .at(registry, *second, "and this after it");
        found.push(finding);
    }
}
