//! Site editors can't pick a section or piece

use crate::address::Kind;
use crate::link::Registry;
use crate::rules::telling::declaring;
use crate::rules::{Example, Finding, Level, Rule};

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "no-offer",
    level: Level::Note,
    links: &[],
    awaited: true,
    summary: "Site editors can't pick a section or piece",
    explanation: "What editors can pick is said by `offer`. Without one, a component shows only where the theme itself puts it.",
    wrong: Example(&[
        (
            "truehook.toml",
            r##"[section.spotlight]
label = "Spotlight"
"##,
        ),
        (
            "markup/sections/spotlight.html",
            r##"<section>Curlew</section>
"##,
        ),
        (
            "markup/page.html",
            r##"{% extends "layout.html" %}
{% block main %}
  <main>{{ place("region:main") }}</main>
  {{ place("section:spotlight") }}
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
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    for point in registry.points() {
        let offers = matches!(point.address.kind, Kind::Section | Kind::Piece) && point.address.inner().is_none();
        if !offers || point.reserved || point.dropped.is_some() || point.offers.is_some() {
            continue;
        }
        let Some(declared) = point.declared.last() else { continue };
        let message = format!("`{}` is not offered to site editors", point.address);
        let finding = Finding::new(&RULE, declared.layer, message).about(point.address);
        let finding = finding.at(registry, declared.place, "`offer` belongs here, if it is for them");
        let mend =
            declaring(registry, declared.layer, point.address, "offer", |words| format!("[{{ label = \"{words}\" }}]"));
        found.push(finding.mend(mend.unwrap_or_else(|| "offer = [{ label = \"…\" }], or reserved = true".into())));
    }
}
