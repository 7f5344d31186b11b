//! A module or template imports something that is not there

use crate::link::{Link, Registry, START, Wanted};
use crate::rules::files::outside_theme::is_outside_import;
use crate::rules::telling::{miss_finding, misses, written};
use crate::rules::{Example, Finding, Level, Rule};
use crate::scan::BUILT_IN;
use crate::source::Place;

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "missing-import",
    level: Level::Error,
    links: &[Link::ImportToMacro, Link::ImportToModule],
    awaited: false,
    summary: "A module or template imports something that is not there",
    explanation: "Modules import each other by relative path inside code/, and html, place, through, asset and note from truehook. Another layer's callbacks are attached, not imported.",
    wrong: Example(&[
        (
            "code/notes.js",
            r##"import { escape } from "truehook";
export function today() { return escape("Low water"); }
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
        r##"import { html } from "truehook";
export function today() { return html`<p>Low water</p>`; }
"##,
    )]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    for miss in misses(registry, &RULE) {
        if is_outside_import(registry, miss) {
            continue;
        }
        let name = written(registry, miss);
        let from = registry.references()[miss.references[0]].from.file;
        let (message, label) = match miss.wanted {
            Wanted::Export(file, _) if file == from => {
                (format!("`truehook` exports no `{name}`"), format!("it exports {}", BUILT_IN.join(", ")))
            }
            Wanted::Export(file, _) => {
                (format!("{} exports no `{name}`", registry.project().shown(file)), "not exported there".to_string())
            }
            Wanted::Macro(file, _) => {
                (format!("{} has no macro `{name}`", registry.project().shown(file)), "not there".to_string())
            }
            _ if name.starts_with('.') => (format!("there is no module `{name}`"), "no such file".to_string()),
            _ => (
                format!("`{name}` can't be imported"),
                "a relative path belongs here, as in \"./tides.js\", or \"truehook\"".to_string(),
            ),
        };
        let mut finding = miss_finding(registry, &RULE, miss, message, &label);
        if let (Wanted::Export(file, _) | Wanted::Macro(file, _), None) = (miss.wanted, miss.meant)
            && file != from
        {
            finding = finding.at(registry, Place { file, at: START }, "it is asked for here");
        }
        found.push(finding);
    }
}
