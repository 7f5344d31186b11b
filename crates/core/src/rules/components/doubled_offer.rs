//! A component makes the same offer twice

use crate::link::Registry;
use crate::rules::{Example, Finding, Level, Rule};
use crate::scan::Item;
use crate::source::Place;

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "doubled-offer",
    level: Level::Warning,
    links: &[],
    awaited: false,
    summary: "A component makes the same offer twice",
    explanation: "Site editors can't tell offers of one label from each other, and two offers of the same content are one.",
    wrong: Example(&[
        (
            "truehook.toml",
            r##"[section.band]
label = "Band"
offer = [
  { label = "Quiet", item = { tone = "pale" } },
  { label = "Quiet", item = { tone = "dark" } },
]
inputs.tone = { type = "string", default = "pale" }
"##,
        ),
        (
            "markup/sections/band.html",
            r##"<section class="{{ tone }}">Low water at noon</section>
"##,
        ),
        (
            "markup/page.html",
            r##"{% extends "layout.html" %}
{% block main %}
  <main>{{ place("region:main") }}</main>
  {{ place("sections") }}
{% endblock %}
"##,
        ),
    ]),
    right: Example(&[(
        "truehook.toml",
        r##"[section.band]
label = "Band"
offer = [
  { label = "Quiet", item = { tone = "pale" } },
  { label = "Loud", item = { tone = "dark" } },
]
inputs.tone = { type = "string", default = "pale" }
"##,
    )]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    for point in registry.points() {
        let offers: Vec<_> = point.offers.iter().flatten().collect();
        for (at, (file, offer)) in offers.iter().enumerate() {
            let same = |(_, other): &&&(_, crate::scan::Offer)| {
                let label = offer.label.is_some() && other.label == offer.label;
                label || says(&other.item) == says(&offer.item)
            };
            let Some((first_file, first)) = offers[..at].iter().find(same) else { continue };
            let message = match (offer.label, first.label == offer.label) {
                (Some(label), true) => format!("`{}` is offered as “{label}” twice", point.address),
                _ => format!("two offers of `{}` are the same content", point.address),
            };
            let place = Place { file: *file, at: offer.at };
            let finding = Finding::new(&RULE, registry.layer_of(place), message).about(point.address);
            let finding = finding.at(registry, place, "offered here");
            let finding = finding.at(registry, Place { file: *first_file, at: first.at }, "and here");
            found.push(finding.mend("take one of them away, or let them differ"));
        }
    }
}

/// What an item is, whatever its places.
fn says(item: &Item) -> serde_json::Value {
    let inputs: Vec<_> = item.inputs.iter().map(|given| (given.name.name.as_str(), &given.value)).collect();
    let holds: Vec<_> = item.holds.iter().map(says).collect();
    let when = item.when.as_ref().map(|when| when.text.as_str());
    serde_json::json!([item.component.raw.as_str(), inputs, holds, when])
}
