//! An inner piece is called like a shared one

use crate::address::{Address, Kind};
use crate::link::Registry;
use crate::rules::{Example, Finding, Level, Rule};

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "inner-name",
    level: Level::Warning,
    links: &[],
    awaited: false,
    summary: "An inner piece is called like a shared one",
    explanation: "Inside its section the inner piece hides the shared one: the same words mean one piece here and another elsewhere.",
    wrong: Example(&[
        (
            "truehook.toml",
            r##"[section.spotlight]
label = "Spotlight"
offer = [{ label = "A spotlight" }]
[section.spotlight.piece.note]
label = "Caption"

[piece.note]
label = "Note"
offer = [{ label = "A note" }]
"##,
        ),
        (
            "markup/sections/spotlight.html",
            r##"<section>{{ place("held") }}</section>
"##,
        ),
        (
            "markup/sections/spotlight/note.html",
            r##"<p>Curlew</p>
"##,
        ),
        (
            "markup/pieces/note.html",
            r##"<p>Boots needed.</p>
"##,
        ),
        (
            "markup/page.html",
            r##"{% extends "layout.html" %}
{% block main %}
  <main>{{ place("region:main") }}</main>
  {{ place("sections") }}
{% endblock %}
"##,
        ),
    ]),
    right: Example(&[
        (
            "truehook.toml",
            r##"[section.spotlight]
label = "Spotlight"
offer = [{ label = "A spotlight" }]
[section.spotlight.piece.caption]
label = "Caption"

[piece.note]
label = "Note"
offer = [{ label = "A note" }]
"##,
        ),
        (
            "markup/sections/spotlight/caption.html",
            r##"<p>Curlew</p>
"##,
        ),
        ("markup/sections/spotlight/note.html", ""),
    ]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    for point in registry.points() {
        let Some((section, own)) = point.address.inner() else { continue };
        let shared = registry.point(Address::new(Kind::Piece, own));
        let (Some(inner), Some(shared)) = (point.declared.last(), shared.and_then(|shared| shared.declared.last()))
        else {
            continue;
        };
        let message = format!("inside `{section}`, `piece:{own}` means its own piece and not the shared one");
        let layer = inner.layer.max(shared.layer);
        let finding = Finding::new(&RULE, layer, message).about(point.address);
        let finding = finding.at(registry, inner.place, "this one");
        found.push(finding.at(registry, shared.place, "and not this one").mend("give one of them another name"));
    }
}
