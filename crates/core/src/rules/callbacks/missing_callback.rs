//! A callback that is attached, or that renders a component, is not there

use crate::link::{Link, Registry, START, Wanted};
use crate::rules::telling::{miss_finding, misses, written};
use crate::rules::{Example, Finding, Level, Rule};
use crate::source::Place;

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "missing-callback",
    level: Level::Error,
    links: &[Link::AttachmentToCallback, Link::RenderToCallback, Link::ReplaceToCallback],
    awaited: false,
    summary: "A callback that is attached, or that renders a component, is not there",
    explanation: "A callback is a function that a module in code/ exports. It was renamed, is not exported, or the module has another name.",
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
call = "notes.js#todya"
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
    for miss in misses(registry, &RULE) {
        let name = written(registry, miss);
        let (message, label, end) = match miss.wanted {
            Wanted::Export(file, export) => {
                let value =
                    registry.module(file).and_then(|module| module.exports.iter().find(|known| known.name == export));
                let shown = registry.project().shown(file);
                let message = match value {
                    Some(_) => format!("`{export}` in {shown} is not a function"),
                    None => format!("{shown} exports no function `{export}`"),
                };
                let at = value.map_or(START, |value| value.at);
                (message, "not exported".to_string(), Some(Place { file, at }))
            }
            _ => (format!("there is no module for `{name}`"), "no such file in code/".to_string(), None),
        };
        let mut finding = miss_finding(registry, &RULE, miss, message, &label);
        if let (Some(place), None) = (end, miss.meant) {
            finding = finding.at(registry, place, "this is the module");
        }
        if finding.mend.is_none() {
            finding = finding.mend(format!("export it, or correct `{name}`"));
        }
        found.push(finding);
    }
}
