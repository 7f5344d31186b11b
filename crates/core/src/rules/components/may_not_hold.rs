//! A component holds another one that it may not hold

use indexmap::IndexMap;

use crate::address::Address;
use crate::link::{Link, Registry, Target};
use crate::rules::components::no_outlet::shows_held;
use crate::rules::telling::{declaring, inner_named, list, misspells, written};
use crate::rules::{Example, Finding, Level, Rule};
use crate::source::Place;

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "may-not-hold",
    level: Level::Error,
    links: &[],
    awaited: false,
    summary: "A component holds another one that it may not hold",
    explanation: "What a section or piece may hold is said by its `holds`; an inner piece can be held by its own section alone. A page is composed of sections.",
    wrong: Example(&[
        (
            "truehook.toml",
            r##"[region.aside]
label = "Beside the text"

[section.spotlight]
label = "Spotlight"
holds = ["partial:*"]
offer = [{ label = "A spotlight" }]

[piece.note]
label = "Note"
offer = [{ label = "A note" }]

[piece.frame]
label = "Frame"
holds = ["piece:note"]
offer = [{ label = "A frame" }]
"##,
        ),
        (
            "markup/sections/spotlight.html",
            r##"<section>{{ place("held") }}</section>
"##,
        ),
        (
            "markup/pieces/note.html",
            r##"<p>Boots needed.</p>
"##,
        ),
        (
            "markup/pieces/frame.html",
            r##"<div>{{ place("held") }}</div>
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
        (
            "preview/site.toml",
            r##"[fill]
"region:aside" = [ { use = "section:spotlight", holds = [ { use = "piece:note" } ] } ]
"##,
        ),
    ]),
    right: Example(&[
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
        ("markup/pieces/frame.html", ""),
    ]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    for miss in registry.misses() {
        let name = written(registry, miss);
        let Some((section, inner)) = inner_named(registry, name) else { continue };
        let message = format!("`{name}` is a piece of `{section}`, which alone may hold it");
        let mut finding = Finding::new(&RULE, miss.layer, message).about(inner);
        for (at, reference) in miss.references.iter().enumerate() {
            let label = if at == 0 { "this would not show" } else { "and this" };
            finding = finding.at(registry, registry.references()[*reference].from, label);
        }
        found.push(finding.at_declaration(registry, inner, "it is declared here").mend("use a shared piece"));
    }
    // The same mistake in many places is one finding.
    let mut known: IndexMap<(Address, Address), usize> = IndexMap::new();
    let mut silent: IndexMap<Address, Vec<(Address, Place)>> = IndexMap::new();
    for placed in registry.items() {
        let (Some(holder), Some(held)) = (placed.holder, placed.component) else { continue };
        let holds_items = holder.kind.holds_items() || holder.kind.is_component();
        if !holds_items || registry.may_hold(holder, held) {
            continue;
        }
        // What the holder was meant to hold, and misspells, is reported there.
        let misspelt = registry.misses().iter().any(|miss| {
            let asks = miss.references.iter().any(|at| registry.references()[*at].link == Link::HoldsToComponent);
            asks && miss.meant.is_some_and(|meant| meant.target == Target::Point(held))
        });
        if misspelt {
            continue;
        }
        let Some(point) = registry.point(holder) else { continue };
        let place = Place { file: placed.file, at: placed.item.component.at };
        // A component of which nothing is said holds nothing; what it is to hold is told at once.
        if point.holds.is_empty() && holder.kind.is_component() && held.inner().is_none() {
            if !misspells(registry, point, "holds") {
                silent.entry(holder).or_default().push((held, place));
            }
            continue;
        }
        if let Some(first) = known.get(&(holder, held)) {
            let finding: &mut Finding = &mut found[*first];
            *finding = finding.clone().at(registry, place, "and this");
            continue;
        }
        let message = format!("`{holder}` may not hold `{held}`");
        let finding = Finding::new(&RULE, registry.layer_of(place), message).about(holder);
        let finding = finding.at(registry, place, "this would not show");
        let patterns: Vec<String> = point.holds.iter().map(|(pattern, _)| format!("`{}`", pattern.raw)).collect();
        let (label, mend) = match (held.inner(), patterns.is_empty()) {
            (Some((own, _)), _) => (format!("`{held}` is held by `{own}` alone"), "use a shared piece".to_string()),
            (None, true) => ("it holds nothing".to_string(), format!("holds = [\"{held}\"], in `{holder}`")),
            (None, false) => {
                (format!("it holds {}", list(&patterns)), format!("add \"{held}\" to what `{holder}` holds"))
            }
        };
        let said = point.holds.first().map(|(_, place)| *place).or(point.declared.last().map(|last| last.place));
        known.insert((holder, held), found.len());
        found
            .push(said.into_iter().fold(finding, |finding, said| finding.at(registry, said, label.clone())).mend(mend));
    }
    found.extend(silent.into_iter().filter_map(|(holder, items)| holding_nothing(registry, holder, &items)));
}

/// Items in a component that says nothing of what it holds.
fn holding_nothing(registry: &Registry, holder: Address, items: &[(Address, Place)]) -> Option<Finding> {
    let mut held: Vec<Address> = items.iter().map(|(held, _)| *held).collect();
    held.sort();
    held.dedup();
    let (_, first) = *items.first()?;
    let names: Vec<String> = held.iter().map(|held| format!("`{held}`")).collect();
    let message = format!("`{holder}` may not hold {}", list(&names));
    let layer = registry.layer_of(first);
    let mut finding = Finding::new(&RULE, layer, message).about(holder);
    for (at, (_, place)) in items.iter().enumerate() {
        finding = finding.at(registry, *place, if at == 0 { "this would not show" } else { "and this" });
    }
    let finding = finding.at_declaration(registry, holder, "it holds nothing");
    let patterns = serde_json::Value::from(held.iter().map(ToString::to_string).collect::<Vec<_>>()).to_string();
    let mend = declaring(registry, layer, holder, "holds", |_| patterns.clone());
    let said = || format!("holds = {patterns}, in `{holder}`");
    Some(finding.mend(match shows_held(registry, holder) {
        true => mend.unwrap_or_else(said),
        false => format!("{}, and {{{{ place(\"held\") }}}} in its template", said()),
    }))
}
