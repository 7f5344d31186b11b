//! What is said of an input is no JSON Schema, or its default does not fit it

use std::sync::Arc;

use rustc_hash::FxHashSet;
use serde_json::Value;

use crate::link::Registry;
use crate::rules::{Example, Finding, Level, Rule};
use crate::schema::{fault, misfit};
use crate::source::Place;

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "input-type",
    level: Level::Error,
    links: &[],
    awaited: false,
    summary: "What is said of an input is no JSON Schema, or its default does not fit it",
    explanation: "Inputs and arguments are described in the words of JSON Schema. The default is what a template gets where nothing is given, so it has to fit.",
    wrong: Example(&[
        (
            "truehook.toml",
            r##"[partial.hours]
inputs.days = { type = "integer", default = "two" }
"##,
        ),
        (
            "markup/partials/hours.html",
            r##"<p>{{ days }}</p>
"##,
        ),
        (
            "markup/page.html",
            r##"{% extends "layout.html" %}
{% block main %}
  <main>{{ place("region:main") }}</main>
  {{ place("partial:hours") }}
{% endblock %}
"##,
        ),
    ]),
    right: Example(&[(
        "truehook.toml",
        r##"[partial.hours]
inputs.days = { type = "integer", default = 2 }
"##,
    )]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    // Many say the same, and then it is kept once.
    let mut sound: FxHashSet<*const Value> = FxHashSet::default();
    for point in registry.points() {
        for input in point.inputs.iter().chain(&point.args) {
            let name = input.field.name;
            let said = Place { file: input.place.file, at: input.field.said };
            let start = |message: String| Finding::new(&RULE, registry.layer_of(said), message).about(point.address);
            let known = Arc::as_ptr(&input.field.schema);
            if sound.contains(&known) {
                continue;
            }
            if let Some(why) = fault(&input.field.schema) {
                let message = format!("what `{name}` of `{}` may be is no JSON Schema: {why}", point.address);
                found.push(start(message).at(registry, said, "described here"));
                continue;
            }
            let wrong = input.field.default().and_then(|default| misfit(&input.field.schema, default));
            if wrong.is_none() {
                sound.insert(known);
            }
            if let Some(wrong) = wrong {
                let message = format!("the default of `{name}` of `{}` does not fit: {}", point.address, wrong.message);
                let steps: Vec<String> = ["default".to_string()].into_iter().chain(wrong.steps).collect();
                found.push(start(message).at_part(registry, said, &steps, "this is no value for it"));
            }
        }
    }
}
