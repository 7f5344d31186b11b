//! A key means nothing where it stands

use crate::link::Registry;
use crate::names::nearest;
use crate::rules::support::flaws;
use crate::rules::{ALL, Example, Finding, Level, Rule, is_rule};
use crate::scan::FlawKind;
use crate::source::Place;

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
    right: Example(&[(
        "truehook.toml",
        r##"[region.aside]
label = "Beside the text"
"##,
    )]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    flaws(registry, &RULE, FlawKind::UnknownKey, found);
    let Some(manifest) = registry.top_manifest() else { return };
    let file = registry.project.layer(registry.project.top()).manifest;
    for (name, _) in manifest.check.rules.iter().filter(|(name, _)| !is_rule(&name.name)) {
        let known = || ALL.iter().map(|rule| rule.name);
        let label = match nearest(&name.name, known()) {
            Some(near) => format!("did you mean `{near}`?"),
            None => "there is no rule of that name".to_string(),
        };
        let message = format!("`{}` is not a rule", name.name);
        let finding = Finding::new(&RULE, registry.project.top(), message);
        found.push(finding.at(registry, Place { file, at: name.at }, label));
    }
}
