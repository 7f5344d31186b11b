//! The chain of points that are placed, sent through, held or chosen; and of single callbacks.

use super::{Asking, LinkState, WhyCallback, WhyLine, WhyLink, callbacks, said};
use crate::address::{Address, Kind};
use crate::link::{Lack, Outcome, Point, Registry, Renderer, Runs, START, Slot, Types, UseId};
use crate::names::{hint, nearest};
use crate::read::FileKind;
use crate::rules::place_command;
use crate::scan::{FillContent, Verb};
use crate::source::Place;

/// All links of a point.
pub(super) fn point(asking: &Asking<'_>, address: Address) -> Vec<WhyLink> {
    let Some(point) = asking.registry.point(address).filter(|point| !point.declared.is_empty()) else {
        return vec![undeclared(asking, address)];
    };
    let kind = address.kind;
    let mut chain = vec![declared(asking, point)];
    match kind {
        Kind::Hook | Kind::Filter => chain.push(attached(asking, point)),
        Kind::Region | Kind::Area | Kind::Menu => {
            chain.push(arranged(asking, point));
            chain.push(filled(asking, point));
        }
        kind if kind.is_component() => chain.push(rendered(asking, point)),
        _ => {}
    }
    if kind == Kind::Template {
        chain.push(chosen(asking, point));
    } else {
        let (placed, reached) = placed(asking, point);
        chain.extend([placed, reached]);
    }
    chain.push(on(asking, point));
    chain
}

fn undeclared(asking: &Asking<'_>, address: Address) -> WhyLink {
    let registry = asking.registry;
    let near = nearest(&address.name, registry.names(address.kind)).map(|name| format!("{}:{name}", address.kind));
    let wanted = address.to_string();
    let asks = registry.references.iter().filter(|reference| {
        matches!(reference.outcome, Outcome::Missing { .. }) && reference.written.as_str() == wanted
    });
    let mut lines: Vec<WhyLine> = asks.map(|reference| asking.line(reference.from, "it is asked for here")).collect();
    if lines.is_empty() {
        lines.push(said("–"));
    }
    WhyLink::broken("declared", lines, format!("no layer declares it{}", hint(&near)))
}

pub(super) fn declared(asking: &Asking<'_>, point: &Point) -> WhyLink {
    let lines = point.declared.iter().map(|declared| {
        let start = declared.place.at == START;
        asking.line(declared.place, if start { "this template" } else { "" })
    });
    WhyLink::good("declared", lines.collect())
}

/// Every attachment, what is detached last.
pub(super) fn slots(point: &Point) -> Vec<&Slot> {
    point.slots.iter().chain(&point.detached).collect()
}

fn attached(asking: &Asking<'_>, point: &Point) -> WhyLink {
    let registry = asking.registry;
    let lines: Vec<WhyLine> =
        slots(point).iter().map(|slot| asking.line(slot.place, state_of(registry, slot))).collect();
    if !point.slots.is_empty() {
        return WhyLink::good("attached", lines);
    }
    // Assets go into the head and to the end of the body.
    let takes_assets = point.inside.is_some_and(|(element, last)| element == "head" || last);
    if takes_assets && point.detached.is_empty() {
        return WhyLink::idle("attached", "nothing; the host puts there what pages need");
    }
    let reason = match point.detached.is_empty() {
        true => "nothing is attached to it".to_string(),
        false => "all that was attached to it has been detached".to_string(),
    };
    let lines = if lines.is_empty() { vec![said("–")] } else { lines };
    WhyLink::broken("attached", lines, reason)
}

fn state_of(registry: &Registry, slot: &Slot) -> String {
    let name = registry.first_name(slot);
    let by = |layer| registry.project.layer(layer).name;
    match (slot.detached, slot.replaced) {
        (Some((layer, _)), _) => format!("{name}, detached by {}", by(layer)),
        (None, Some((_, layer, _))) => format!("{name}, replaced by {} {}", by(layer), registry.slot_name(slot)),
        (None, None) => match &slot.when {
            Some(when) => format!("{name}, when {}", when.text),
            None => name,
        },
    }
}

