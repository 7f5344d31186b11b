//! A component may hold items and never places them, or places them and may hold none

use rustc_hash::{FxHashMap, FxHashSet};

use crate::address::Address;
use crate::command_line;
use crate::edit::suggest::Places;
use crate::link::body_region;
use crate::link::{Point, Registry, Renderer, START};
use crate::rules::telling::{declaring, misspells};
use crate::rules::{Example, Finding, Level, Rule};
use crate::scan::{Outlet, OutletKind, Shape};
use crate::source::{FileId, LayerId, Place};

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "no-outlet",
    level: Level::Error,
    links: &[],
    awaited: true,
    summary: "A component may hold items and never places them, or places them and may hold none",
    explanation: "`place(\"held\")` is where held items show, and `holds` is what lets them in; one without the other shows nothing. A page's sections show where its template says `place(\"sections\")`.",
    wrong: Example(&[
        (
            "truehook.toml",
            r##"[region.aside]
label = "Beside the text"

[section.spotlight]
label = "Spotlight"
holds = ["piece:*"]
offer = [{ label = "A spotlight" }]

[piece.note]
label = "Note"
offer = [{ label = "A note" }]
"##,
        ),
        (
            "markup/sections/spotlight.html",
            r##"<section>Curlew</section>
"##,
        ),
        (
            "markup/pieces/note.html",
            r##"<p>Boots needed.</p>
"##,
        ),
        (
            "markup/page.html",
            r##"{% extends "layout.html" %}
{% block main %}
  <main>{{ place("region:main") }}</main>
  {{ place("region:aside") }}
  {{ place("sections") }}
{% endblock %}
"##,
        ),
    ]),
    right: Example(&[(
        "markup/sections/spotlight.html",
        r##"<section>{{ place("held") }}</section>
"##,
    )]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    let inner: FxHashMap<Address, Place> =
        registry.points().filter_map(|piece| Some((piece.address.inner()?.0, piece.declared.last()?.place))).collect();
    let any_outlet = registry.all_facts().iter().any(|facts| match &facts.shape {
        Shape::Template(template) => template.outlets.iter().any(|outlet| outlet.kind == OutletKind::Held),
        Shape::Module(module) => module.outlets.iter().any(|outlet| outlet.kind == OutletKind::Held),
        _ => false,
    });
    let brought: FxHashSet<Address> = registry
        .items()
        .iter()
        .filter(|placed| placed.component.is_some_and(|held| registry.point(held).is_some()))
        .filter_map(|placed| placed.holder)
        .collect();
    for point in registry.points().filter(|point| point.address.kind.is_component()) {
        let holds = point.holds.first().map(|(_, place)| *place);
        let holds = holds.or(inner.get(&point.address).copied());
        if holds.is_none() && !any_outlet {
            continue;
        }
        let outlet = match outlet(registry, point) {
            Ok(outlet) => outlet,
            Err(Unseen) => continue,
        };
        match (holds, outlet) {
            (Some(place), None) => found.push(without_outlet(registry, point, place)),
            // What an item brings it all the same is told there.
            (None, Some(_)) if brought.contains(&point.address) || misspells(registry, point, "holds") => {}
            (None, Some(place)) if point.layer().is_some_and(|layer| layer.index() > 0) => {
                let message = format!("`{}` places what it holds, but may hold nothing", point.address);
                let layer = registry.layer_of(place).max(point.layer().unwrap_or(LayerId(0)));
                let finding = Finding::new(&RULE, layer, message).about(point.address);
                let finding = finding.at(registry, place, "nothing ever shows here");
                let finding = finding.at_declaration(registry, point.address, "`holds` belongs here");
                let mend = declaring(registry, layer, point.address, "holds", |_| "[\"piece:*\"]".to_string());
                found.push(finding.mend(mend.unwrap_or_else(|| "holds = [\"piece:*\"]".into())));
            }
            _ => {}
        }
    }
    pages(registry, found);
}

/// Does a component place what it holds, as far as can be seen?
pub fn shows_held(registry: &Registry, component: Address) -> bool {
    registry.point(component).is_some_and(|point| !matches!(outlet(registry, point), Ok(None)))
}

