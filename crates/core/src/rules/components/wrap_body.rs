//! Wrapping markup is unbalanced, or does not print the body exactly once

use crate::link::Registry;
use crate::rules::telling::flaws;
use crate::rules::{Example, Finding, Level, Rule};
use crate::scan::FlawKind;

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "wrap-body",
    level: Level::Error,
    links: &[],
    awaited: false,
    summary: "Wrapping markup is unbalanced, or does not print the body exactly once",
    explanation: "What a wrap opens it closes, and between the two stands {{ body }}. An area's wrap may print {{ title }}, {{ id }} and {{ kind }} too, each where it likes; its wrap-title prints {{ text }} once, and may print {{ id }}.",
    wrong: Example(&[
        (
            "truehook.toml",
            r##"[area.notes]
label = "Notes"
wrap = '<aside>{{ title }}</aside>'
"##,
        ),
        (
            "markup/page.html",
            r##"{% extends "layout.html" %}
{% block main %}
  <main>{{ place("region:main") }}</main>
  {{ place("area:notes") }}
{% endblock %}
"##,
        ),
    ]),
    right: Example(&[(
        "truehook.toml",
        r##"[area.notes]
label = "Notes"
wrap = '<aside class="{{ kind }}" aria-labelledby="{{ id }}">{{ title }}{{ body }}</aside>'
wrap-title = '<h3 id="{{ id }}">{{ text }}</h3>'
"##,
    )]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    flaws(registry, &RULE, FlawKind::WrapBody, found);
}
