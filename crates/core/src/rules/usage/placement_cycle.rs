//! What a point shows places the point again

use crate::link::Registry;
use crate::rules::{Example, Finding, Level, Rule};

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "placement-cycle",
    level: Level::Error,
    links: &[],
    awaited: false,
    summary: "What a point shows places the point again",
    explanation: "It would have to be filled while it is being filled, without end. A component may place itself only where a condition ends it; a hook or region never.",
    wrong: Example(&[
        (
            "truehook.toml",
            r##"[partial.note]
about = "A note"
"##,
        ),
        (
            "markup/partials/note.html",
            r##"<p>{{ place("partial:note") }}</p>
"##,
        ),
        (
            "markup/page.html",
            r##"{% extends "layout.html" %}
{% block main %}
  <main>{{ place("region:main") }}</main>
  {{ place("partial:note") }}
{% endblock %}
"##,
        ),
    ]),
    right: Example(&[(
        "markup/partials/note.html",
        r##"<p>Boots needed.</p>
"##,
    )]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    for cycle in registry.cycles().iter().filter(|cycle| !cycle.templates) {
        let way: Vec<&str> = cycle.steps.iter().map(|(_, name)| name.as_str()).collect();
        let message = format!("this is placed inside itself: {} → {}", way.join(" → "), way.first().unwrap_or(&""));
        let layer =
            cycle.steps.iter().map(|(place, _)| registry.layer_of(*place)).max().unwrap_or(registry.project().top());
        let mut steps: Vec<_> = cycle.steps.iter().collect();
        steps.sort_by_key(|(place, _)| registry.layer_of(*place) != layer);
        let mut finding = Finding::new(&RULE, layer, message);
        for (place, name) in steps {
            finding = finding.at(registry, *place, format!("leads to {name}"));
        }
        found.push(finding.mend("take one of these placements away"));
    }
}
