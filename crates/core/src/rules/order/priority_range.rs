//! A priority is not a whole number from 0 to 100

use crate::link::Registry;
use crate::rules::telling::flaws;
use crate::rules::{Example, Finding, Level, Rule};
use crate::scan::FlawKind;

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "priority-range",
    level: Level::Error,
    links: &[],
    awaited: false,
    summary: "A priority is not a whole number from 0 to 100",
    explanation: "Lower runs earlier; where none is given it is 50. To run before everything else use before, not a smaller number.",
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
priority = 101
"##,
        ),
    ]),
    right: Example(&[(
        "truehook.toml",
        r##"[[attach]]
to = "hook:document-end"
call = "notes.js#today"
priority = 100
"##,
    )]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    flaws(registry, &RULE, FlawKind::PriorityRange, found);
}
