//! Templates extend or include each other in a circle

use crate::link::Registry;
use crate::rules::{Example, Finding, Level, Rule};

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "template-cycle",
    level: Level::Error,
    links: &[],
    awaited: false,
    summary: "Templates extend or include each other in a circle",
    explanation: "A template that extends or includes itself, by way of others or not, never comes to an end, so none of those in the circle can be shown.",
    wrong: Example(&[
        (
            "markup/page.html",
            r##"{% extends "layout.html" %}
{% block main %}
  <main>{{ place("region:main") }}</main>
  {% include "imprint.html" %}
{% endblock %}
"##,
        ),
        (
            "markup/imprint.html",
            r##"<p>Marsh Lane 4</p>
{% include "imprint.html" %}
"##,
        ),
    ]),
    right: Example(&[(
        "markup/imprint.html",
        r##"<p>Marsh Lane 4</p>
"##,
    )]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    for cycle in registry.cycles().iter().filter(|cycle| cycle.templates) {
        let way: Vec<&str> = cycle.steps.iter().map(|(_, name)| name.as_str()).collect();
        let message =
            format!("these templates lead back to themselves: {} → {}", way.join(" → "), way.first().unwrap_or(&""));
        let layer =
            cycle.steps.iter().map(|(place, _)| registry.layer_of(*place)).max().unwrap_or(registry.project().top());
        let mut steps: Vec<_> = cycle.steps.iter().collect();
        steps.sort_by_key(|(place, _)| registry.layer_of(*place) != layer);
        let mut finding = Finding::new(&RULE, layer, message);
        for (place, name) in steps {
            finding = finding.at(registry, *place, format!("leads to {name}"));
        }
        found.push(finding.mend("take one of these steps away"));
    }
}
