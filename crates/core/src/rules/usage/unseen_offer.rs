//! Site editors are offered a region, an area or a menu spot that no page shows

use crate::link::{Lack, Registry, Taken};
use crate::rules::usage::{at_taken, put_back};
use crate::rules::{Example, Finding, Level, Rule};

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "unseen-offer",
    level: Level::Warning,
    links: &[],
    awaited: true,
    summary: "Site editors are offered a region, an area or a menu spot that no page shows",
    explanation: "A base theme or a companion declares it, and a template of the theme leaves it out: what editors put there would never show. Place it, drop it with dropped = true, or keep it from editors with reserved = true. What the host offers and nobody asks for is left alone.",
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
label = "Shingle"
open = true

[region.tide-board]
label = "Tide board"
"##,
        ),
        (
            "../shingle/markup/layout.html",
            r##"<!doctype html>
<html lang="en">
<head><title>{{ page.title }}</title>{{ place("hook:document-head") }}</head>
<body>
<main>{{ place("region:main") }}</main>
{{ place("region:tide-board") }}
{{ place("hook:document-end") }}
</body>
</html>
"##,
        ),
    ]),
    right: Example(&[(
        "truehook.toml",
        r##"[theme]
name = "example"
label = "Example"
base = { path = "../shingle" }

[region.tide-board]
dropped = true
"##,
    )]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    for absence in registry.absences().iter().filter(|absence| absence.lack == Lack::Unseen) {
        let (Some(point), Some(taken)) = (registry.point(absence.point), absence.taken) else { continue };
        let message = format!("site editors are offered `{}`, which no page shows", absence.point);
        let finding = Finding::new(&RULE, absence.layer, message).about(absence.point);
        let finding = at_taken(registry, finding, taken);
        let finding = point.declared.iter().fold(finding, |finding, declared| {
            finding.at(registry, declared.place, format!("the {} is declared here", absence.point.kind))
        });
        let name = absence.point;
        let mut finding =
            finding.mend(format!("place it, or write dropped = true below [{}.{}]", name.kind, name.name));
        if let Taken::Copy { copy, original } = taken {
            finding.mend = put_back(registry, absence.point, original, copy).or(finding.mend);
        }
        found.push(finding);
    }
}
