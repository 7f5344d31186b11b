//! An item sets an input that its component does not have, or a component has an input that nothing reads

use std::collections::HashSet;

use crate::name::Name;

use crate::link::{Link, Point, Registry, Renderer, START, Target, Wanted};
use crate::rules::telling::{miss_finding, misses};
use crate::rules::{Example, Finding, Level, Rule};
use crate::source::{FileId, Place};

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "unknown-input",
    level: Level::Error,
    links: &[Link::ItemKeyToInput, Link::ChoiceToOption, Link::ReturnToInput],
    awaited: true,
    summary: "An item sets an input that its component does not have, or a component has an input that nothing reads",
    explanation: "Either way a value gets lost on its way to the page. Where a callback renders the component or prepares its inputs, what is read can't be seen, and nothing is reported.",
    wrong: Example(&[
        (
            "truehook.toml",
            r##"[partial.note]
inputs.text = { type = "string", default = "" }
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
  {{ place("partial:note") }}
{% endblock %}
"##,
        ),
    ]),
    right: Example(&[(
        "markup/partials/note.html",
        r##"<p>{{ text }}</p>
"##,
    )]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    for miss in misses(registry, &RULE) {
        if let Wanted::Option(name) = miss.wanted {
            let message = format!("the site chooses `{name}`, but the theme has no such option");
            found.push(miss_finding(registry, &RULE, miss, message, "nothing reads this"));
            continue;
        }
        let Wanted::Input(address, name) = miss.wanted else { continue };
        let message = format!("`{address}` has no input `{name}`");
        let mut finding = miss_finding(registry, &RULE, miss, message, "nothing reads this").about(address);
        if let (None, Some(declared)) = (miss.meant, registry.point(address).and_then(|point| point.declared.last())) {
            finding = finding.at(registry, declared.place, "its inputs are declared here");
        }
        found.push(finding);
    }
    for point in registry.points() {
        unread_inputs(registry, point, found);
    }
}

/// Inputs that the component's own template never reads.
fn unread_inputs(registry: &Registry, point: &Point, found: &mut Vec<Finding>) {
    let Some(Renderer::Template(file)) = point.renderer else { return };
    if registry.blind().placements || !point.slots.is_empty() {
        return;
    }
    let names = names_read(registry, file);
    for input in point.inputs.iter().filter(|input| !names.contains(&input.field.name)) {
        let name = input.field.name;
        // What a feature reads is the host's business.
        if registry.is_fed(point.address, name) {
            continue;
        }
        if registry.is_meant(Target::Input(point.address, name)) {
            continue;
        }
        let message = format!("nothing reads the input `{name}` of `{}`", point.address);
        let finding = Finding::new(&RULE, registry.layer_of(input.place), message)
            .about(point.address)
            .at(registry, input.place, "declared here")
            .at(registry, Place { file, at: START }, "this renders it, and does not read it");
        found.push(finding.mend(format!("print it with {{{{ {name} }}}}, or take the input away")));
    }
}

/// All names that a template reads, with those that it extends, includes and imports.
fn names_read(registry: &Registry, file: FileId) -> HashSet<Name> {
    let mut files = vec![file];
    let mut names = HashSet::new();
    let mut at = 0;
    while at < files.len() {
        let Some(template) = registry.template(files[at]) else { break };
        names.extend(template.reads.iter().map(|read| read.path[0].name));
        let layer = registry.project().file(files[at]).layer;
        for target in template.refs.iter().filter_map(|reference| reference.target) {
            if let Some(other) = registry.resolve_template(&target, layer).filter(|other| !files.contains(other)) {
                files.push(other);
            }
        }
        at += 1;
    }
    names
}
