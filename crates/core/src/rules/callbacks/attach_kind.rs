//! Something is attached to a kind of point that does not take it

use crate::address::Kind;
use crate::link::{Registry, WrongKind};
use crate::rules::{Example, Finding, Level, Rule};

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "attach-kind",
    level: Level::Error,
    links: &[],
    awaited: false,
    summary: "Something is attached to a kind of point that does not take it",
    explanation: "A partial can stand in for a callback on a hook, where it adds its markup. On any other kind of point a function is needed, which returns a new value.",
    wrong: Example(&[
        (
            "truehook.toml",
            r##"[region.aside]
label = "Beside the text"

[partial.note]
about = "A note"

[[attach]]
to = "region:aside"
use = "partial:note"
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
    ]),
    right: Example(&[
        (
            "truehook.toml",
            r##"[partial.note]
about = "A note"

[[attach]]
to = "hook:document-end"
use = "partial:note"
"##,
        ),
        (
            "markup/page.html",
            r##"{% extends "layout.html" %}
"##,
        ),
    ]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    for WrongKind { point: address, place } in registry.wrong_kinds() {
        let message = match address.kind.role() {
            Some(role) => {
                let kind = address.kind.one();
                format!("a partial can't be attached to `{address}`: {kind} takes {}", role.several())
            }
            None => format!("nothing can be attached to `{address}`: {} is only chosen", address.kind.one()),
        };
        let mut finding = Finding::new(&RULE, registry.layer_of(*place), message).about(*address);
        let label = if address.kind.role().is_some() { "a `call` belongs here" } else { "this never runs" };
        finding = finding.at(registry, *place, label);
        if let Some(declared) = registry.point(*address).and_then(|point| point.declared.last()) {
            finding = finding.at(registry, declared.place, format!("it is {}", address.kind.one()));
        }
        let mend = match address.kind {
            Kind::Region | Kind::Area => "fill it with the partial, or attach the partial to a hook",
            Kind::Option => "read the option in a callback that is attached elsewhere",
            _ => "attach a callback, or attach the partial to a hook",
        };
        found.push(finding.mend(mend));
    }
}