/// What renders the component can't be seen into.
struct Unseen;

/// Where a component places what it holds.
fn outlet(registry: &Registry, point: &Point) -> Result<Option<Place>, Unseen> {
    let held = |file: FileId, outlets: &[Outlet]| {
        let found = outlets.iter().find(|outlet| outlet.kind == OutletKind::Held);
        found.map(|outlet| Place { file, at: outlet.at })
    };
    match point.renderer {
        Some(Renderer::Callback(callback)) => match registry.module(callback.file) {
            Some(module) if !module.broken && !module.dynamic => Ok(held(callback.file, &module.outlets)),
            _ => Err(Unseen),
        },
        Some(Renderer::Template(file)) => {
            let mut files = vec![file];
            let mut at = 0;
            while let Some(file) = files.get(at).copied() {
                let template = registry.template(file).filter(|template| !template.broken && !template.dynamic);
                let template = template.ok_or(Unseen)?;
                if let Some(place) = held(file, &template.outlets) {
                    return Ok(Some(place));
                }
                let layer = registry.project().file(file).layer;
                for written in template.refs.iter().filter_map(|reference| reference.target) {
                    let other = registry.resolve_template(&written, layer).ok_or(Unseen)?;
                    if !files.contains(&other) {
                        files.push(other);
                    }
                }
                at += 1;
            }
            Ok(None)
        }
        None => Err(Unseen),
    }
}

fn without_outlet(registry: &Registry, point: &Point, place: Place) -> Finding {
    let message = format!("`{}` may hold items, but never places them", point.address);
    let renderer = match point.renderer {
        Some(Renderer::Template(file)) => Some(Place { file, at: START }),
        Some(Renderer::Callback(callback)) => {
            registry.export(callback).map(|export| Place { file: callback.file, at: export.at })
        }
        None => None,
    };
    let layer =
        renderer.map_or(registry.layer_of(place), |shown| registry.layer_of(shown).max(registry.layer_of(place)));
    let finding = Finding::new(&RULE, layer, message).about(point.address);
    let finding = finding.at(registry, place, "what it may hold would not show");
    let finding = renderer.into_iter().fold(finding, |finding, shown| finding.at(registry, shown, "this renders it"));
    finding.mend("{{ place(\"held\") }}, where the items are to show")
}

/// Pages that are composed of sections, with a template that does not show them.
fn pages(registry: &Registry, found: &mut Vec<Finding>) {
    if registry.blind().placements {
        return;
    }
    let reached = registry.sections_reached();
    for (file, page) in registry.pages() {
        let (Some(first), Some(page_type)) = (page.sections.first(), page.page_type) else { continue };
        let at = registry.types().iter().position(|known| known.name == page_type.name);
        let Some(at) = at.filter(|at| !reached.has(*at)) else { continue };
        let message = format!("pages of type {} don't place their sections", page_type.name);
        let place = Place { file, at: first.component.at };
        let finding = Finding::new(&RULE, registry.layer_of(place), message).at(registry, place, "this would not show");
        let template = registry.types()[at].templates.first().map(|file| Place { file: *file, at: START });
        let finding =
            template.into_iter().fold(finding, |finding, shown| finding.at(registry, shown, "this shows the page"));
        // Only where it is on those pages.
        let project = registry.project();
        let position = registry.types().iter().position(|known| known.name == page_type.name);
        let reaches = |template: &str| {
            let file = project.find(project.top(), &format!("markup/{template}"));
            let types = file.map(|file| registry.template_types(file));
            types.zip(position).is_some_and(|(types, position)| types.has(position))
        };
        let suggested = Places::of(registry).suggest(body_region(), None);
        let mend = match suggested.filter(|(template, _)| reaches(template)) {
            Some((template, selector)) => command_line!["place", "sections", "--in", template, "--inside", selector],
            None => "{{ place(\"sections\") }}, where the page's sections are to show".to_string(),
        };
        found.push(finding.mend(mend));
    }
}
