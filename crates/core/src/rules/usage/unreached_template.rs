//! No page and no other template uses a template

use crate::command_line;
use crate::link::{Registry, START};
use crate::rules::{Example, Finding, Level, Rule};
use crate::source::Place;

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "unreached-template",
    level: Level::Warning,
    links: &[],
    awaited: true,
    summary: "No page and no other template uses a template",
    explanation: "It is neither named after a type of page or a declared component, nor extended, included or imported. Themes that others build on are left alone: their templates may be there for those.",
    wrong: Example(&[(
        "markup/imprint.html",
        r##"<p>Marsh Lane 4</p>
"##,
    )]),
    right: Example(&[(
        "markup/page.html",
        r##"{% extends "layout.html" %}
{% block main %}
  <main>{{ place("region:main") }}</main>
  {% include "imprint.html" %}
{% endblock %}
"##,
    )]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    // A broken manifest may declare what this template renders, and a broken template include it.
    if registry.blind().declarations || registry.blind().placements {
        return;
    }
    for (file, source) in registry.project().files_of(registry.project().top()) {
        if !registry.is_stray_template(file) || registry.template(file).is_some_and(|template| template.broken) {
            continue;
        }
        let name = source.name();
        let message = format!("no page and no template uses {name}");
        let mut finding =
            Finding::new(&RULE, source.layer, message).at(registry, Place { file, at: START }, "nothing leads here");
        for found in registry.uses_in(file) {
            let place = Place { file, at: found.point.at };
            finding = finding.at(registry, place, format!("so this placement of `{}` doesn't show", found.point.raw));
        }
        let mend = match name.strip_prefix("partials/").and_then(|name| name.strip_suffix(".html")) {
            Some(partial) => command_line!["declare", format!("partial:{partial}")],
            None => format!("include it where it belongs: {{% include \"{name}\" %}}"),
        };
        found.push(finding.mend(mend));
    }
}
