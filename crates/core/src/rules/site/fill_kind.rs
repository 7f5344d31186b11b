//! A point is filled with something of the wrong kind

use crate::address::Kind;
use crate::link::Registry;
use crate::rules::{Example, Finding, Level, Rule};
use crate::scan::FillContent;
use crate::source::Place;

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "fill-kind",
    level: Level::Error,
    links: &[],
    awaited: false,
    summary: "A point is filled with something of the wrong kind",
    explanation: "A menu spot is filled with the name of one of the site's menus, a region or area with a list of items, and a page is composed of sections.",
    wrong: Example(&[
        (
            "truehook.toml",
            r##"[menu.masthead]
label = "In the masthead"
"##,
        ),
        (
            "markup/page.html",
            r##"{% extends "layout.html" %}
{% block main %}
  <main>{{ place("region:main") }}</main>
  {{ place("menu:masthead") }}
{% endblock %}
"##,
        ),
        (
            "preview/site.toml",
            r##"[menus]
everyday = [ { label = "Today", href = "/" } ]

[fill]
"menu:masthead" = [ { use = "partial:body" } ]
"##,
        ),
    ]),
    right: Example(&[(
        "preview/site.toml",
        r##"[menus]
everyday = [ { label = "Today", href = "/" } ]

[fill]
"menu:masthead" = "everyday"
"##,
    )]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    for (file, _, fill) in registry.fills() {
        let Some(point) = fill.to.address.and_then(|address| registry.point(address)) else { continue };
        let (message, label) = match (&fill.content, point.address.kind) {
            (FillContent::Items(_), Kind::Menu) => (
                format!("`{}` is a menu spot, and is filled with items", point.address),
                "the name of a menu belongs here",
            ),
            (FillContent::Menu(_), kind) if kind.holds_items() => (
                format!("`{}` is {}, and is filled with a menu", point.address, kind.one()),
                "a list of items belongs here",
            ),
            _ => continue,
        };
        let place = Place { file, at: fill.to.at };
        let finding = Finding::new(&RULE, registry.layer_of(place), message).about(point.address);
        let finding = finding.at(registry, place, label);
        found.push(finding.at_declaration(registry, point.address, "declared here").mend(label));
    }
    for placed in registry.items().iter().filter(|placed| placed.holder.is_none() && !placed.offered) {
        let Some(component) = placed.component.filter(|component| component.kind != Kind::Section) else { continue };
        if placed.depth > 1 || registry.page(placed.file).is_none() {
            continue;
        }
        let place = Place { file: placed.file, at: placed.item.component.at };
        let message = format!("a page is composed of sections, and `{component}` is {}", component.kind.one());
        let finding = Finding::new(&RULE, registry.layer_of(place), message).about(component);
        let finding = finding.at(registry, place, "a section belongs here");
        found.push(
            finding.at_declaration(registry, component, "declared here").mend("put it into a section that holds it"),
        );
    }
}
