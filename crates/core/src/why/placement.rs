//! Where a point is placed, and which placements a page gets to.

use super::answer::{LinkName, LinkState, WhyLine, WhyLink, said};
use super::asking::Asking;
use crate::address::Kind;
use crate::link::{Point, Runs, Taken, Types, UseId};
use crate::scan::{Chance, Verb};
use crate::source::LineIndex;

/// The placements, and which of them the page gets to.
pub fn placed(asking: &Asking<'_>, point: &Point) -> (WhyLink, WhyLink) {
    let registry = asking.registry;
    let kind = point.address.kind;
    let name = if kind == Kind::Filter { LinkName::Sent } else { LinkName::Placed };
    let word = name.word();
    if registry.is_fired(point) {
        let reached = WhyLink::good(LinkName::Reached, vec![said("by every page")]);
        return (WhyLink::idle(name, "the host fires it"), reached);
    }
    let mut lines = Vec::new();
    let mut types = Types::default();
    let uses: Vec<&UseId> = point.uses.iter().filter(|id| registry.use_of(**id).verb != Verb::Filled).collect();
    for id in &uses {
        let reached = registry.use_reached(**id);
        types = Types(types.0 | reached.0);
        let text = match (asking.on_page(reached), registry.use_of(**id).chance) {
            (true, Chance::Always) => "",
            (true, Chance::Guarded) => "behind a guard",
            (true, Chance::Repeated) => "inside a loop",
            (true, Chance::Perhaps) => "inside a condition or a loop",
            (false, _) if reached.is_empty() => "but no page gets there",
            (false, _) => "but this page does not get there",
        };
        lines.push(asking.line(registry.use_place(**id), text));
    }
    let held = holders(asking, point, &mut types);
    let some = !lines.is_empty() || !held.is_empty();
    lines.extend(held);
    let none = || WhyLink { state: LinkState::Unknown, ..WhyLink::good(LinkName::Reached, vec![said("–")]) };
    if !some {
        let reason = match lost(asking, point) {
            Some(lost) => lost,
            None if kind == Kind::Filter => "no value is sent through it".to_string(),
            None if kind.is_component() => "nothing places, holds or attaches it".to_string(),
            None => "no template places it".to_string(),
        };
        return (WhyLink::broken(name, vec![said("–")], reason), none());
    }
    let types = Types(types.0 | point.reached.0);
    if asking.on_page(types) {
        let names = registry.type_names(types);
        let all = names.len() == registry.type_names(registry.templated_types()).len();
        let text = if all { "by every page".to_string() } else { format!("by pages of type {}", names.join(", ")) };
        return (WhyLink::good(name, lines), WhyLink::good(LinkName::Reached, vec![said(text)]));
    }
    let reason = match asking.page {
        _ if lost(asking, point).is_some() => lost(asking, point).unwrap_or_default(),
        Some(page) if uses.is_empty() => format!("nothing that holds it or has it attached shows it on {}", page.path),
        Some(page) => format!("no template that {} uses gets to a place where it is {word}", page.path),
        None => format!("no page gets to a place where it is {word}"),
    };
    (WhyLink::broken(name, lines, reason), none())
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
    for item in registry.page_sections().iter().filter(|item| item.component == Some(point.address)) {
        *types = Types(types.0 | registry.sections_reached().0);
        lines.push(asking.line(item.place, "among the sections of a page"));
    }
    lines
}
