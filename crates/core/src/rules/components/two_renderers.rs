//! A component has both a template and a render callback in one layer

use crate::link::{Registry, START, TwoRenderers};
use crate::rules::{Example, Finding, Level, Rule};
use crate::source::Place;

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "two-renderers",
    level: Level::Error,
    links: &[],
    awaited: false,
    summary: "A component has both a template and a render callback in one layer",
    explanation: "Only one can render it. The callback does, and the template in the same layer is idle, though whoever edits it sees nothing change.",
    wrong: Example(&[
        (
            "truehook.toml",
            r##"[partial.note]
about = "A note"
render = "notes.js#today"
"##,
        ),
        (
            "code/notes.js",
            r##"export function today() { return "Low water"; }
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
        (
            "markup/partials/note.html",
            r##"<p>Boots needed.</p>
"##,
        ),
    ]),
    right: Example(&[("markup/partials/note.html", "")]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    for TwoRenderers { component, render, template } in registry.two_renderers() {
        let name = registry.project().shown(*template);
        let message = format!("`{component}` is rendered by a callback and by {name}, in one layer");
        let finding = Finding::new(&RULE, registry.layer_of(*render), message)
            .about(*component)
            .at(registry, *render, "the callback")
            .at(registry, Place { file: *template, at: START }, "the template, which is idle");
        found.push(finding.mend(format!("take `render` away, or delete {name}")));
    }
}
