//! A placement passes on an argument that the point does not take

use crate::address::Kind;
use crate::link::{Link, MENU_ARGUMENTS, Registry, Wanted};
use crate::rules::telling::{list, miss_finding, misses};
use crate::rules::{Example, Finding, Level, Rule};

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "unknown-argument",
    level: Level::Error,
    links: &[Link::ArgumentToInput],
    awaited: false,
    summary: "A placement passes on an argument that the point does not take",
    explanation: "Nothing reads it. What a point takes are the inputs of a component, and the args of a hook or filter.",
    wrong: Example(&[
        (
            "truehook.toml",
            r##"[partial.note]
inputs.text = { type = "string", default = "" }
"##,
        ),
        (
            "markup/partials/note.html",
            r##"<p>{{ text }}</p>
"##,
        ),
        (
            "markup/page.html",
            r##"{% extends "layout.html" %}
{% block main %}
  <main>{{ place("region:main") }}</main>
  {{ place("partial:note", txt="Boots needed.") }}
{% endblock %}
"##,
        ),
    ]),
    right: Example(&[(
        "markup/page.html",
        r##"{% extends "layout.html" %}
{% block main %}
  <main>{{ place("region:main") }}</main>
  {{ place("partial:note", text="Boots needed.") }}
{% endblock %}
"##,
    )]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    for miss in misses(registry, &RULE) {
        let Wanted::Input(address, name) = miss.wanted else { continue };
        let Some(point) = registry.point(address) else { continue };
        let known: Vec<String> = match address.kind {
            Kind::Menu => MENU_ARGUMENTS.iter().map(|name| format!("`{name}`")).collect(),
            _ => point.passed().iter().map(|input| format!("`{}`", input.field.name)).collect(),
        };
        let label = if known.is_empty() { "it takes none".to_string() } else { format!("it takes {}", list(&known)) };
        let message = format!("`{address}` takes no argument `{name}`");
        let mut finding = miss_finding(registry, &RULE, miss, message, &label).about(address);
        if let (None, Some(declared)) = (miss.meant, point.declared.last()) {
            finding = finding.at(registry, declared.place, "what it takes is declared here");
        }
        found.push(finding);
    }
}
