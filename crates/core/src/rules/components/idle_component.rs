//! A component is declared, but nothing uses it

use crate::link::{Registry, Target};
use crate::rules::{Example, Finding, Level, Rule};

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "idle-component",
    level: Level::Note,
    links: &[],
    awaited: true,
    summary: "A component is declared, but nothing uses it",
    explanation: "No template, callback or fill uses it. Site editors may still pick it, if it is offered; if nobody is meant to, it can go.",
    wrong: Example(&[
        (
            "truehook.toml",
            r##"[partial.note]
about = "A note"
"##,
        ),
        (
            "markup/partials/note.html",
            r##"<p>Boots needed.</p>
"##,
        ),
    ]),
    right: Example(&[(
        "markup/page.html",
        r##"{% extends "layout.html" %}
{% block main %}
  <main>{{ place("region:main") }}</main>
  {{ place("partial:note") }}
{% endblock %}
"##,
    )]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    let top = registry.project().top();
    if registry.project().layer(top).open || registry.blind().placements {
        return;
    }
    for point in registry.points().filter(|point| point.address.kind.is_component()) {
        let Some(declared) = point.declared.first().filter(|declared| declared.layer == top) else { continue };
        if !registry.is_referred(Target::Point(point.address)) {
            let message = format!("`{}` is declared, but nothing uses it", point.address);
            let finding = Finding::new(&RULE, top, message).about(point.address);
            let finding = finding.at(registry, declared.place, "declared here");
            found.push(finding.mend(format!("{{{{ place(\"{}\") }}}}", point.address)));
        }
    }
}
