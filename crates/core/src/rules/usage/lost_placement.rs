//! The theme's copy of a template lacks a placement of the original that something depends on

use crate::edit::suggest::Places;
use crate::link::{Lack, Registry};
use crate::rules::telling::needing_places;
use crate::rules::usage::{at_counterpart, put_back};
use crate::rules::{Example, Finding, Level, Rule};

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "lost-placement",
    level: Level::Error,
    links: &[],
    awaited: false,
    summary: "The theme's copy of a template lacks a placement of the original that something depends on",
    explanation: "A template of the same name in a higher layer takes the place of the lower one. Placements that the copy leaves out are gone for all who rely on them.",
    wrong: Example(&[
        (
            "truehook.toml",
            r##"[theme]
name = "example"
label = "Example"
base = { path = "../shingle" }
"##,
        ),
        (
            "../shingle/truehook.toml",
            r##"[theme]
name = "shingle"
open = true

[hook.under-text]
about = "Right below the text"

[[attach]]
to = "hook:under-text"
call = "notes.js#imprint"
"##,
        ),
        (
            "../shingle/markup/layout.html",
            r##"<!doctype html>
<html lang="en">
<head><title>{{ page.title }}</title>{{ place("hook:document-head") }}</head>
<body>
<main>{{ place("region:main") }}</main>
{{ place("hook:under-text") }}
{{ place("hook:document-end") }}
</body>
</html>
"##,
        ),
        (
            "../shingle/code/notes.js",
            r##"export function imprint() { return "Marsh Lane 4"; }
"##,
        ),
    ]),
    right: Example(&[(
        "markup/layout.html",
        r##"<!doctype html>
<html lang="en">
<head><title>{{ page.title }}</title>{{ place("hook:document-head") }}</head>
<body>
<main class="wide">{{ place("region:main") }}</main>
{{ place("hook:under-text") }}
{{ place("hook:document-end") }}
</body>
</html>
"##,
    )]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    let places = Places::of(registry);
    for absence in registry.absences() {
        let Lack::Lost { copy, original } = absence.lack else { continue };
        let from = registry.project().layer(registry.project().file(original.file).layer).name;
        let name = registry.project().file(copy).name();
        let message = match absence.partial {
            false => format!("the copy of {name} lost `{}`, which {from}'s original places", absence.point),
            true => format!("pages with this {name} don't have `{}`, which {from}'s original places", absence.point),
        };
        let mut finding = Finding::new(&RULE, absence.layer, message).about(absence.point);
        if absence.partial {
            finding.level = Level::Warning;
        }
        finding = at_counterpart(registry, finding, original, copy);
        finding = finding.at(registry, original, "the original has it here");
        finding = needing_places(registry, finding, absence.point);
        finding = finding.mend(places.command(absence.point, Some(copy)));
        finding.mend = put_back(registry, absence.point, original, copy).or(finding.mend);
        found.push(finding);
    }
}
