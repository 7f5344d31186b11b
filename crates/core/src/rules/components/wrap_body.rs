//! Wrapping markup is unbalanced, or does not print the body exactly once

use html5gum::{Token, Tokenizer};

use crate::address::Kind;
use crate::link::{PlacedItem, Point, Registry};
use crate::rules::telling::flaws;
use crate::rules::{Example, Finding, Level, Rule};
use crate::scan::{FlawKind, Piece, pieces};
use crate::source::{LayerId, Place};

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "wrap-body",
    level: Level::Error,
    links: &[],
    awaited: false,
    summary: "Wrapping markup is unbalanced, or does not print the body exactly once",
    explanation: "What a wrap opens it closes, and between the two stands {{ body }}. An area's wrap may print {{ title }}, {{ id }} and {{ kind }} too, each where it likes; its wrap-title prints {{ text }} once, and may print {{ id }}. It is a warning where an item's title is printed nowhere, or where several items get one id.",
    wrong: Example(&[
        (
            "truehook.toml",
            r##"[area.notes]
label = "Notes"
wrap = '<aside>{{ title }}</aside>'
"##,
        ),
        (
            "markup/page.html",
            r##"{% extends "layout.html" %}
{% block main %}
  <main>{{ place("region:main") }}</main>
  {{ place("area:notes") }}
{% endblock %}
"##,
        ),
    ]),
    right: Example(&[(
        "truehook.toml",
        r##"[area.notes]
label = "Notes"
wrap = '<aside class="{{ kind }}" aria-labelledby="{{ id }}">{{ title }}{{ body }}</aside>'
wrap-title = '<h3 id="{{ id }}">{{ text }}</h3>'
"##,
    )]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    flaws(registry, &RULE, FlawKind::WrapBody, found);
    let items = registry.items();
    for point in registry.points() {
        let Some(wrap) = point.wrap else { continue };
        let is_area = point.address.kind == Kind::Area;
        let held: Vec<&PlacedItem<'_>> = items
            .iter()
            .filter(|placed| !placed.offered)
            .filter(|placed| {
                if is_area { placed.holder == Some(point.address) } else { placed.component == Some(point.address) }
            })
            .collect();
        if is_area && !prints_title(&wrap) {
            titles(registry, point, &held, found);
        }
        if let Some(id) = literal_id(&wrap) {
            let twice = held
                .iter()
                .find_map(|one| held.iter().find(|other| are_together(one, other)).map(|other| [one, other]));
            found.extend(twice.map(|[one, other]| same_id(registry, point, &id, [one, other])));
        }
    }
}

/// Are two items on one page, as far as that is certain: in one list, or in one file and one holder?
fn are_together(one: &PlacedItem<'_>, other: &PlacedItem<'_>) -> bool {
    let always = |placed: &PlacedItem<'_>| placed.item.when.is_none() && !placed.item.when_broken;
    !std::ptr::eq(one.item, other.item)
        && (one.file, one.holder, one.depth) == (other.file, other.holder, other.depth)
        && always(one)
        && always(other)
}

/// Does the wrap of an area print the item's title?
fn prints_title(wrap: &str) -> bool {
    pieces(wrap).iter().any(|piece| match piece {
        Piece::Printed(range) => wrap[range.clone()].trim_matches(['{', '}', '-', ' ']) == "title",
        Piece::Text(_) => false,
    })
}

/// An id that a wrap writes out, the same for each item.
fn literal_id(wrap: &str) -> Option<String> {
    let tags = Tokenizer::new(wrap).filter_map(|Ok(token)| match token {
        Token::StartTag(tag) => Some(tag),
        _ => None,
    });
    let ids = tags.flat_map(|tag| tag.attributes).filter(|(key, _)| key.as_slice() == b"id");
    let mut ids = ids.map(|(_, value)| String::from_utf8_lossy(&value.value).trim().to_string());
    ids.find(|id| !id.is_empty() && !id.contains("{{"))
}

/// Titles that an area shows nowhere.
fn titles(registry: &Registry, point: &Point, held: &[&PlacedItem<'_>], found: &mut Vec<Finding>) {
    let titles = held.iter().flat_map(|placed| {
        let titles = placed.item.inputs.iter().filter(|given| given.name.name == "title" && given.value != "");
        titles.map(|given| Place { file: placed.file, at: given.at })
    });
    let places: Vec<Place> = titles.collect();
    let Some(first) = places.first() else { return };
    let layer = registry.layer_of(*first).max(point.layer().unwrap_or(LayerId(0)));
    let message = format!("the wrap of `{}` prints no {{{{ title }}}}, and an item has one", point.address);
    let finding = Finding { level: Level::Warning, ..Finding::new(&RULE, layer, message).about(point.address) };
    let finding =
        places.iter().fold(finding, |finding, place| finding.at(registry, *place, "this title is shown nowhere"));
    found.push(
        at_wrap(registry, point, finding, "this does not print it")
            .mend("print {{ title }} in the wrap, or take the title away"),
    );
}

fn same_id(registry: &Registry, point: &Point, id: &str, items: [&PlacedItem<'_>; 2]) -> Finding {
    let places = items.map(|placed| Place { file: placed.file, at: placed.item.component.at });
    let layer = registry.layer_of(places[0]).max(point.layer().unwrap_or(LayerId(0)));
    let message = format!("the wrap of `{}` writes the id `{id}` out, and stands around several items", point.address);
    let finding = Finding { level: Level::Warning, ..Finding::new(&RULE, layer, message).about(point.address) };
    let finding = at_wrap(registry, point, finding, "each item gets this id");
    let finding = finding.at(registry, places[0], "this item").at(registry, places[1], "and this one");
    let advice = match point.address.kind {
        Kind::Area => "write id=\"{{ id }}\", which is each item's own",
        _ => "use a class in its place: an id is on a page once",
    };
    finding.mend(advice)
}

/// Adds where the wrap stands.
fn at_wrap(registry: &Registry, point: &Point, finding: Finding, label: &str) -> Finding {
    let wraps = point.declared.iter().rev().filter_map(|declared| {
        let manifest = registry.manifest(declared.place.file)?;
        let own = manifest.declarations.iter().find(|one| one.at == declared.place.at)?;
        Some(Place { file: declared.place.file, at: own.wrap?.at })
    });
    wraps.take(1).fold(finding, |finding, place| finding.at(registry, place, label))
}
