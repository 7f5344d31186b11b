//! The chain of points that are placed, sent through, held or chosen.

use super::answer::{CallbackState, LinkName, LinkState, WhyCallback, WhyLine, WhyLink, said};
use super::asking::{Asking, slots};
use super::placement::placed;
use super::turns;
use crate::address::{Address, Kind};
use crate::link::{By, Link, Outcome, Point, Reference, Registry, Renderer, START, Slot};
use crate::names::{hint, nearest};
use crate::scan::FillContent;
use crate::source::Place;

/// All links of a point.
pub(super) fn point(asking: &Asking<'_>, address: Address) -> Vec<WhyLink> {
    let Some(point) = asking.registry.point(address).filter(|point| !point.declared.is_empty()) else {
        return undeclared(asking, address);
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

/// What nothing declares, and what asks for it all the same.
fn undeclared(asking: &Asking<'_>, address: Address) -> Vec<WhyLink> {
    let registry = asking.registry;
    let near = nearest(&address.name, registry.names(address.kind)).map(|name| format!("{}:{name}", address.kind));
    let wanted = address.to_string();
    let misses = |reference: &&Reference| {
        matches!(reference.outcome, Outcome::Missing { .. }) && reference.written.as_str() == wanted
    };
    let mut chain =
        vec![WhyLink::broken(LinkName::Declared, vec![said("–")], format!("no layer declares it{}", hint(&near)))];
    for name in [LinkName::Attached, LinkName::Filled, LinkName::Sent, LinkName::Placed] {
        let asks = registry.references().iter().filter(misses).filter(|reference| asks_as(reference.link) == name);
        let lines: Vec<WhyLine> = asks.map(|reference| asking.line(reference.from, "")).collect();
        if !lines.is_empty() {
            chain.push(WhyLink::good(name, lines));
        }
    }
    chain
}

/// Which link of the chain a reference to a point would be.
fn asks_as(link: Link) -> LinkName {
    match link {
        Link::AttachmentToPoint | Link::AttachmentToPartial => LinkName::Attached,
        Link::FillToPoint | Link::ItemToComponent | Link::HoldsToComponent => LinkName::Filled,
        Link::ThroughToFilter => LinkName::Sent,
        _ => LinkName::Placed,
    }
}

pub(super) fn declared(asking: &Asking<'_>, point: &Point) -> WhyLink {
    let lines = point.declared.iter().map(|declared| {
        let start = declared.place.at == START;
        asking.line(declared.place, if start { "this template" } else { "" })
    });
    WhyLink::good(LinkName::Declared, lines.collect())
}

fn attached(asking: &Asking<'_>, point: &Point) -> WhyLink {
    let registry = asking.registry;
    let lines: Vec<WhyLine> =
        slots(point).iter().map(|slot| asking.line(slot.place, state_of(registry, slot))).collect();
    if !point.slots.is_empty() {
        return WhyLink::good(LinkName::Attached, lines);
    }
    // Assets go into the head and to the end of the body.
    let takes_assets = point.inside.is_some_and(|(element, last)| element == "head" || last);
    if takes_assets && point.detached.is_empty() {
        return WhyLink::idle(LinkName::Attached, "nothing; the host puts there what pages need");
    }
    let reason = match point.detached.is_empty() {
        true => "nothing is attached to it".to_string(),
        false => "all that was attached to it has been detached".to_string(),
    };
    let lines = if lines.is_empty() { vec![said("–")] } else { lines };
    WhyLink::broken(LinkName::Attached, lines, reason)
}

fn state_of(registry: &Registry, slot: &Slot) -> String {
    let name = registry.first_name(slot);
    let by = |layer| registry.project().layer(layer).name;
    match (slot.detached, slot.replaced) {
        (Some(gone), _) => format!("{name}, detached by {}", by(gone.layer)),
        (None, Some(new)) => format!("{name}, replaced by {} {}", by(new.by.layer), registry.slot_name(slot)),
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
        return WhyLink::idle(LinkName::Attached, format!("{one} needs no callback"));
    }
    let lines = slots.iter().map(|slot| asking.line(slot.place, state_of(asking.registry, slot)));
    WhyLink { state: LinkState::Idle, ..WhyLink::good(LinkName::Attached, lines.collect()) }
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
        if let FillContent::Menu(menu) = &fill.content {
            some |= registry.menus().iter().any(|(known, _)| known.name == menu.name);
        }
        lines.push(asking.line(place, text));
    }
    if point.address == crate::link::body_region() {
        some = true;
        lines.push(said("the page's own text"));
    }
    if some {
        return WhyLink::good(LinkName::Filled, lines);
    }
    let reason = match (lines.is_empty(), registry.sites().next().is_some()) {
        (true, true) => "the site puts nothing into it".to_string(),
        (true, false) => "there is no preview/site.toml that fills it".to_string(),
        (false, _) if point.address.kind == Kind::Menu => "the site has no such menu".to_string(),
        (false, _) => format!("nothing of what the site puts into it is for {}", asking.here()),
    };
    let lines = if lines.is_empty() { vec![said("–")] } else { lines };
    // An arranger can add items to a region that the site leaves empty.
    if !point.slots.is_empty() && point.address.kind.holds_items() {
        return WhyLink { state: LinkState::Idle, ..WhyLink::good(LinkName::Filled, lines) };
    }
    WhyLink::broken(LinkName::Filled, lines, reason)
}

fn rendered(asking: &Asking<'_>, point: &Point) -> WhyLink {
    match point.renderer {
        Some(Renderer::Template(file)) => {
            WhyLink::good(LinkName::Rendered, vec![asking.line(Place { file, at: START }, "")])
        }
        Some(Renderer::Callback(callback)) => {
            let export = asking.registry.export(callback).map(|export| Place { file: callback.file, at: export.at });
            let name = asking.registry.callback_name(callback);
            WhyLink::good(
                LinkName::Rendered,
                vec![export.map_or_else(|| said(name.clone()), |place| asking.line(place, name.clone()))],
            )
        }
        None => WhyLink::broken(
            LinkName::Rendered,
            vec![said("–")],
            "there is neither a template nor a callback that renders it",
        ),
    }
}

pub(super) fn chosen(asking: &Asking<'_>, point: &Point) -> WhyLink {
    let registry = asking.registry;
    if point.renderer.is_none() {
        let reason = format!("there is no markup/{}.html", point.address.name);
        return WhyLink::broken(LinkName::ChosenBy, vec![said("–")], reason);
    }
    let types = registry
        .types()
        .iter()
        .filter(|known| known.templates.first().is_some_and(|file| Some(Renderer::Template(*file)) == point.renderer));
    let types: Vec<&str> = types.map(|known| known.name.as_str()).collect();
    let page_type = asking.page.and_then(|page| page.page_type).map(|at| registry.types()[at].name);
    match page_type {
        Some(own) if !types.contains(&own.as_str()) => {
            let used =
                registry.types().iter().find(|known| known.name == own).and_then(|known| known.templates.first());
            let used = used.map(|file| registry.project().shown(*file)).unwrap_or_default();
            let reason = format!("{} is of type {own}, which {used} shows", asking.here());
            WhyLink::broken(LinkName::ChosenBy, vec![said("–")], reason)
        }
        _ if types.is_empty() => WhyLink::broken(LinkName::ChosenBy, vec![said("–")], "no type of page takes it"),
        _ => WhyLink::good(LinkName::ChosenBy, vec![said(format!("by pages of type {}", types.join(", ")))]),
    }
}

/// Is it switched on, and did anything come of it?
fn on(asking: &Asking<'_>, point: &Point) -> WhyLink {
    if let Some(By { layer, place }) = point.dropped {
        let name = asking.registry.project().layer(layer).name;
        let line = asking.line(place, format!("dropped by {name}"));
        return WhyLink::broken(LinkName::On, vec![line], format!("{name} has dropped it"));
    }
    let Some(seen) = asking.seen() else {
        return WhyLink::idle(LinkName::On, "name a page with --page, and it is rendered to see");
    };
    let here = asking.here();
    if point.moment {
        return match seen.points.contains(&point.address) {
            true => WhyLink::idle(LinkName::On, "it is fired, and its listeners print nothing"),
            false => WhyLink::broken(LinkName::On, vec![said("–")], format!("it is not fired when {here} is made")),
        };
    }
    let met = seen.points.contains(&point.address);
    if !met && point.address.kind != Kind::Filter {
        let reason =
            format!("{here} gets to its placement, but a condition in a template, or on what holds it, was not met");
        return WhyLink::broken(LinkName::On, vec![said("not placed when the page was rendered")], reason);
    }
    let states: Vec<WhyCallback> = turns::of_point(asking, point.address);
    // What replaces another counts, too: it is its turn that matters, not whom it stands for.
    let mut slots = point.slots.iter();
    let alive = slots.any(|slot| seen.steps.iter().any(|step| step.slot == slot.place && step.changed()));
    let shown = seen.shown.contains(&point.address);
    match point.address.kind {
        Kind::Filter if alive => WhyLink::good(LinkName::On, vec![said("a callback changed the value")]),
        Kind::Filter => WhyLink::broken(LinkName::On, vec![said("no callback changed anything")], why_nothing(&states)),
        Kind::Template => WhyLink::good(LinkName::On, vec![said("it shows the page")]),
        _ if shown => WhyLink::good(LinkName::On, vec![said("it is there")]),
        Kind::Hook => {
            WhyLink::broken(LinkName::On, vec![said("empty when the page was rendered")], why_nothing(&states))
        }
        kind if kind.is_component() => WhyLink::broken(
            LinkName::On,
            vec![said("empty when the page was rendered")],
            "what renders it gave nothing, or failed",
        ),
        _ => {
            let arranger = states.iter().find(|callback| callback.state == CallbackState::Ran);
            let reason = match arranger {
                Some(arranger) => format!("its arranger {} left nothing of it", arranger.callback),
                None => format!("nothing of what fills it shows on {here}"),
            };
            WhyLink::broken(LinkName::On, vec![said("empty when the page was rendered")], reason)
        }
    }
}

fn why_nothing(states: &[WhyCallback]) -> String {
    let all = |state: CallbackState| !states.is_empty() && states.iter().all(|callback| callback.state == state);
    match states {
        [] => "nothing is attached to it, and the page needs nothing there".to_string(),
        [one] => format!("{} {}", one.callback, one.text),
        _ if all(CallbackState::Off) => "no condition of its callbacks holds there".to_string(),
        _ if all(CallbackState::Failed) => "all of its callbacks failed".to_string(),
        _ if all(CallbackState::Nothing) => "all of its callbacks gave nothing".to_string(),
        _ => "none of its callbacks came to anything".to_string(),
    }
}
