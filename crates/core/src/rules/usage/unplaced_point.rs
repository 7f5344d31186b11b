//! A point is declared, attached to or filled, but no template places it

use crate::address::Kind;
use crate::edit::suggest::Places;
use crate::link::{Lack, Point, Registry};
use crate::rules::telling::needing_places;
use crate::rules::{Example, Finding, Level, Rule};
use crate::source::LayerRole;

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "unplaced-point",
    level: Level::Warning,
    links: &[],
    awaited: true,
    summary: "A point is declared, attached to or filled, but no template places it",
    explanation: "What is attached to it never runs, and what fills it never shows. A filter is unplaced when nothing sends a value through it.",
    wrong: Example(&[(
        "truehook.toml",
        r##"[region.aside]
label = "Beside the text"
"##,
    )]),
    right: Example(&[(
        "markup/page.html",
        r##"{% extends "layout.html" %}
{% block main %}
  <main>{{ place("region:main") }}</main>
  {{ place("region:aside") }}
{% endblock %}
"##,
    )]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    let places = Places::of(registry);
    for absence in registry.absences().iter().filter(|absence| absence.lack == Lack::Unplaced) {
        let Some(point) = registry.point(absence.point) else { continue };
        if is_for_others(registry, point) {
            continue;
        }
        let what = match (point.slots.is_empty(), point.fills.is_empty()) {
            (false, _) => "attached to",
            (true, false) => "filled",
            (true, true) => "declared",
        };
        let lack = match absence.point.kind {
            Kind::Filter => "no value is sent through it",
            _ => "no template places it",
        };
        let message = format!("`{}` is {what}, but {lack}", absence.point);
        let finding = Finding::new(&RULE, absence.layer, message).about(absence.point);
        found.push(needing_places(registry, finding, absence.point).mend(places.command(absence.point, None)));
    }
}

/// Is it for other themes to place the point: since the checked one is a companion that declares it, or one that others
/// build on, and a companion declares it?
fn is_for_others(registry: &Registry, point: &Point) -> bool {
    let project = registry.project();
    let top = project.top();
    let identity = registry.top_manifest().and_then(|manifest| manifest.identity.as_ref());
    let is_companion = identity.is_some_and(|identity| identity.role == LayerRole::Companion);
    point.declared.first().is_some_and(|declared| match declared.layer == top {
        true => is_companion,
        false => {
            (project.layer(top).open || is_companion) && project.layer(declared.layer).role == LayerRole::Companion
        }
    })
}
