//! The chain of one callback, wherever it is attached.

use super::answer::{CallbackState, LinkName, WhyCallback, WhyLink, said};
use super::asking::{Asking, slots};
use super::placement::placed;
use super::points::chosen;
use super::turns::{became, turn};
use crate::address::{Address, Kind};
use crate::link::{By, Callback, Link, Outcome, Point, Renderer, Runs, Target};
use crate::name::Name;
use crate::scan::Attached;
use crate::source::Place;

/// All links of one callback, what became of it wherever it is attached, and the point that matters most.
pub(super) fn chain(asking: &Asking<'_>, callback: Callback) -> (Vec<WhyLink>, Vec<WhyCallback>, Option<Address>) {
    let registry = asking.registry;
    let name = registry.callback_name(callback);
    let export = registry.export(callback).map(|export| Place { file: callback.file, at: export.at });
    let exported = WhyLink::good(LinkName::Exported, export.into_iter().map(|place| asking.line(place, "")).collect());
    let is_it = |runs: &Runs| matches!(runs, Runs::Callback(_, Some(found)) if *found == callback);
    let mut states = Vec::new();
    let mut lines = Vec::new();
    let mut points: Vec<&Point> = Vec::new();
    for point in registry.points() {
        for slot in slots(point) {
            let first = slot.replaced.as_ref().is_some_and(|replaced| is_it(&replaced.first));
            if is_it(&slot.runs) || first {
                lines.push(asking.line(slot.place, format!("to {}", point.address)));
                let mut state = became(asking, point, slot);
                if !first && slot.replaced.is_some() {
                    let (word, text) = turn(asking, point, slot);
                    let text = if word == CallbackState::Ran { "runs in place of another".to_string() } else { text };
                    (state.callback, state.state, state.text) = (name.clone(), word, text);
                }
                states.push(state);
                points.push(point);
            }
        }
        if point.renderer == Some(Renderer::Callback(callback)) {
            lines.extend(
                point.declared.last().map(|declared| asking.line(declared.place, format!("renders {}", point.address))),
            );
            points.push(point);
        }
    }
    let Some(first) = points.iter().find(|point| asking.on_page(point.reached)).or(points.first()) else {
        let target = Outcome::Found(Target::Export(callback.file, callback.export));
        let imports =
            |reference: &&crate::link::Reference| reference.link == Link::ImportToModule && reference.outcome == target;
        if let Some((place, point)) = attached_to_missing(asking, callback) {
            let line = asking.line(place, format!("to {point}"));
            let reason = format!("it is attached to `{point}`, which no layer declares");
            return (vec![exported, WhyLink::broken(LinkName::Attached, vec![line], reason)], states, None);
        }
        if let Some((point, by)) = replaced_renderer(asking, callback) {
            let line =
                asking.line(by.place, format!("{} renders {point} now", registry.project().layer(by.layer).name));
            let reason = format!("something else renders `{point}` in its place");
            return (vec![exported, WhyLink::broken(LinkName::Attached, vec![line], reason)], states, None);
        }
        let imported =
            registry.references().iter().any(|reference| imports(&reference)) || as_a_whole(asking, callback);
        let reason = match imported {
            true => "it is attached to nothing; other modules import it",
            false => "it is attached to nothing, renders nothing, and no module imports it",
        };
        return (vec![exported, WhyLink::broken(LinkName::Attached, vec![said("–")], reason)], states, None);
    };
    let mut chain = vec![exported, WhyLink::good(LinkName::Attached, lines)];
    if first.address.kind == Kind::Template {
        chain.push(chosen(asking, first));
    } else {
        let (placed, reached) = placed(asking, first);
        chain.extend([placed, reached]);
    }
    let alive = states.iter().find(|state| {
        matches!(
            state.state,
            CallbackState::Ran | CallbackState::Attached | CallbackState::Unchanged | CallbackState::Nothing
        )
    });
    let renders = first.renderer == Some(Renderer::Callback(callback));
    chain.push(match (alive, states.first()) {
        (Some(state), _) if state.state == CallbackState::Attached => {
            WhyLink::idle(LinkName::On, "name a page with --page, and it is rendered to see")
        }
        (Some(state), _) => WhyLink::good(LinkName::On, vec![said(state.text.clone())]),
        (None, Some(state)) if !renders => {
            WhyLink::broken(LinkName::On, vec![said(state.state.word())], format!("it {}", state.text))
        }
        _ => WhyLink::idle(LinkName::On, "it renders a component"),
    });
    (chain, states, Some(first.address))
}

/// Where a callback is attached to a point that isn't there, and what is written for that.
fn attached_to_missing(asking: &Asking<'_>, callback: Callback) -> Option<(Place, Name)> {
    let registry = asking.registry;
    registry.manifests().into_iter().find_map(|(_, file)| {
        let attachments = &registry.manifest(file)?.attachments;
        attachments.iter().find_map(|attachment| {
            let Attached::Call(call) = &attachment.what else { return None };
            let from = Place { file, at: call.at };
            let found = Outcome::Found(Target::Export(callback.file, callback.export));
            let is_it = registry.references().iter().any(|one| one.from == from && one.outcome == found);
            let missing = attachment.to.address.is_none_or(|point| registry.point(point).is_none());
            (is_it && missing).then_some((Place { file, at: attachment.to.at }, attachment.to.raw))
        })
    })
}

/// The component that a callback rendered before a higher layer put something else in its place.
fn replaced_renderer(asking: &Asking<'_>, callback: Callback) -> Option<(Address, By)> {
    let registry = asking.registry;
    registry.points().find_map(|point| {
        let by = point.render_replaced?;
        let target = Outcome::Found(Target::Export(callback.file, callback.export));
        let renders = |reference: &&crate::link::Reference| {
            reference.outcome == target
                && point.declared.iter().any(|declared| declared.place.file == reference.from.file)
        };
        registry.references().iter().any(|reference| renders(&reference)).then_some((point.address, by))
    })
}

/// Does a module import all of the callback's module: `import * as names from`?
fn as_a_whole(asking: &Asking<'_>, callback: Callback) -> bool {
    let registry = asking.registry;
    let mut files = registry.project().file_ids();
    files.any(|file| {
        let imports = registry.module(file).into_iter().flat_map(|module| &module.imports);
        imports
            .into_iter()
            .any(|import| import.all && registry.resolve_import(file, &import.from.name) == Some(callback.file))
    })
}