fn arranged(asking: &Asking<'_>, point: &Point) -> WhyLink {
    let one = point.address.kind.one();
    let slots = slots(point);
    if slots.is_empty() {
        return WhyLink::idle("attached", format!("{one} needs no callback"));
    }
    let lines = slots.iter().map(|slot| asking.line(slot.place, state_of(asking.registry, slot)));
    WhyLink { state: LinkState::Idle, ..WhyLink::good("attached", lines.collect()) }
}

fn filled(asking: &Asking<'_>, point: &Point) -> WhyLink {
    let registry = asking.registry;
    let mut lines: Vec<WhyLine> = Vec::new();
    let mut some = false;
    for (file, at) in &point.fills {
        let Some(fill) = registry.fill_of(*file, *at) else { continue };
        let place = Place { file: *file, at: fill.to.at };
        let text = match &fill.content {
            FillContent::Menu(menu) => format!("the menu `{}`", menu.name),
            FillContent::Items(items) => {
                let on = items.iter().filter(|item| asking.on_page(registry.types_where(item.when.as_ref()))).count();
                some |= on > 0;
                let all = format!("{} item{}", items.len(), if items.len() == 1 { "" } else { "s" });
                if on < items.len() { format!("{all}, {on} of them for {}", asking.here()) } else { all }
            }
        };
        some |= matches!(fill.content, FillContent::Menu(_));
        lines.push(asking.line(place, text));
    }
    if point.address == crate::link::body_region() {
        some = true;
        lines.push(said("the page's own text"));
    }
    if some {
        return WhyLink::good("filled", lines);
    }
    let reason = match (lines.is_empty(), registry.site().is_some()) {
        (true, true) => "the site puts nothing into it".to_string(),
        (true, false) => "there is no preview/site.toml that fills it".to_string(),
        (false, _) => format!("nothing of what the site puts into it is for {}", asking.here()),
    };
    let lines = if lines.is_empty() { vec![said("–")] } else { lines };
    // An arranger can add items to a region that the site leaves empty.
    if !point.slots.is_empty() && point.address.kind.holds_items() {
        return WhyLink { state: LinkState::Idle, ..WhyLink::good("filled", lines) };
    }
    WhyLink::broken("filled", lines, reason)
}

fn rendered(asking: &Asking<'_>, point: &Point) -> WhyLink {
    match point.renderer {
        Some(Renderer::Template(file)) => WhyLink::good("rendered", vec![asking.line(Place { file, at: START }, "")]),
        Some(Renderer::Callback(callback)) => {
            let export = asking.registry.export(callback).map(|export| Place { file: callback.file, at: export.at });
            let name = asking.registry.callback_name(callback);
            WhyLink::good(
                "rendered",
                vec![export.map_or_else(|| said(name.clone()), |place| asking.line(place, name.clone()))],
            )
        }
        None => {
            WhyLink::broken("rendered", vec![said("–")], "there is neither a template nor a callback that renders it")
        }
    }
}

fn chosen(asking: &Asking<'_>, point: &Point) -> WhyLink {
    let registry = asking.registry;
    let types = registry
        .types
        .iter()
        .filter(|known| known.templates.first().is_some_and(|file| Some(Renderer::Template(*file)) == point.renderer));
    let types: Vec<&str> = types.map(|known| known.name.as_str()).collect();
    let page_type = asking.page.and_then(|page| page.page_type).map(|at| registry.types[at].name);
    match page_type {
        Some(own) if !types.contains(&own.as_str()) => {
            let used = registry.types.iter().find(|known| known.name == own).and_then(|known| known.templates.first());
            let used = used.map(|file| registry.project.shown(*file)).unwrap_or_default();
            let reason = format!("{} is of type {own}, which {used} shows", asking.here());
            WhyLink::broken("chosen", vec![said("–")], reason)
        }
        _ if types.is_empty() => WhyLink::broken("chosen", vec![said("–")], "no type of page takes it"),
        _ => WhyLink::good("chosen", vec![said(format!("by pages of type {}", types.join(", ")))]),
    }
}

