//! A point is used that its layer has retired

use crate::address::Address;
use crate::command_line;
use crate::link::{By, Registry, Retired};
use crate::rules::telling::references_from;
use crate::rules::{Example, Finding, Level, Rule};
use crate::source::LayerId;

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "retired-point",
    level: Level::Warning,
    links: &[],
    awaited: false,
    summary: "A point is used that its layer has retired",
    explanation: "It still works in this release, and will be gone in a later one. The layer may say what to use instead.",
    wrong: Example(&[
        (
            "../shingle/truehook.toml",
            r##"[theme]
name = "shingle"
label = "Shingle"
version = "2.1.0"
open = true

[hook.under-text]
about = "Right below the text"
retired = "2.0.0"
instead = "hook:after-text"

[hook.after-text]
about = "Right below the text"
"##,
        ),
        (
            "../shingle/markup/layout.html",
            r##"<!doctype html>
<html lang="en">
<head><title>{{ page.title }}</title>{{ place("hook:document-head") }}</head>
<body>
<main>{{ place("region:main") }}</main>
{{ place("hook:under-text") }}{{ place("hook:after-text") }}
{{ place("hook:document-end") }}
</body>
</html>
"##,
        ),
        ("markup/layout.html", r##""##),
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

[[attach]]
to = "hook:under-text"
call = "notes.js#today"
"##,
        ),
    ]),
    right: Example(&[(
        "truehook.toml",
        r##"[theme]
name = "example"
label = "Example"
base = { path = "../shingle" }

[[attach]]
to = "hook:after-text"
call = "notes.js#today"
"##,
    )]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    for point in registry.points() {
        // What is only going to be retired can be used until then.
        let retired = point.retired.as_ref().filter(|_| registry.is_retired(point));
        let Some(Retired { since: version, by: By { layer: by, place } }) = retired else { continue };
        let uses = references_from(registry, point.address, LayerId(by.0 + 1));
        let Some(layer) = uses.iter().map(|found| found.layer).max() else { continue };
        let name = registry.project().layer(*by).name;
        let message = format!("`{}` is used, but {name} has retired it with version {version}", point.address);
        let mut finding = Finding::new(&RULE, layer, message).about(point.address);
        for used in uses.iter().filter(|found| found.layer == layer) {
            finding = finding.at(registry, used.from, "used here");
        }
        finding = finding.at(registry, *place, "retired here");
        found.push(match point.instead {
            Some(instead)
                if layer == registry.project().top() && instead.address.is_some_and(|to| is_there(registry, to)) =>
            {
                finding.mend(command_line!["rename", point.address, instead.raw])
            }
            Some(instead) => finding.mend(format!("use `{}` instead", instead.raw)),
            None => finding.mend("do without it"),
        });
    }
}

/// Is a point declared?
fn is_there(registry: &Registry, address: Address) -> bool {
    registry.point(address).is_some_and(|point| !point.declared.is_empty())
}
