//! A manifest or preview file is no TOML, or a key has a value of the wrong type

use crate::link::Registry;
use crate::rules::telling::flaws;
use crate::rules::{Example, Finding, Level, Rule};
use crate::scan::FlawKind;

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "manifest-syntax",
    level: Level::Error,
    links: &[],
    awaited: false,
    summary: "A manifest or preview file is no TOML, or a key has a value of the wrong type",
    explanation: "The rest of the file is read as far as it can be understood. What it may have declared is not reported as missing until it parses.",
    wrong: Example(&[
        (
            "truehook.toml",
            r##"[region.aside]
label = 7

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
    flaws(registry, &RULE, FlawKind::ManifestSyntax, found);
    for repeat in registry.repeats() {
        let message = format!("`{}` is declared twice in one layer", repeat.point);
        let finding = Finding::new(&RULE, registry.layer_of(repeat.again), message).about(repeat.point);
        let finding = finding.at(registry, repeat.again, "here again").at(registry, repeat.first, "declared here");
        found.push(finding.mend("put both tables into one"));
    }
}
