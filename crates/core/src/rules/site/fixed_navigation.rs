//! A template writes out links where a menu spot could be

use crate::link::Registry;
use crate::rules::{Example, Finding, Level, Rule};
use crate::scan::Shape;
use crate::source::{FileId, Span};

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "fixed-navigation",
    level: Level::Note,
    links: &[],
    awaited: false,
    summary: "A template writes out links where a menu spot could be",
    explanation: "Site editors can't change what a template says. A menu spot is theirs to fill, and marks the page that one is on.",
    wrong: Example(&[(
        "markup/page.html",
        r##"{% extends "layout.html" %}
{% block main %}
  <main>{{ place("region:main") }}</main>
  <nav><a href="/">Today</a> <a href="/log/">Logbook</a> <a href="/visit/">Visiting</a></nav>
{% endblock %}
"##,
    )]),
    right: Example(&[
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
  {% if filled("menu:masthead") %}<nav>{{ place("menu:masthead") }}</nav>{% endif %}
{% endblock %}
"##,
        ),
    ]),
    check,
};

/// How many literal links make a navigation.
const LINKS: usize = 3;

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    for (at, facts) in registry.all_facts().iter().enumerate() {
        let (file, Shape::Template(_)) = (FileId(at as u32), &facts.shape) else { continue };
        let source = registry.project().file(file);
        let text = source.text();
        for start in memchr::memmem::find_iter(text.as_bytes(), "<nav") {
            let end = text[start..].find("</nav").map_or(text.len(), |end| start + end);
            let inside = &text[start..end];
            let links = inside.matches("href=\"/").count();
            if links < LINKS || inside.contains("place(\"menu:") {
                continue;
            }
            let tag = inside.find('>').map_or(start, |end| start + end + 1);
            let message = format!("{} writes out {links} links, which site editors can't change", source.path);
            let finding = Finding::new(&RULE, source.layer, message);
            let finding = finding.at_span(file, Span::new(start, tag), "a menu spot belongs here");
            found.push(
                finding.mend("declare a menu spot and place it there, so that site editors can change the links"),
            );
        }
    }
}
