//! A component is declared, but nothing renders it

use crate::command_line;
use crate::link::{Link, Registry, START, Wanted, component_template};
use crate::rules::telling::{misses, target_place};
use crate::rules::{Example, Finding, Level, Rule};
use crate::source::{FileId, FileKind, Place};

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
        if let Some(other) = other_spelling(registry, &template) {
            let place = Place { file: other, at: START };
            let name = template.rsplit('/').next().unwrap_or_default();
            finding = finding.at(registry, place, "this file is there");
            found.push(finding.mend(format!("call the file {name}, or declare the component by the file's name")));
            continue;
        }
        found.push(finding.mend(match own {
            true => command_line!["declare", address],
            false => format!("write markup/{template}, or name the callback that renders it by its render key"),
        }));
    }
}

/// A template in that place whose name differs in nothing but case, underscores and hyphens.
fn other_spelling(registry: &Registry, template: &str) -> Option<FileId> {
    let plain = |name: &str| name.to_ascii_lowercase().replace('_', "-");
    let project = registry.project();
    project.file_ids().find(|file| {
        let source = project.file(*file);
        source.kind == FileKind::Template && source.name() != template && plain(source.name()) == plain(template)
    })
}
