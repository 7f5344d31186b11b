//! A file reference leads out of its layer's folder

use crate::link::{Link, Miss, Registry, join_import};
use crate::rules::telling::{flaws, miss_finding, written};
use crate::rules::{Example, Finding, Level, Rule};
use crate::scan::FlawKind;
use crate::source::leaves;

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "outside-theme",
    level: Level::Error,
    links: &[],
    awaited: false,
    summary: "A file reference leads out of its layer's folder",
    explanation: "A theme has to hold all that it needs, so that it works wherever it is put. Only base, companions and host may lie outside.",
    wrong: Example(&[(
        "markup/page.html",
        r##"{% extends "layout.html" %}
{% block main %}
  <main>{{ place("region:main") }}</main>
  <img src="{{ asset("../photos/egret.svg") }}" alt="">
{% endblock %}
"##,
    )]),
    right: Example(&[
        (
            "markup/page.html",
            r##"{% extends "layout.html" %}
{% block main %}
  <main>{{ place("region:main") }}</main>
  <img src="{{ asset("media/egret.svg") }}" alt="">
{% endblock %}
"##,
        ),
        ("media/egret.svg", r##"<svg/>"##),
    ]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    flaws(registry, &RULE, FlawKind::OutsideTheme, found);
    for miss in registry.misses() {
        let name = written(registry, miss);
        let outside = match miss.link {
            // Such an address was meant for a file inside.
            Link::AssetToFile if name.starts_with("/media/") => false,
            Link::AssetToFile | Link::PageToBody | Link::TemplateToTemplate => leaves(name),
            Link::ImportToModule => is_outside_import(registry, miss),
            _ => false,
        };
        if outside {
            let folder = if miss.link == Link::ImportToModule { "the code/ folder" } else { "the theme's folder" };
            let message = format!("`{name}` lies outside {folder}");
            let finding = miss_finding(registry, &RULE, miss, message, "this leads out");
            found.push(finding.mend("copy what is needed into the theme"));
        }
    }
}

/// Does a relative import go further up than `code/`?
pub(in crate::rules) fn is_outside_import(registry: &Registry, miss: &Miss) -> bool {
    let reference = &registry.references()[miss.references[0]];
    let from = registry.project().file(reference.from.file).name();
    reference.written.starts_with('.') && join_import(from, &reference.written).is_none()
}
