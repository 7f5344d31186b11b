//! A component is declared, but nothing renders it

use crate::command_line;
use crate::link::{Link, Registry, Wanted, component_template};
use crate::rules::telling::{misses, target_place};
use crate::rules::{Example, Finding, Level, Rule};

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "missing-markup",
    level: Level::Error,
    links: &[Link::ComponentToTemplate],
    awaited: true,
    summary: "A component is declared, but nothing renders it",
    explanation: "A partial is rendered by markup/partials/NAME.html, or by the callback that its render key names.",
    wrong: Example(&[
        (
            "truehook.toml",
            r##"[partial.note]
about = "A note"
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
        r##"<p>Boots needed.</p>
"##,
    )]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    for miss in misses(registry, &RULE) {
        let Wanted::Markup(address) = miss.wanted else { continue };
        let template = component_template(address);
        let message = format!("nothing renders `{address}`: there is no markup/{template} and no `render`");
        let mut finding = Finding::new(&RULE, miss.layer, message).about(address);
        finding = finding.at(registry, registry.references()[miss.references[0]].from, "declared here");
        if let Some(place) = miss.meant.and_then(|meant| target_place(registry, meant.target)) {
            finding = finding.at(registry, place, "was this template meant?");
        }
        let own = miss.layer == registry.project().top();
        found.push(finding.mend(match own {
            true => command_line!["declare", address],
            false => format!("write markup/{template}, or name the callback that renders it by its render key"),
        }));
    }
}