/// The placements, and which of them the page gets to.
pub(super) fn placed(asking: &Asking<'_>, point: &Point) -> (WhyLink, WhyLink) {
    let registry = asking.registry;
    let kind = point.address.kind;
    let word = if kind == Kind::Filter { "sent" } else { "placed" };
    if registry.is_fired(point) {
        let reached = WhyLink::good("reached", vec![said("by every page")]);
        return (WhyLink::idle(word, "the host fires it"), reached);
    }
    let mut lines = Vec::new();
    let mut types = Types::default();
    let uses: Vec<&UseId> = point.uses.iter().filter(|id| registry.use_of(**id).verb != Verb::Filled).collect();
    for id in &uses {
        let reached = registry.use_reached(**id);
        types = Types(types.0 | reached.0);
        let text = match asking.on_page(reached) {
            true if registry.use_of(**id).conditional => "inside a condition or a loop",
            true => "",
            false if reached.is_empty() => "but no page gets there",
            false => "but this page does not get there",
        };
        lines.push(asking.line(registry.use_place(**id), text));
    }
    let held = holders(asking, point, &mut types);
    let some = !lines.is_empty() || !held.is_empty();
    lines.extend(held);
    let none = || WhyLink { state: LinkState::Unknown, ..WhyLink::good("reached", vec![said("–")]) };
    if !some {
        let reason = match lost(asking, point) {
            Some(lost) => lost,
            None if kind == Kind::Filter => "no value is sent through it".to_string(),
            None if kind.is_component() => "nothing places, holds or attaches it".to_string(),
            None => "no template places it".to_string(),
        };
        return (WhyLink::broken(word, vec![said("–")], reason), none());
    }
    let types = Types(types.0 | point.reached.0);
    if asking.on_page(types) {
        let names = registry.type_names(types);
        let all = names.len() == registry.type_names(registry.templated_types()).len();
        let text = if all { "by every page".to_string() } else { format!("by pages of type {}", names.join(", ")) };
        return (WhyLink::good(word, lines), WhyLink::good("reached", vec![said(text)]));
    }
    let reason = match asking.page {
        _ if lost(asking, point).is_some() => lost(asking, point).unwrap_or_default(),
        Some(page) if uses.is_empty() => format!("nothing that holds it or has it attached shows it on {}", page.path),
        Some(page) => format!("no template that {} uses gets to a place where it is {word}", page.path),
        None => format!("no page gets to a place where it is {word}"),
    };
    (WhyLink::broken(word, lines, reason), none())
}

/// What has become of a placement that a copy of a template has lost.
fn lost(asking: &Asking<'_>, point: &Point) -> Option<String> {
    let registry = asking.registry;
    let absence = registry.absences.iter().find(|absence| absence.point == point.address && !absence.partial)?;
    let Lack::Lost { copy, .. } = absence.lack else { return None };
    Some(format!("{} is a copy that has lost its placement", registry.project.shown(copy)))
}

/// The points that hold a component, or have it attached.
fn holders(asking: &Asking<'_>, point: &Point, types: &mut Types) -> Vec<WhyLine> {
    let registry = asking.registry;
    let mut lines = Vec::new();
    if !point.address.kind.is_component() {
        return lines;
    }
    for other in registry.points.values() {
        for item in other.items.iter().filter(|item| item.component == Some(point.address)) {
            *types = Types(types.0 | other.reached.and(item.types).0);
            let elsewhere =
                if asking.on_page(item.types) { "" } else { ", but its condition keeps it for other pages" };
            lines.push(asking.line(item.place, format!("in {}{elsewhere}", other.address)));
        }
        for slot in &other.slots {
            if matches!(slot.runs, Runs::Partial(address, _) if address == point.address) {
                *types = Types(types.0 | other.reached.and(registry.types_where(slot.when.as_ref())).0);
                lines.push(asking.line(slot.place, format!("attached to {}", other.address)));
            }
        }
    }
    for item in registry.page_sections.iter().filter(|item| item.component == Some(point.address)) {
        *types = Types(types.0 | registry.sections_reached().0);
        lines.push(asking.line(item.place, "among the sections of a page"));
    }
    lines
}

