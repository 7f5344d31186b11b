//! Where a point is placed, and which placements a page gets to.

use super::answer::{LinkName, LinkState, WhyLine, WhyLink, said as line};
use super::asking::Asking;
use crate::address::Kind;
use crate::link::{
    ByType, Circumstance, Point, Remaining, Runs, Taken, Types, UseId, body_partial, body_region, menu_partial,
};
use crate::scan::Verb;
use crate::source::LineIndex;
use crate::view::PresenceView;

/// The placements, and which of them the page gets to.
pub fn placed(asking: &Asking<'_>, point: &Point) -> (WhyLink, WhyLink) {
    let registry = asking.registry;
    let kind = point.address.kind;
    let name = if kind == Kind::Filter { LinkName::Sent } else { LinkName::Placed };
    let word = name.word();
    if registry.is_fired(point) {
        let by = if point.moment { "whenever the host fires it" } else { "by every page" };
        let reached = WhyLink::good(LinkName::Reached, vec![line(by)]);
        return (WhyLink::idle(name, "the host fires it"), reached);
    }
    let mut lines = Vec::new();
    let mut types = Types::default();
    let uses: Vec<&UseId> = point.uses.iter().filter(|id| registry.use_of(**id).verb != Verb::Filled).collect();
    for id in &uses {
        let reached = registry.use_reached(**id);
        types = Types(types.0 | reached.0);
        let text = match asking.on_page(reached) {
            true => conditions_of(asking, **id),
            false if reached.is_empty() => match registry.never_met(**id).first() {
                Some(never) => format!("under `{}`, which is never met", never.text),
                None => "but no page gets there".to_string(),
            },
            false => "but this page does not get there".to_string(),
        };
        lines.push(asking.line(registry.use_place(**id), text));
    }
    let held = holders(asking, point, &mut types);
    let some = !lines.is_empty() || !held.is_empty();
    lines.extend(held);
    let none = || WhyLink { state: LinkState::Unknown, ..WhyLink::good(LinkName::Reached, vec![line("–")]) };
    if !some {
        let reason = match lost(asking, point) {
            Some(lost) => lost,
            None if kind == Kind::Filter => "no value is sent through it".to_string(),
            None if kind.is_component() => "nothing places, holds or attaches it".to_string(),
            None => "no template places it".to_string(),
        };
        return (WhyLink::broken(name, vec![line("–")], reason), none());
    }
    let types = Types(types.0 | point.reached.0);
    if asking.on_page(types) {
        let presence = PresenceView::new(registry, types, &registry.conditions_of(point.address));
        if let (Some(condition), Some(page)) = (unmet(asking, point, &uses), asking.page) {
            let here = asking.line(condition.place, condition.text.as_str());
            let reason = format!("{} on {}", condition.denied(), page.path);
            return (WhyLink::good(name, lines), WhyLink::broken(LinkName::Reached, vec![here], reason));
        }
        let mut pages = vec![line(format!("by {}", presence.pages("pages of type ")))];
        pages.extend(
            presence
                .conditions
                .iter()
                .map(|condition| WhyLine { place: Some(condition.place.clone()), text: condition.condition.clone() }),
        );
        return (WhyLink::good(name, lines), WhyLink::good(LinkName::Reached, pages));
    }
    if let Some(never) = never_met(asking, &uses) {
        let here = asking.line(never.place, never.text.as_str());
        let reason = format!("it is {word} under a condition that is never met");
        return (WhyLink::good(name, lines), WhyLink::broken(LinkName::Reached, vec![here], reason));
    }
    let reason = match asking.page {
        _ if lost(asking, point).is_some() => lost(asking, point).unwrap_or_default(),
        Some(page) if uses.is_empty() => format!("nothing that holds it or has it attached shows it on {}", page.path),
        Some(page) => format!("no template that {} uses gets to a place where it is {word}", page.path),
        None => format!("no page gets to a place where it is {word}"),
    };
    (WhyLink::broken(name, lines, reason), none())
}

/// What remains to be met, on the page that was asked about or on any.
fn remaining(asking: &Asking<'_>, all: ByType) -> Vec<Remaining> {
    let here = all.iter().filter(|one| asking.on_page(one.types));
    here.flat_map(Circumstance::all).copied().collect()
}

