//! A guard asks for another point than the one that it guards

use crate::address::{Address, Kind};
use crate::command_line;
use crate::link::{Asks, Circumstance, Point, Registry, Remaining, Types, body_region};
use crate::rules::{Example, Finding, Level, Rule};
use crate::scan::Predicate;
use crate::source::{LayerId, Place};

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "guard-target",
    level: Level::Error,
    links: &[],
    awaited: false,
    summary: "A guard asks for another point than the one that it guards",
    explanation: "What stands behind `filled(\"region:aside\")` is left out where region:aside is empty, and with it every other point that is placed there. This is an error where that keeps what the site has filled in from every page, a warning where it does so on some pages, and a note where nothing is lost so far.",
    wrong: Example(&[
        (
            "truehook.toml",
            r##"[region.aside]
label = "Beside the text"

[area.offers]
label = "Offers"

[piece.note]
label = "Note"
inputs.text = { type = "string", label = "Text", default = "" }
offer = [{ label = "A note" }]
"##,
        ),
        ("markup/pieces/note.html", "<p>{{ text }}</p>\n"),
        (
            "markup/layout.html",
            r##"<!doctype html>
<html lang="en">
<head><title>{{ page.title }}</title>{{ place("hook:document-head") }}</head>
<body>
<main>{{ place("region:main") }}</main>
{% if filled("region:aside") %}
<aside>{{ place("region:aside") }}{{ place("area:offers") }}</aside>
{% endif %}
{{ place("hook:document-end") }}
</body>
</html>
"##,
        ),
        (
            "preview/site.toml",
            r##"[fill]
"area:offers" = [{ use = "piece:note", text = "Half price on Mondays." }]
"##,
        ),
    ]),
    right: Example(&[(
        "markup/layout.html",
        r##"<!doctype html>
<html lang="en">
<head><title>{{ page.title }}</title>{{ place("hook:document-head") }}</head>
<body>
<main>{{ place("region:main") }}</main>
{% if filled("region:aside") or filled("area:offers") %}
<aside>{{ place("region:aside") }}{{ place("area:offers") }}</aside>
{% endif %}
{{ place("hook:document-end") }}
</body>
</html>
"##,
    )]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    if registry.blind().placements || !registry.has_other_guards() {
        return;
    }
    for point in registry.points().filter(|point| point.address.kind.needs_placement() && point.dropped.is_none()) {
        // Of several guards the outermost comes first: that one keeps it away.
        let Some((guard, asked)) = guarding(registry, point) else { continue };
        found.push(finding(registry, point, guard, asked));
    }
}

/// The guard that stands around all placements of a point and asks for another one.
fn guarding(registry: &Registry, point: &Point) -> Option<(Remaining, Address)> {
    let groups = registry.conditions_of(point.address);
    // Some types of pages have the point without a condition.
    let guarded = groups.iter().fold(Types::default(), |types, group| types.or(group.types));
    if groups.is_empty() || !point.reached.without(guarded).is_empty() {
        return None;
    }
    let asks = |remaining: &Remaining| match remaining.asks {
        Asks::Filled(asked) if asked != point.address => Some((*remaining, asked)),
        _ => None,
    };
    let first = groups.iter().flat_map(Circumstance::all).find_map(asks)?;
    let is_everywhere = groups.iter().all(|group| group.all().any(|other| other.text == first.0.text));
    is_everywhere.then_some(first)
}

fn finding(registry: &Registry, point: &Point, guard: Remaining, asked: Address) -> Finding {
    let target = registry.point(asked);
    let filled = content(point);
    let lost = match (filled, target.and_then(content)) {
        (Some(own), Some(other)) => own.and(point.reached).without(other),
        _ => Types::default(),
    };
    let everywhere = !lost.is_empty() && filled.is_some_and(|own| own.and(point.reached) == lost);
    let (level, message) = match (lost.is_empty(), everywhere) {
        (true, _) => (Level::Note, format!("`{}` shows only where `{asked}` is filled", point.address)),
        (false, true) => {
            (Level::Error, format!("`{}` shows only where `{asked}` is filled, which it is on no page", point.address))
        }
        (false, false) => {
            let types = registry.type_names(lost).join(", ");
            let message = format!(
                "`{}` shows only where `{asked}` is filled, which it is not on pages of type {types}",
                point.address
            );
            (Level::Warning, message)
        }
    };
    let fills = point
        .fills
        .iter()
        .filter_map(|(file, at)| Some(Place { file: *file, at: registry.fill_of(*file, *at)?.to.at }));
    let attached = point.slots.iter().map(|slot| slot.place);
    let content: Vec<Place> = fills.chain(attached).collect();
    let placements: Vec<Place> = point.uses.iter().map(|id| registry.use_place(*id)).collect();
    let placed = placements.iter().copied().filter(|place| place.file == guard.place.file);
    let layers = content.iter().chain([&guard.place]).map(|place| registry.layer_of(*place));
    let layer: LayerId = layers.max().unwrap_or(registry.project().top());
    let mut finding = Finding::new(&RULE, layer, message).about(point.address);
    finding.level = level;
    finding = finding.at(registry, guard.place, "this asks for another point");
    for place in placed {
        finding = finding.at(registry, place, "than the one that is placed here");
    }
    for place in content {
        finding = finding.at(registry, place, "this is left out with it");
    }
    let file = registry.project().file(guard.place.file);
    let commanded = file.layer == registry.project().top() && guarded_alone(registry, guard.place);
    match commanded {
        true => finding.mend(command_line!["place", point.address, "--in", file.name(), "--guard"]),
        false => {
            let both = format!("filled(\"{asked}\") or filled(\"{}\")", point.address);
            finding.mend(format!("write `{both}` there, or place {} outside of it", point.address))
        }
    }
}

/// Does a condition ask whether points are filled, and for nothing else?
fn guarded_alone(registry: &Registry, place: Place) -> bool {
    let template = registry.template(place.file);
    let guard = template.and_then(|template| template.guards.iter().find(|guard| guard.at == place.at));
    guard.is_some_and(|guard| match &guard.predicate {
        Predicate::Filled(_) => true,
        Predicate::Any(parts) => parts.iter().all(|part| matches!(part, Predicate::Filled(_))),
        _ => false,
    })
}

/// The types of pages on which files say that there is something in a point; nothing where callbacks may change that.
fn content(point: &Point) -> Option<Types> {
    let all = |types: &mut dyn Iterator<Item = Types>| types.fold(Types::default(), Types::or);
    match point.address.kind {
        _ if point.address == body_region() => None,
        Kind::Hook => Some(if point.slots.is_empty() { Types::default() } else { Types::ALL }),
        _ if !point.slots.is_empty() => None,
        Kind::Menu => Some(if point.fills.is_empty() { Types::default() } else { Types::ALL }),
        _ => Some(all(&mut point.items.iter().map(|item| item.types))),
    }
}
