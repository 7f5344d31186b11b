//! A template says nothing else than the one below that it takes the place of

use crate::command_line;
use crate::link::{Registry, START};
use crate::read::FileKind;
use crate::rules::{Example, Finding, Level, Rule};
use crate::source::Place;

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "dead-override",
    level: Level::Note,
    links: &[],
    awaited: false,
    summary: "A template says nothing else than the one below that it takes the place of",
    explanation: "A template that says what the one below says changes nothing today, and hides what the lower layer's next release changes.",
    wrong: Example(&[
        (
            "../shingle/truehook.toml",
            r##"[theme]
name = "shingle"
label = "Shingle"
open = true
"##,
        ),
        (
            "../shingle/markup/page.html",
            r##"{% extends "layout.html" %}
"##,
        ),
        (
            "truehook.toml",
            r##"[theme]
name = "example"
label = "Example"
base = { path = "../shingle" }
"##,
        ),
    ]),
    right: Example(&[(
        "../shingle/markup/page.html",
        r##"{% extends "layout.html" %}
{% block main %}<h1>{{ page.title }}</h1>{{ super() }}{% endblock %}
"##,
    )]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    let project = &registry.project();
    for file in registry.overrides().filter(|file| project.file(*file).layer == project.top()) {
        let source = project.file(file);
        let below = registry.files_named(FileKind::Template, source.name()).iter().rev().nth(1);
        let Some(below) = below.filter(|below| project.file(**below).text().trim() == source.text().trim()) else {
            continue;
        };
        let layer = project.layer(project.file(*below).layer).name;
        let message = format!("{} says what {layer}'s says already", source.path);
        let start = |file| Place { file, at: START };
        let finding = Finding::new(&RULE, source.layer, message).at(registry, start(file), "this changes nothing");
        found.push(finding.at(registry, start(*below), "the same").mend(command_line![
            "adopt",
            source.name(),
            "--undo"
        ]));
    }
}
