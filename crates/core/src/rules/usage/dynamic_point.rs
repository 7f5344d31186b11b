//! A point is named, or used, in a way that can't be followed

use crate::link::Registry;
use crate::rules::support::flaws;
use crate::rules::{Example, Finding, Level, Rule};
use crate::scan::FlawKind;

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "dynamic-point",
    level: Level::Error,
    summary: "A point is named, or used, in a way that can't be followed",
    explanation: "Points are named by literal strings, and place is only printed. So True Hook sees every use, and can tell what is missing before a page is shown.",
    wrong: Example(&[
        (
            "truehook.toml",
            r##"[region.aside]
label = "Beside the text"
"##,
        ),
        (
            "markup/page.html",
            r##"{% extends "layout.html" %}
{% block main %}
  <main>{{ place("region:main") }}</main>
  {% set spot = "region:aside" %}{{ place(spot) }}
{% endblock %}
"##,
        ),
    ]),
    right: Example(&[
        (
            "truehook.toml",
            r##"[region.aside]
label = "Beside the text"
"##,
        ),
        (
            "markup/page.html",
            r##"{% extends "layout.html" %}
{% block main %}
  <main>{{ place("region:main") }}</main>
  {{ place("region:aside") }}
{% endblock %}
"##,
        ),
    ]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    flaws(registry, &RULE, FlawKind::DynamicPoint, found);
}
