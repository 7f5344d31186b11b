//! An option has no default, or one that it can't be

use crate::address::Kind;
use crate::link::Registry;
use crate::rules::{Example, Finding, Level, Rule};
use crate::schema::{fault, misfit};

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "option-default",
    level: Level::Error,
    links: &[],
    awaited: true,
    summary: "An option has no default, or one that it can't be",
    explanation: "A site that chooses nothing gets the default, so every option has one, and it fits what the option may be.",
    wrong: Example(&[
        (
            "truehook.toml",
            r##"[option.scheme]
label = "Colour scheme"
type = "string"
enum = ["day", "night"]
default = "dusk"
"##,
        ),
        (
            "markup/page.html",
            r##"{% extends "layout.html" %}
{% block main %}
  <main class="{{ options.scheme }}">{{ place("region:main") }}</main>
{% endblock %}
"##,
        ),
    ]),
    right: Example(&[(
        "truehook.toml",
        r##"[option.scheme]
label = "Colour scheme"
type = "string"
enum = ["day", "night"]
default = "day"
"##,
    )]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    for point in registry.points().filter(|point| point.address.kind == Kind::Option) {
        let Some((schema, place)) = &point.value else { continue };
        let name = point.address.name;
        let start = |message: String| Finding::new(&RULE, registry.layer_of(*place), message).about(point.address);
        if let Some(why) = fault(schema) {
            let finding = start(format!("what `{name}` may be is no JSON Schema: {why}"));
            found.push(finding.at(registry, *place, "declared here"));
            continue;
        }
        match schema.get("default") {
            None => {
                let finding = start(format!("the option `{name}` has no default"));
                found.push(finding.at(registry, *place, "`default` belongs here").mend("default = …"));
            }
            Some(default) => {
                let Some(wrong) = misfit(schema, default) else { continue };
                let finding = start(format!("the default of the option `{name}` does not fit: {}", wrong.message));
                let steps: Vec<String> = ["default".to_string()].into_iter().chain(wrong.steps).collect();
                found.push(finding.at_part(registry, *place, &steps, "this can't be chosen"));
            }
        }
    }
}
