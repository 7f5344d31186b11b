//! A name is spelt in a way that no address can hold

use crate::link::{Registry, START};
use crate::rules::telling::flaws;
use crate::rules::{Example, Finding, Level, Rule};
use crate::scan::FlawKind;
use crate::source::Place;

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "bad-name",
    level: Level::Error,
    links: &[],
    awaited: false,
    summary: "A name is spelt in a way that no address can hold",
    explanation: "Points, kinds and layers use lower-case letters, digits and single hyphens; inputs and arguments use underscores, since expressions read them. Some words have a meaning of their own.",
    wrong: Example(&[(
        "truehook.toml",
        r##"[region.Aside]
label = "Beside the text"
"##,
    )]),
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
    flaws(registry, &RULE, FlawKind::BadName, found);
    let layers = &registry.project().layers;
    for (at, layer) in layers.iter().enumerate() {
        if let Some(first) = layers[..at].iter().find(|other| other.name == layer.name) {
            let message = format!("two layers are called `{}`", layer.name);
            let start = |file| Place { file, at: START };
            let finding = Finding::new(&RULE, registry.project().top(), message)
                .at(registry, start(layer.manifest), "this one")
                .at(registry, start(first.manifest), "and this one");
            found.push(finding.mend("rename one of them, with its folder"));
        }
    }
}
