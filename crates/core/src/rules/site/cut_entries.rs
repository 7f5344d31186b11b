//! A menu has entries below the levels that its spot shows

use serde_json::Value;

use crate::address::Kind;
use crate::link::Registry;
use crate::rules::{Example, Finding, Level, Rule};
use crate::scan::{FillContent, Verb};
use crate::source::{LayerId, Place};

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "cut-entries",
    level: Level::Note,
    links: &[],
    awaited: false,
    summary: "A menu has entries below the levels that its spot shows",
    explanation: "A menu spot shows as many levels as its `levels` says. Deeper entries are in the site's menu, and nowhere on the page.",
    wrong: Example(&[
        (
            "truehook.toml",
            r##"[menu.masthead]
label = "In the masthead"
levels = 1
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
everyday = [ { label = "Today", href = "/", entries = [ { label = "Tides", href = "/#tides" } ] } ]

[fill]
"menu:masthead" = "everyday"
"##,
        ),
    ]),
    right: Example(&[(
        "truehook.toml",
        r##"[menu.masthead]
label = "In the masthead"
levels = 2
"##,
    )]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    for point in registry.points().filter(|point| point.address.kind == Kind::Menu) {
        let (Some(levels), [(file, fill), ..]) = (point.levels, point.fills.as_slice()) else { continue };
        // A placement may say otherwise, and a partial of the theme's own may do as it likes.
        let own = |id: &crate::link::UseId| {
            let used = registry.use_of(*id);
            used.open
                || used.args.iter().any(|arg| arg.name == "levels" || arg.name == "with")
                || used.verb != Verb::Place
        };
        let Some(FillContent::Menu(menu)) = registry.fill_of(*file, *fill).map(|fill| &fill.content) else { continue };
        if point.uses.iter().any(own) || point.reached.is_empty() {
            continue;
        }
        let all = registry.menus();
        let Some((named, place)) = all.iter().find(|(known, _)| known.name == menu.name) else { continue };
        let value = registry
            .sites()
            .find(|(file, _)| *file == place.file)
            .and_then(|(_, site)| site.value.get("menus")?.get(named.name.as_str()));
        let deep = value.map_or(0, depth);
        if deep <= levels {
            continue;
        }
        let message = format!("`{}` shows {levels} of the {deep} levels of the menu `{}`", point.address, named.name);
        let layer = registry.layer_of(*place).max(point.layer().unwrap_or(LayerId(0)));
        let finding = Finding::new(&RULE, layer, message).about(point.address);
        let finding = finding.at(registry, *place, "it has deeper entries");
        let finding = finding.at(registry, Place { file: *file, at: menu.at }, "it fills the spot here");
        found.push(
            finding
                .at_declaration(registry, point.address, "`levels` is said here")
                .mend(format!("levels = {deep}, or a menu without deeper entries")),
        );
    }
}

/// How many levels a menu has.
fn depth(entries: &Value) -> u64 {
    let below = |entry: &Value| entry.get("entries").map_or(0, depth);
    match entries.as_array() {
        Some(entries) if !entries.is_empty() => 1 + entries.iter().map(below).max().unwrap_or(0),
        _ => 0,
    }
}
