//! A template does not parse, or uses a filter or test that is not there

use crate::link::Registry;
use crate::rules::telling::flaws;
use crate::rules::{Example, Finding, Level, Rule};
use crate::scan::FlawKind;

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "markup-syntax",
    level: Level::Error,
    links: &[],
    awaited: false,
    summary: "A template does not parse, or uses a filter or test that is not there",
    explanation: "A template that does not parse shows nothing. A page's template gives way to the one of the layer below.",
    wrong: Example(&[(
        "markup/page.html",
        r##"{% extends "layout.html" %}
{% block main %}
  <main>{{ place("region:main") }}</main>
  {{ page.title | uper }}
{% endblock %}
"##,
    )]),
    right: Example(&[(
        "markup/page.html",
        r##"{% extends "layout.html" %}
{% block main %}
  <main>{{ place("region:main") }}</main>
  {{ page.title | upper }}
{% endblock %}
"##,
    )]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    flaws(registry, &RULE, FlawKind::MarkupSyntax, found);
}
