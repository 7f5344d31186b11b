//! A condition does not parse, or does more than compare

use crate::link::Registry;
use crate::rules::telling::flaws;
use crate::rules::{Example, Finding, Level, Rule};
use crate::scan::FlawKind;

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "condition-syntax",
    level: Level::Error,
    links: &[],
    awaited: false,
    summary: "A condition does not parse, or does more than compare",
    explanation: "A condition compares paths of page, site and options with values, and joins comparisons with and, or, not and in. What it belongs to never runs.",
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
when = "page.type = 'front'"
"##,
        ),
    ]),
    right: Example(&[(
        "truehook.toml",
        r##"[[attach]]
to = "hook:document-end"
call = "notes.js#today"
when = "page.type == 'front'"
"##,
    )]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    flaws(registry, &RULE, FlawKind::ConditionSyntax, found);
}
