//! Pages of a type bring a list that their templates never read

use serde_json::Value;

use crate::link::Registry;
use crate::names::nearest;
use crate::rules::{Example, Finding, Level, Rule};
use crate::scan::{Named, PageShape, Shape};
use crate::source::{FileId, LayerId, Place};

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "unshown-entries",
    level: Level::Warning,
    links: &[],
    awaited: false,
    summary: "Pages of a type bring a list that their templates never read",
    explanation: "The entries of a list page, or the results of a search page, come from the host; the page shows them where a template, or a callback, reads them. Where none does, people see a page without what they came for.",
    wrong: Example(&[
        (
            "preview/pages/log.toml",
            r##"path = "/log/"
type = "list"
title = "Logbook"
"##,
        ),
        (
            "preview/pages/avocets.toml",
            r##"path = "/log/avocets/"
type = "entry"
title = "The avocets are back"
"##,
        ),
    ]),
    right: Example(&[(
        "markup/list.html",
        r##"{% extends "layout.html" %}
{% block main %}
<main>
  {{ place("region:main") }}
  {% for entry in page.entries %}<a href="{{ entry.path }}">{{ entry.title }}</a>{% endfor %}
</main>
{% endblock %}
"##,
    )]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    if registry.blind().placements || registry.blind().declarations {
        return;
    }
    for (position, page_type) in registry.types().iter().enumerate() {
        let lists = page_type.keys.iter().filter(|key| key.schema.get("type").is_some_and(|word| word == "array"));
        let Some(first) = page_type.templates.first() else { continue };
        let mut pages =
            registry.pages().filter(|(_, page)| page.page_type.is_some_and(|own| own.name == page_type.name));
        let Some((file, page)) = pages.next() else { continue };
        let unread = lists.filter(|key| !is_read(registry, position, key.name.as_str()));
        for key in unread.filter(|key| brings(registry, page, key.name.as_str())) {
            let place = Place { file, at: page.page_type.map(|own| own.at).unwrap_or_default() };
            let layer = registry.layer_of(place).max(registry.project().file(*first).layer).max(LayerId(0));
            let message =
                format!("pages of type {} bring `page.{}`, and nothing on them reads it", page_type.name, key.name);
            let finding = Finding::new(&RULE, layer, message).at(registry, place, "such a page");
            let finding =
                finding.at(registry, Place { file: *first, at: crate::link::START }, "this template shows it");
            let declared = Place { file: page_type.place.file, at: key.at };
            let finding = finding.at(registry, declared, "declared here");
            found.push(finding.mend(format!("print page.{} in markup/{}.html", key.name, page_type.name)));
        }
    }
}

/// Does a page of the preview bring something under that key: entry pages below it, or what it says itself?
fn brings(registry: &Registry, page: &PageShape, key: &str) -> bool {
    let is_filled = |value: &Value| value.as_array().is_some_and(|list| !list.is_empty());
    let path = page.path.map_or("/", |path| path.name.as_str());
    let below = |other: &PageShape| {
        let is_entry = other.page_type.is_some_and(|own| own.name == "entry");
        is_entry && other.path.is_some_and(|own| own.name != path && own.name.as_str().starts_with(path))
    };
    page.value.get(key).is_some_and(is_filled) || key == "entries" && registry.pages().any(|(_, other)| below(other))
}

/// Is a key of `page` read on pages of a type, by a template that they reach or by any callback?
fn is_read(registry: &Registry, position: usize, key: &str) -> bool {
    registry.all_facts().iter().enumerate().any(|(at, facts)| match &facts.shape {
        Shape::Template(template) => {
            // `page` as a whole may be handed to what reads it; a misspelt key is told by itself.
            let is_key =
                |step: &Named| step.name.is_empty() || step.name == *key || nearest(&step.name, [key]).is_some();
            let reads = |path: &[Named]| path[0].name == "page" && path.get(1).is_none_or(is_key);
            registry.template_types(FileId(at as u32)).has(position)
                && template.reads.iter().any(|read| reads(&read.path))
        }
        Shape::Module(_) => registry.project().file(FileId(at as u32)).text().contains(key),
        _ => false,
    })
}