/// Is it switched on, and did anything come of it?
fn on(asking: &Asking<'_>, point: &Point) -> WhyLink {
    if let Some((layer, place)) = point.dropped {
        let name = asking.registry.project.layer(layer).name;
        let line = asking.line(place, format!("dropped by {name}"));
        return WhyLink::broken("on", vec![line], format!("{name} has dropped it"));
    }
    let Some(seen) = asking.seen() else {
        return WhyLink::idle("on", "name a page with --page, and it is rendered to see");
    };
    let here = asking.here();
    if point.moment {
        return WhyLink::idle("on", "its listeners print nothing");
    }
    let met = seen.points.contains(&point.address);
    if !met && point.address.kind != Kind::Filter {
        let reason =
            format!("{here} gets to its placement, but a condition in a template, or on what holds it, was not met");
        return WhyLink::broken("on", vec![said("not placed when the page was rendered")], reason);
    }
    let states: Vec<WhyCallback> = callbacks::of_point(asking, point.address);
    // What replaces another counts, too: it is its turn that matters, not whom it stands for.
    let mut slots = point.slots.iter();
    let alive = slots.any(|slot| seen.steps.iter().any(|step| step.slot == slot.place && step.changed()));
    let shown = seen.shown.contains(&point.address);
    match point.address.kind {
        Kind::Filter if alive => WhyLink::good("on", vec![said("a callback changed the value")]),
        Kind::Filter => WhyLink::broken("on", vec![said("no callback changed anything")], why_nothing(&states)),
        Kind::Template => WhyLink::good("on", vec![said("it shows the page")]),
        _ if shown => WhyLink::good("on", vec![said("it is there")]),
        Kind::Hook => WhyLink::broken("on", vec![said("empty when the page was rendered")], why_nothing(&states)),
        kind if kind.is_component() => WhyLink::broken(
            "on",
            vec![said("empty when the page was rendered")],
            "what renders it gave nothing, or failed",
        ),
        _ => {
            let arranger = states.iter().find(|callback| callback.state == "ran");
            let reason = match arranger {
                Some(arranger) => format!("its arranger {} left nothing of it", arranger.callback),
                None => format!("nothing of what fills it shows on {here}"),
            };
            WhyLink::broken("on", vec![said("empty when the page was rendered")], reason)
        }
    }
}

fn why_nothing(states: &[WhyCallback]) -> String {
    let all = |state: &str| !states.is_empty() && states.iter().all(|callback| callback.state == state);
    match states {
        [] => "nothing is attached to it, and the page needs nothing there".to_string(),
        [one] => format!("{} {}", one.callback, one.text),
        _ if all("off") => "no condition of its callbacks holds there".to_string(),
        _ if all("failed") => "all of its callbacks failed".to_string(),
        _ if all("nothing") => "all of its callbacks gave nothing".to_string(),
        _ => "none of its callbacks came to anything".to_string(),
    }
}

/// What may help where no finding tells.
pub(super) fn suggestion(asking: &Asking<'_>, address: Address, chain: &[WhyLink]) -> Option<String> {
    let registry = asking.registry;
    let broken = chain.iter().find(|link| link.state == LinkState::Broken)?;
    let template =
        asking.page.and_then(|page| page.page_type).and_then(|at| registry.types[at].templates.first().copied());
    let own = template.filter(|file| registry.project.file(*file).layer == registry.project.top());
    let own = own.or_else(|| registry.files_named(FileKind::Template, "layout.html").last().copied());
    match (broken.name, address.kind) {
        ("declared", kind) => Some(match nearest(&address.name, registry.names(kind)) {
            Some(near) => format!("write `{kind}:{near}`, if that was meant; or truehook declare {address}"),
            None => format!("truehook declare {address}"),
        }),
        ("attached", _) => Some(format!("truehook attach {address} FILE.js#NAME")),
        ("filled", Kind::Menu) => Some(format!("add \"{address}\" = \"MENU\" to [fill] in preview/site.toml")),
        ("filled", _) => Some(format!("add \"{address}\" = [ {{ use = \"…\" }} ] to [fill] in preview/site.toml")),
        ("placed", kind) if kind.is_placed() => Some(place_command(registry, address, own)),
        ("sent", _) => Some(format!("write {{{{ value | through(\"{address}\") }}}} where the value is printed")),
        ("switched on", _) => Some(format!("truehook declare {address}")),
        _ => None,
    }
}
