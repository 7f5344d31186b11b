//! A module or style sheet does not parse

use crate::link::Registry;
use crate::rules::telling::flaws;
use crate::rules::{Example, Finding, Level, Rule};
use crate::scan::FlawKind;

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "code-syntax",
    level: Level::Error,
    links: &[],
    awaited: false,
    summary: "A module or style sheet does not parse",
    explanation: "None of a module's callbacks can run until it does, and none of its exports is known, so what is attached to points from it adds nothing. In a style sheet, a brace that is not closed makes browsers take all that follows for a part of one rule.",
    wrong: Example(&[
        (
            "code/notes.js",
            r##"export function today() { return "Low water";
"##,
        ),
        (
            "truehook.toml",
            r##"[[attach]]
to = "hook:document-end"
call = "notes.js#today"
"##,
        ),
    ]),
    right: Example(&[(
        "code/notes.js",
        r##"export function today() { return "Low water"; }
"##,
    )]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    flaws(registry, &RULE, FlawKind::CodeSyntax, found);
}
