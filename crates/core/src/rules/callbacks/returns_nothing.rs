//! A filter, arranger or preparer has a way through it that returns nothing

use rustc_hash::FxHashSet;

use crate::address::Role;
use crate::link::Registry;
use crate::rules::telling::callbacks;
use crate::rules::{Example, Finding, Level, Rule};
use crate::source::Place;

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "returns-nothing",
    level: Level::Warning,
    links: &[],
    awaited: true,
    summary: "A filter, arranger or preparer has a way through it that returns nothing",
    explanation: "What it returns is what goes on. Where it returns nothing, the run reports a failure, and the old value is kept.",
    wrong: Example(&[
        (
            "code/notes.js",
            r##"export function metres(value) {
  if (value) return `${value} m`;
}
"##,
        ),
        (
            "truehook.toml",
            r##"[filter.tide-words]
value = { type = "string" }

[[attach]]
to = "filter:tide-words"
call = "notes.js#metres"
"##,
        ),
        (
            "markup/page.html",
            r##"{% extends "layout.html" %}
{% block main %}
  <main>{{ place("region:main") }}</main>
  <p>{{ page.title | through("filter:tide-words") }}</p>
{% endblock %}
"##,
        ),
    ]),
    right: Example(&[(
        "code/notes.js",
        r##"export function metres(value) {
  return value ? `${value} m` : value;
}
"##,
    )]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    let mut told = FxHashSet::default();
    for (callback, point, role) in callbacks(registry) {
        let Some(role) = role.filter(|role| *role != Role::Listener) else { continue };
        let Some(export) = registry.export(callback) else { continue };
        let Some(at) = export.signature.as_ref().and_then(|signature| signature.empty_end) else { continue };
        if told.contains(&callback) {
            continue;
        }
        told.insert(callback);
        let what = match role {
            Role::Filter => "a filter returns the new value",
            Role::Arranger => "an arranger returns the new list",
            _ => "a preparer returns the new inputs",
        };
        let message = format!("`{}` can end without a value, and {what}", registry.callback_name(callback));
        let layer = registry.project().file(callback.file).layer;
        let place = |at| Place { file: callback.file, at };
        let finding = Finding::new(&RULE, layer, message).about(point.address);
        let finding = finding.at(registry, place(at), "nothing is returned here");
        let finding = finding.at(registry, place(export.at), format!("this is attached to `{}`", point.address));
        found.push(finding.mend("return what it was given, where nothing is to change"));
    }
}
