//! The site fills a point that is not there

use crate::address::Address;
use crate::link::{Link, Registry};
use crate::rules::telling::{miss_finding, misses, written};
use crate::rules::{Example, Finding, Level, Rule};

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "fill-target",
    level: Level::Error,
    links: &[Link::FillToPoint],
    awaited: false,
    summary: "The site fills a point that is not there",
    explanation: "What was put into it would vanish from the page. Most often the name is misspelt, or the theme that the site comes from had such a region and this one has not.",
    wrong: Example(&[
        (
            "truehook.toml",
            r##"[region.aside]
label = "Beside the text"

[partial.note]
about = "A note"
"##,
        ),
        (
            "markup/partials/note.html",
            r##"<p>Boots needed.</p>
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
"region:asid" = [ { use = "partial:note" } ]
"##,
        ),
    ]),
    right: Example(&[(
        "preview/site.toml",
        r##"[fill]
"region:aside" = [ { use = "partial:note" } ]
"##,
    )]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    for miss in misses(registry, &RULE) {
        let name = written(registry, miss);
        let (message, label) = match name.parse::<Address>() {
            Err(error) => (error.to_string(), "an address belongs here".to_string()),
            Ok(address) if registry.point(address).is_some() => {
                (format!("a {} can't be filled", address.kind), "a region belongs here".to_string())
            }
            Ok(_) => (format!("`{name}` is filled, but no layer declares it"), "this content would vanish".to_string()),
        };
        let mut finding = miss_finding(registry, &RULE, miss, message, &label);
        finding.point = Some(name.to_string());
        if finding.mend.is_none() {
            finding = finding.mend(format!("truehook declare {name}"));
        }
        found.push(finding);
    }
}
