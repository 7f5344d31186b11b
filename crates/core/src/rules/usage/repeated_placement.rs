//! A region, area or menu spot is on one page twice

use crate::address::Kind;
use crate::link::{Registry, UseId};
use crate::rules::{Example, Finding, Level, Rule};
use crate::scan::Verb;

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "repeated-placement",
    level: Level::Warning,
    links: &[],
    awaited: false,
    summary: "A region, area or menu spot is on one page twice",
    explanation: "All that fills it shows twice, with the same ids and headings. Placements in different branches of a condition are left alone.",
    wrong: Example(&[
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
  <hr>
  {{ place("region:aside") }}
{% endblock %}
"##,
        ),
    ]),
    right: Example(&[
        (
            "truehook.toml",
            r##"[region.aside]
label = "Beside the text"

[region.below]
label = "Below the text"
"##,
        ),
        (
            "markup/page.html",
            r##"{% extends "layout.html" %}
{% block main %}
  <main>{{ place("region:main") }}</main>
  {{ place("region:aside") }}
  <hr>
  {{ place("region:below") }}
{% endblock %}
"##,
        ),
    ]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    for point in registry.points() {
        if !matches!(point.address.kind, Kind::Region | Kind::Area | Kind::Menu) || point.uses.len() < 2 {
            continue;
        }
        let placed = |id: &&UseId| registry.use_of(**id).verb == Verb::Place;
        let sure: Vec<UseId> = point.uses.iter().filter(placed).copied().collect();
        let pair = sure.iter().enumerate().find_map(|(at, first)| {
            let shared = |second: &&UseId| !registry.use_sure(*first).and(registry.use_sure(**second)).is_empty();
            Some((*first, *sure[at + 1..].iter().find(shared)?))
        });
        let Some((first, second)) = pair else { continue };
        let types = registry.type_names(registry.use_sure(first).and(registry.use_sure(second)));
        let layer = registry.layer_of(registry.use_place(first)).max(registry.layer_of(registry.use_place(second)));
        let message = format!("`{}` is twice on pages of type {}", point.address, crate::rules::telling::list(&types));
        let finding = Finding::new(&RULE, layer, message).about(point.address);
        let (one, other) = match registry.layer_of(registry.use_place(second)) == layer {
            true => (second, first),
            false => (first, second),
        };
        let finding = finding.at(registry, registry.use_place(one), "placed here");
        found.push(finding.at(registry, registry.use_place(other), "and here").mend("take one of the two away"));
    }
}
