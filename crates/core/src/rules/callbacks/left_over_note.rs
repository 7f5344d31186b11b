//! A note was left behind

use crate::link::Registry;
use crate::rules::{Example, Finding, Level, Rule};
use crate::scan::Shape;
use crate::source::{FileId, Place};

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "left-over-note",
    level: Level::Warning,
    links: &[],
    awaited: false,
    summary: "A note was left behind",
    explanation: "`note` writes a value into the trace while one looks for something. It shows nothing on the page, and costs time on each.",
    wrong: Example(&[
        (
            "code/notes.js",
            r##"import { note } from "truehook";

export function today({ site }) {
  note(site.data);
  return "Low water";
}
"##,
        ),
        (
            "truehook.toml",
            r##"[[attach]]
to = "hook:document-end"
call = "notes.js#today"
"##,
        ),
    ]),
    right: Example(&[(
        "code/notes.js",
        r##"export function today() {
  return "Low water";
}
"##,
    )]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    for (at, facts) in registry.all_facts().iter().enumerate() {
        let file = FileId(at as u32);
        let notes = match &facts.shape {
            Shape::Template(template) => &template.notes,
            Shape::Module(module) => &module.notes,
            _ => continue,
        };
        let Some(first) = notes.first() else { continue };
        let message = format!("{} writes a note into the trace", registry.project().shown(file));
        let layer = registry.project().file(file).layer;
        let mut finding = Finding::new(&RULE, layer, message).at(registry, Place { file, at: *first }, "left over");
        for at in &notes[1..] {
            finding = finding.at(registry, Place { file, at: *at }, "and here");
        }
        found.push(finding.mend("take it away once it has told what it was to tell"));
    }
}
