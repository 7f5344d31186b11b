//! A condition reads a name that is not there

use crate::link::{Link, Registry, Wanted};
use crate::rules::telling::{miss_finding, misses};
use crate::rules::{Example, Finding, Level, Rule};

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "condition-name",
    level: Level::Error,
    links: &[Link::ConditionToName],
    awaited: false,
    summary: "A condition reads a name that is not there",
    explanation: "It would never hold, or always, and nobody would know why. What it belongs to never runs.",
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
when = "page.typ == 'front'"
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
    for miss in misses(registry, &RULE) {
        let name = match miss.wanted {
            Wanted::Name(name) => name,
            Wanted::Option(name) => format!("options.{name}").as_str().into(),
            _ => continue,
        };
        let message = format!("the condition reads `{name}`, which is not there");
        let label = match name.split_once('.') {
            None => "conditions read page, site and options",
            Some(("options", _)) => "the theme declares no such option",
            Some(_) => "nothing of that name is there",
        };
        found.push(miss_finding(registry, &RULE, miss, message, label));
    }
}
