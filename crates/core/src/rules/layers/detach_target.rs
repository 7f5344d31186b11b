//! Something is detached that is not attached there

use crate::link::{Registry, Wanted};
use crate::rules::layers::own_label;
use crate::rules::support::{miss_finding, misses, written};
use crate::rules::{Example, Finding, Level, Rule};

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "detach-target",
    level: Level::Error,
    summary: "Something is detached that is not attached there",
    explanation: "The detachment does nothing. Most often the callback has another spelling, or the base theme's new release attaches it elsewhere. Only what lower layers attach can be detached; what this layer attaches itself can be taken away.",
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
            "truehook.toml",
            r##"[theme]
name = "example"
label = "Example"
base = { path = "../shingle" }

[[detach]]
from = "hook:document-end"
call = "shingle:notes.js#imprnt"
"##,
        ),
    ]),
    right: Example(&[(
        "truehook.toml",
        r##"[theme]
name = "example"
label = "Example"
base = { path = "../shingle" }

[[detach]]
from = "hook:document-end"
call = "shingle:notes.js#imprint"
"##,
    )]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    for miss in misses(registry, RULE.name) {
        let name = written(registry, miss);
        let (message, point) = match miss.wanted {
            Wanted::Slot(point, _) => (format!("`{name}` is not attached to `{point}` in a layer below"), Some(point)),
            Wanted::Point(_) => (format!("there is no point `{name}` to detach from"), None),
            _ => (format!("`{name}` is not attached to anything in a layer below"), None),
        };
        let label = own_label(registry, miss, name);
        let mut finding = miss_finding(registry, &RULE, miss, message, &label);
        finding.point = point.map(|point| point.to_string());
        if finding.mend.is_none() {
            finding = finding.mend(match point {
                Some(point) => format!("truehook show {point}"),
                None => "truehook list".to_string(),
            });
        }
        found.push(finding);
    }
}
