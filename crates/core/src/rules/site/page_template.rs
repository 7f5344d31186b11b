//! A page has a type that there is not, or no template shows it

use crate::link::{Link, Registry, START};
use crate::rules::telling::{list, miss_finding, misses, written};
use crate::rules::{Example, Finding, Level, Rule};
use crate::source::Place;

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "page-template",
    level: Level::Error,
    links: &[Link::PageToType],
    awaited: false,
    summary: "A page has a type that there is not, or no template shows it",
    explanation: "The host contract and the theme say which types there are. A page is shown by TYPE.html, or by page.html where there is none.",
    wrong: Example(&[(
        "preview/pages/front.toml",
        r##"path = "/"
type = "frnt"
title = "Today"
"##,
    )]),
    right: Example(&[(
        "preview/pages/front.toml",
        r##"path = "/"
type = "front"
title = "Today"
"##,
    )]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    for miss in misses(registry, &RULE) {
        let name = written(registry, miss);
        let known: Vec<&str> = registry.types().iter().map(|page_type| page_type.name.as_str()).collect();
        let message = format!("there is no type of page `{name}`");
        found.push(miss_finding(registry, &RULE, miss, message, &format!("the types are {}", list(&known))));
    }
    let top = registry.project().top();
    let without: Vec<&str> = registry
        .types()
        .iter()
        .filter(|page_type| page_type.templates.is_empty())
        .map(|page_type| page_type.name.as_str())
        .collect();
    // A theme that others build on need not show pages by itself.
    if without.is_empty() || registry.blind().declarations || registry.project().layer(top).open {
        return;
    }
    let message = format!("no template shows pages of type {}", list(&without));
    let place = Place { file: registry.project().layer(top).manifest, at: START };
    let mut finding =
        Finding::new(&RULE, top, message).at(registry, place, "this theme and its base have no page.html");
    for page_type in registry.types().iter().filter(|page_type| page_type.templates.is_empty()).take(1) {
        finding = finding.at(registry, page_type.place, "the types are declared here");
    }
    found.push(finding.mend("write markup/page.html"));
}
