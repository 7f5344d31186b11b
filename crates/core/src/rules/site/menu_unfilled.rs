//! A menu spot is filled with a menu that the site does not have

use crate::link::{Link, Registry, Wanted};
use crate::rules::telling::{miss_finding, misses};
use crate::rules::{Example, Finding, Level, Rule};

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "menu-unfilled",
    level: Level::Error,
    links: &[Link::FillToMenu],
    awaited: true,
    summary: "A menu spot is filled with a menu that the site does not have",
    explanation: "The spot stays empty. What stands there is the name of one of the menus under [menus].",
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
"menu:masthead" = "evryday"
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
    for miss in misses(registry, &RULE) {
        let Wanted::Menu(name) = miss.wanted else { continue };
        let message = format!("the site has no menu `{name}`");
        let names: Vec<&str> = registry.menus().into_iter().map(|(menu, _)| menu.name.as_str()).collect();
        let label = match names.is_empty() {
            true => "the site has no menus".to_string(),
            false => format!("its menus are {}", names.join(", ")),
        };
        found.push(miss_finding(registry, &RULE, miss, message, &label));
    }
}
