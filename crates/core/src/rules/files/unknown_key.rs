//! A key means nothing where it stands

use crate::link::Registry;
use crate::rules::support::flaws;
use crate::rules::{Example, Finding, Level, Rule};
use crate::scan::FlawKind;

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "unknown-key",
    level: Level::Error,
    summary: "A key means nothing where it stands",
    explanation: "Nothing reads it, so what it was meant to say has no effect. Most often it is misspelt or stands in the wrong table.",
    wrong: Example(&[
        (
            "truehook.toml",
            r##"[region.aside]
lable = "Beside the text"
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
    flaws(registry, &RULE, FlawKind::UnknownKey, found);
}
