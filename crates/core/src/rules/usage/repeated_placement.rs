//! A region, area or menu spot is on one page twice

use crate::address::Kind;
use crate::link::{Registry, Twice};
use crate::rules::telling::list;
use crate::rules::{Example, Finding, Level, Rule};
use crate::scan::{Chance, OutletKind, SectionKind, Shape, TemplateShape, Verb};
use crate::source::{FileId, Place};

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "repeated-placement",
    level: Level::Warning,
    links: &[],
    awaited: false,
    summary: "A region, area or menu spot is on one page twice",
    explanation: "All that fills it shows twice, with the same ids and headings. Whether it is filled, asked around a placement, changes nothing in that; placements in different branches of a condition are left alone. A partial, a parent's block or a callback that is shown twice counts as often, and so does a loop.",
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
  {{ place("region:aside") }}
  <hr>
  {{ place("region:aside") }}
{% endblock %}
"##,
        ),
    ]),
    right: Example(&[
        (
            "truehook.toml",
            r##"[region.aside]
label = "Beside the text"

[region.below]
label = "Below the text"
"##,
        ),
        (
            "markup/page.html",
            r##"{% extends "layout.html" %}
{% block main %}
  <main>{{ place("region:main") }}</main>
  {{ place("region:aside") }}
  <hr>
  {{ place("region:below") }}
{% endblock %}
"##,
        ),
    ]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    for point in registry.points() {
        if matches!(point.address.kind, Kind::Region | Kind::Area | Kind::Menu)
            && let Some(twice) = registry.point_twice(point.address)
        {
            let name = point.address.to_string();
            found.push(finding(registry, &format!("`{name}` is"), &twice).about(point.address));
        }
    }
    for (at, facts) in registry.all_facts().iter().enumerate() {
        let (file, Shape::Template(template)) = (FileId(at as u32), &facts.shape) else { continue };
        found.extend(held_twice(registry, file, template));
        found.extend(super_twice(registry, file, template));
    }
    found.extend(registry.sections_twice().map(|twice| finding(registry, "the page's sections are", &twice)));
}

fn finding(registry: &Registry, what: &str, twice: &Twice) -> Finding {
    let types = list(&registry.type_names(twice.types));
    let message = match twice.looped {
        true => format!("{what} placed in a loop, so that pages of type {types} can show it again and again"),
        false => format!("{what} twice on pages of type {types}"),
    };
    let mut places: Vec<(Place, &str)> = Vec::new();
    for place in &twice.placed {
        let label = match (places.is_empty(), twice.shown.is_empty()) {
            (true, _) if twice.looped && twice.shown.is_empty() => "placed in a loop",
            (true, _) => "placed here",
            (false, _) => "and here",
        };
        places.push((*place, label));
    }
    for (at, place) in twice.shown.iter().enumerate() {
        let label = match at {
            _ if twice.looped => "which is shown in a loop",
            0 => "which is shown here",
            _ => "and here",
        };
        places.push((*place, label));
    }
    let layer = places.iter().map(|(place, _)| registry.layer_of(*place)).max().unwrap_or(registry.project().top());
    // What belongs to the finding's own layer comes first, and so is the primary place.
    places.sort_by_key(|(place, _)| registry.layer_of(*place) != layer);
    let finding = places
        .into_iter()
        .fold(Finding::new(&RULE, layer, message), |finding, (place, label)| finding.at(registry, place, label));
    finding.mend(if twice.looped { "take it out of the loop" } else { "take one of the two away" })
}

/// What a component holds, shown twice by its template.
fn held_twice(registry: &Registry, file: FileId, template: &TemplateShape) -> Option<Finding> {
    let held: Vec<_> = template.outlets.iter().filter(|outlet| outlet.kind == OutletKind::Held).collect();
    let always = held.iter().filter(|outlet| outlet.guard.is_none() && outlet.chance == Chance::Always);
    let [first, second, ..] = always.collect::<Vec<_>>()[..] else { return None };
    if first.section != second.section {
        return None;
    }
    let places = [first, second].map(|outlet| Place { file, at: outlet.at });
    let message = "what the component holds is placed twice, and shows twice";
    let finding = Finding::new(&RULE, registry.project().file(file).layer, message);
    let finding = finding.at(registry, places[0], "placed here").at(registry, places[1], "and here");
    Some(finding.mend("take one of the two away"))
}

/// A parent's block that is shown twice, with what is placed in it.
fn super_twice(registry: &Registry, file: FileId, template: &TemplateShape) -> Option<Finding> {
    let always: Vec<_> = template.supers.iter().filter(|call| call.guard.is_none()).collect();
    let pair = always.windows(2).find(|pair| pair[0].section == pair[1].section)?;
    let SectionKind::Block(block) = template.sections[usize::from(pair[0].section.0)].kind else { return None };
    let (parent, section) = registry
        .chain(file)
        .into_iter()
        .skip(1)
        .find_map(|parent| Some((parent, registry.template(parent)?.block(block)?)))?;
    let uses = &registry.template(parent)?.uses;
    let filled = |used: &&crate::scan::Use| {
        let is_filled =
            used.point.address.is_some_and(|point| matches!(point.kind, Kind::Region | Kind::Area | Kind::Menu));
        used.section == section && used.verb == Verb::Place && is_filled
    };
    let placed = uses.iter().find(filled)?;
    let places = [pair[0], pair[1]].map(|call| Place { file, at: call.at });
    let message = format!("the parent's block `{block}` is shown twice, with `{}` in it", placed.point.raw);
    let finding = Finding::new(&RULE, registry.project().file(file).layer, message);
    let finding = finding.at(registry, places[0], "shown here").at(registry, places[1], "and here");
    let finding = finding.at(registry, Place { file: parent, at: placed.point.at }, "placed in that block");
    Some(finding.mend("take one of the two away"))
}
