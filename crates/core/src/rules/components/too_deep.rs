//! Items are nested deeper than the host allows

use crate::link::{Registry, START};
use crate::rules::{Example, Finding, Level, Rule};
use crate::source::{LayerId, Place};

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "too-deep",
    level: Level::Error,
    links: &[],
    awaited: false,
    summary: "Items are nested deeper than the host allows",
    explanation: "The host's contract says how deep components may be nested. What lies deeper is not rendered.",
    wrong: Example(&[
        (
            "truehook.toml",
            r##"[region.aside]
label = "Beside the text"

[piece.box]
label = "Box"
holds = ["piece:box"]
offer = [{ label = "A box" }]
"##,
        ),
        (
            "markup/pieces/box.html",
            r##"<div>{{ place("held") }}</div>
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
        (
            "preview/site.toml",
            r##"[fill]
"region:aside" = [ { use = "piece:box", holds = [ { use = "piece:box", holds = [ { use = "piece:box", holds = [ { use = "piece:box", holds = [ { use = "piece:box", holds = [ { use = "piece:box", holds = [ { use = "piece:box", holds = [ { use = "piece:box", holds = [ { use = "piece:box", holds = [ { use = "piece:box", holds = [ { use = "piece:box", holds = [ { use = "piece:box", holds = [ { use = "piece:box" } ] } ] } ] } ] } ] } ] } ] } ] } ] } ] } ] } ] } ]
"##,
        ),
    ]),
    right: Example(&[(
        "preview/site.toml",
        r##"[fill]
"region:aside" = [ { use = "piece:box", holds = [ { use = "piece:box", holds = [ { use = "piece:box" } ] } ] } ]
"##,
    )]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    let most = registry.limits().nesting;
    for placed in registry.items().iter().filter(|placed| placed.depth == most + 1) {
        let place = Place { file: placed.file, at: placed.item.component.at };
        let message =
            format!("`{}` is nested {} deep, and {most} is the most", placed.item.component.raw, placed.depth);
        let finding = Finding::new(&RULE, registry.layer_of(place), message);
        let finding = finding.at(registry, place, "this does not show");
        let contract = Place { file: registry.project().layer(LayerId(0)).manifest, at: START };
        found.push(finding.at(registry, contract, "the host's contract says so").mend("nest it less"));
    }
}