/// The conditions around a placement on the page that was asked about, or on any; nothing where there are none.
fn conditions_of(asking: &Asking<'_>, id: UseId) -> String {
    let all = remaining(asking, asking.registry.use_conditions(id));
    let said: Vec<String> = all.iter().map(|one| said(asking, one)).collect();
    if said.is_empty() { String::new() } else { format!("where {}", said.join(" and ")) }
}

/// A condition as the end of a sentence that begins with "where", and whether the page meets it.
fn said(asking: &Asking<'_>, condition: &Remaining) -> String {
    match (asking.met(condition), asking.page) {
        (Some(false), Some(page)) => format!("{}, not on {}", condition.said(), page.path),
        _ => condition.said(),
    }
}

/// A condition that no page meets, where such stand around all placements.
fn never_met(asking: &Asking<'_>, uses: &[&UseId]) -> Option<Remaining> {
    let never = uses.iter().map(|id| asking.registry.never_met(**id).into_iter().next());
    never.collect::<Option<Vec<Remaining>>>()?.into_iter().next()
}

/// A condition that keeps a point from the page that was asked about: it stands around all of its placements there.
fn unmet(asking: &Asking<'_>, point: &Point, uses: &[&UseId]) -> Option<Remaining> {
    if asking.seen()?.points.contains(&point.address) {
        return None;
    }
    let is_unmet = |condition: &Remaining| asking.met(condition) == Some(false);
    let around = remaining(asking, asking.registry.conditions_of(point.address)).into_iter().find(is_unmet);
    let own = || {
        let here = uses.iter().filter(|id| asking.on_page(asking.registry.use_reached(***id)));
        let unmet = here.map(|id| remaining(asking, asking.registry.use_conditions(**id)).into_iter().find(is_unmet));
        unmet.collect::<Option<Vec<Remaining>>>()?.into_iter().next()
    };
    around.or_else(own)
}

/// What has become of a placement that something took away.
fn lost(asking: &Asking<'_>, point: &Point) -> Option<String> {
    let registry = asking.registry;
    let absence = registry.absences().iter().find(|absence| absence.point == point.address && !absence.partial)?;
    let taken = absence.taken?;
    let shown = registry.project().shown(taken.file());
    Some(match taken {
        Taken::Copy { .. } => format!("{shown} is a copy that has lost its placement"),
        Taken::Block { block, .. } => {
            let text = registry.project().file(block.file).text();
            let line = LineIndex::new(text).position(registry.span(block).start).0;
            format!("a block of {shown}, on line {line}, takes the place of the one with it")
        }
    })
}

/// The points that hold a component, or have it attached.
fn holders(asking: &Asking<'_>, point: &Point, types: &mut Types) -> Vec<WhyLine> {
    let registry = asking.registry;
    let mut lines = Vec::new();
    if !point.address.kind.is_component() {
        return lines;
    }
    for other in registry.points() {
        for item in other.items.iter().filter(|item| item.component == Some(point.address)) {
            *types = Types(types.0 | other.reached.and(item.types).0);
            let elsewhere =
                if asking.on_page(item.types) { "" } else { ", but its condition keeps it for other pages" };
            lines.push(asking.line(item.place, format!("in {}{elsewhere}", other.address)));
        }
        for slot in other.slots.iter() {
            if matches!(slot.runs, Runs::Partial(address, _) if address == point.address) {
                *types = Types(types.0 | other.reached.and(registry.types_where(slot.when.as_ref())).0);
                lines.push(asking.line(slot.place, format!("attached to {}", other.address)));
            }
        }
    }
    let mut by_itself = |other: &Point, text: String| {
        *types = Types(types.0 | other.reached.0);
        lines.extend(other.declared.last().map(|declared| asking.line(declared.place, text)));
    };
    if point.address == body_partial() {
        registry
            .point(body_region())
            .into_iter()
            .for_each(|region| by_itself(region, format!("in {}", region.address)));
    }
    if point.address == menu_partial() {
        let spots = registry.points().filter(|other| other.address.kind == Kind::Menu && !other.uses.is_empty());
        spots.for_each(|spot| by_itself(spot, format!("in {}", spot.address)));
    }
    for item in registry.page_sections().iter().filter(|item| item.component == Some(point.address)) {
        *types = Types(types.0 | registry.sections_reached().0);
        lines.push(asking.line(item.place, "among the sections of a page"));
    }
    lines
}
