//! A file that is referred to is not there

use crate::link::{Link, Registry};
use crate::rules::telling::{miss_finding, misses, written};
use crate::rules::{Example, Finding, Level, Rule};
use crate::source::leaves;

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "missing-file",
    level: Level::Error,
    links: &[Link::TemplateToTemplate, Link::PageToBody, Link::AssetToFile],
    awaited: false,
    summary: "A file that is referred to is not there",
    explanation: "Templates are named relative to markup/ and looked for from the top layer downwards, pictures and other files relative to the theme's folder.",
    wrong: Example(&[(
        "markup/page.html",
        r##"{% extends "layout.html" %}
{% block main %}
  <main>{{ place("region:main") }}</main>
  {% include "imprint.html" %}
{% endblock %}
"##,
    )]),
    right: Example(&[(
        "markup/imprint.html",
        r##"<p>Marsh Lane 4</p>
"##,
    )]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    for miss in misses(registry, &RULE) {
        let name = written(registry, miss);
        let is_root = miss.link == Link::AssetToFile && name.starts_with("/media/");
        if leaves(name) && !is_root {
            continue;
        }
        let message = match miss.link {
            _ if is_root => format!("`{name}` leads nowhere: a page names a file of the theme from the theme's folder"),
            Link::TemplateToTemplate => format!("there is no template `{name}` in any layer's markup/"),
            Link::PageToBody => format!("there is no body `{name}` beside the page"),
            _ => format!("there is no file `{name}` in any layer"),
        };
        // The files of styles and scripts lie in one folder, wherever others do.
        let from = registry.references()[miss.references[0]].from.file;
        let otherwise = match miss.link == Link::AssetToFile && registry.manifest(from).is_some() && !name.contains('/')
        {
            true => "styles and scripts lie in media/, and no such file does",
            false => "nothing of that name is there",
        };
        found.push(miss_finding(registry, &RULE, miss, message, otherwise));
    }
}
