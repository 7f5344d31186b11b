//! Something that site editors read has no label

use crate::link::Registry;
use crate::name::Name;
use crate::rules::telling::declaring;
use crate::rules::{Example, Finding, Level, Rule};
use crate::scan::{Flaw, FlawKind};
use crate::source::{LayerRole, Place};

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "label-missing",
    level: Level::Warning,
    links: &[],
    awaited: true,
    summary: "Something that site editors read has no label",
    explanation: "Themes, regions, areas, menu spots, sections, pieces and options are shown to people who don't know their names in code. A redeclaration inherits the label of the layer below.",
    wrong: Example(&[
        (
            "truehook.toml",
            r##"[region.tide-board]
about = "Tide board"
"##,
        ),
        (
            "markup/page.html",
            r##"{% extends "layout.html" %}
{% block main %}
  <main>{{ place("region:main") }}</main>
  {{ place("region:tide-board") }}
{% endblock %}
"##,
        ),
    ]),
    right: Example(&[(
        "truehook.toml",
        r##"[region.tide-board]
label = "Tide board"
"##,
    )]),
    check,
};

/// Is there nothing that people could read?
fn is_empty(label: Option<Name>) -> bool {
    label.is_none_or(|label| label.trim().is_empty())
}

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    let top = registry.project().top();
    let layer = registry.project().layer(top);
    let identity = registry.top_manifest().and_then(|manifest| manifest.identity.as_ref());
    // A key that is misspelt is reported as such.
    let misspelt = |flaw: &Flaw| flaw.kind == FlawKind::UnknownKey && flaw.instead.as_deref() == Some("label");
    let misspelt = registry.facts(layer.manifest).flaws.iter().any(misspelt);
    if let Some(identity) =
        identity.filter(|_| !misspelt).filter(|identity| is_empty(identity.label) && layer.role == LayerRole::Theme)
    {
        let finding = Finding::new(&RULE, top, format!("the theme `{}` has no label", layer.name));
        let place = Place { file: layer.manifest, at: identity.at };
        found.push(finding.at(registry, place, "`label` belongs here").mend("label = \"…\", as people call the theme"));
    }
    for point in registry.points() {
        if !point.address.kind.is_labelled() || !is_empty(point.label) || point.reserved || point.dropped.is_some() {
            continue;
        }
        let Some(declared) = point.declared.last() else { continue };
        let message = format!("`{}` has no label", point.address);
        let finding = Finding::new(&RULE, declared.layer, message).about(point.address);
        let finding = finding.at(registry, declared.place, "`label` belongs here");
        let mend = declaring(registry, declared.layer, point.address, "label", |words| format!("\"{words}\""));
        found.push(finding.mend(mend.unwrap_or_else(|| "label = \"…\", as site editors call it".into())));
    }
}
