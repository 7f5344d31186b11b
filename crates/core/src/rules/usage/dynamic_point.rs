//! A point is named, or used, in a way that can't be followed

use crate::name::Name;

use crate::link::Registry;
use crate::rules::telling::flaws;
use crate::rules::{Example, Finding, Level, Rule};
use crate::scan::{FlawKind, SectionKind, Shape, TemplateShape, Verb};
use crate::source::{FileId, Place};

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "dynamic-point",
    level: Level::Error,
    links: &[],
    awaited: false,
    summary: "A point is named, or used, in a way that can't be followed",
    explanation: "Points are named by literal strings, and place is only printed. So True Hook sees every use, and can tell what is missing before a page is shown.",
    wrong: Example(&[
        (
            "truehook.toml",
            r##"[region.aside]
label = "Beside the text"
"##,
        ),
        (
            "markup/page.html",
            r##"{% extends "layout.html" %}
{% block main %}
  <main>{{ place("region:main") }}</main>
  {% set spot = "region:aside" %}{{ place(spot) }}
{% endblock %}
"##,
        ),
    ]),
    right: Example(&[(
        "markup/page.html",
        r##"{% extends "layout.html" %}
{% block main %}
  <main>{{ place("region:main") }}</main>
  {{ place("region:aside") }}
{% endblock %}
"##,
    )]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    flaws(registry, &RULE, FlawKind::DynamicPoint, found);
    for (at, facts) in registry.all_facts().iter().enumerate() {
        let Shape::Template(template) = &facts.shape else { continue };
        let file = FileId(at as u32);
        for called in &template.processed {
            let Some(placement) = placed_by_macro(registry, file, template, called.name) else { continue };
            let layer = registry.project().file(file).layer;
            let message = format!("what the macro `{}` places is processed further here, and gets lost", called.name);
            let finding = Finding::new(&RULE, layer, message)
                .at(registry, Place { file, at: called.at }, "print what it returns as it is")
                .at(registry, placement, "placed here");
            found.push(finding);
        }
    }
}

/// The first placement in the macro of that local name: one of the file's own, or an imported one.
fn placed_by_macro(registry: &Registry, file: FileId, template: &TemplateShape, name: Name) -> Option<Place> {
    let first = |file: FileId, macros: &dyn Fn(Name) -> bool| {
        let template = registry.template(file)?;
        let placed = template.uses.iter().find(|found| {
            let section = &template.sections[usize::from(found.section.0)];
            found.verb == Verb::Place && matches!(section.kind, SectionKind::Macro(name) if macros(name))
        })?;
        Some(Place { file, at: placed.point.at })
    };
    if template.section(SectionKind::Macro(name)).is_some() {
        return first(file, &|known| known == name);
    }
    let layer = registry.project().file(file).layer;
    template.refs.iter().find_map(|reference| {
        let (_, single) = reference.aliases.iter().find(|(local, _)| *local == name)?;
        let target = registry.resolve_template(&reference.target?, layer)?;
        first(target, &|known| single.is_none_or(|single| single.name == known))
    })
}
