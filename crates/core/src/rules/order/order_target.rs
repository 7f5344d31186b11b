//! A callback is ordered before or after something that is not attached there

use crate::command_line;
use crate::link::{Link, Registry, Wanted};
use crate::rules::telling::{miss_finding, misses};
use crate::rules::{Example, Finding, Level, Rule};
use crate::source::Place;

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "order-target",
    level: Level::Error,
    links: &[Link::OrderToSlot],
    awaited: false,
    summary: "A callback is ordered before or after something that is not attached there",
    explanation: "The constraint binds nothing. What stands in before and after are callbacks of the same point, those of other layers with the layer's name.",
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
before = ["notes.js#bots"]

[[attach]]
to = "hook:document-end"
call = "notes.js#boots"
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
    for miss in misses(registry, &RULE) {
        let Wanted::Slot(address, name) = miss.wanted else { continue };
        let message = format!("`{name}` is not attached to `{address}`");
        let label = "nothing of that name is attached there";
        let mut finding = miss_finding(registry, &RULE, miss, message, label).about(address);
        if let Some(callback) = registry.callback_named(&name, miss.layer)
            && let Some(export) = registry.export(callback)
        {
            let place = Place { file: callback.file, at: export.at };
            finding = finding.at(registry, place, "it is there, but not attached to this point");
        }
        if finding.mend.is_none() {
            finding = finding.mend(command_line!["show", address]);
        }
        found.push(finding);
    }
}
