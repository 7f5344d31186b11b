//! Why something does, or does not, show up: the chain from its declaration to the page, link by link, with
//! the first that is broken.
//!
//! The registry answers what does not depend on a page's values. What does (conditions, callbacks that
//! fail or return nothing) comes from one rendering of the page, as [`Seen`].

mod answer;
mod asking;
mod callbacks;
mod features;
mod mends;
mod placement;
mod points;
mod seen;
mod subject;
mod turns;
mod unparsed;

use crate::address::{Address, Kind};
use crate::command_line;
use crate::link::{Callback, Registry, Runs, Slot};
use crate::source::Place;
use crate::view::{PresenceView, VERSION};
use asking::Asking;
use subject::Subject;

pub use answer::{CallbackState, LinkName, LinkState, Why, WhyCallback, WhyLine, WhyLink};
pub use seen::{Asked, Seen, SeenState, SeenStep};

/// Why a point does, or does not, show up: on one page, or on any.
pub fn point(registry: &Registry, address: Address, page: Option<&Asked>) -> Why {
    let asking = Asking { registry, page };
    let mut chain = match address.kind {
        Kind::Feature => features::feature(&asking, address),
        kind if kind.is_asset() => features::asset(&asking, address),
        Kind::Option => features::option(&asking, address),
        _ => points::point(&asking, address),
    };
    leave_what_is_known(&asking, &mut chain);
    let callbacks = turns::of_point(&asking, address);
    answer(&asking, Subject::Point(address), Some(address), chain, callbacks)
}

/// Behind the first broken link each says what is known of it all the same. What only a rendered page tells
/// is not: the page did not get that far.
fn leave_what_is_known(asking: &Asking<'_>, chain: &mut [WhyLink]) {
    let Some(broken) = chain.iter().position(|link| link.state == LinkState::Broken) else { return };
    for link in chain.iter_mut().skip(broken + 1) {
        let by_page = link.name == LinkName::On && link.lines.iter().all(|line| line.place.is_none());
        if by_page && (asking.page.is_some() || link.state == LinkState::Idle) {
            (link.state, link.lines, link.reason) = (LinkState::Unknown, vec![answer::said("–")], None);
        }
    }
}

/// Why a callback does, or does not, do anything.
pub fn callback(registry: &Registry, callback: Callback, page: Option<&Asked>) -> Why {
    let asking = Asking { registry, page };
    let (mut chain, callbacks, point) = callbacks::chain(&asking, callback);
    leave_what_is_known(&asking, &mut chain);
    answer(&asking, Subject::Callback(callback), point, chain, callbacks)
}

/// Why a callback of a module that does not parse does not run; nothing where its module parses, or is not there.
pub fn unparsed_callback(registry: &Registry, name: &str) -> Option<Why> {
    let asking = Asking { registry, page: None };
    let found = unparsed::module(&asking, name, registry.project().top())?;
    let chain = vec![WhyLink::broken(LinkName::Exported, vec![found.line], found.reason.clone())];
    let answer = format!("`{name}` does not run: {}", found.reason);
    Some(Why {
        version: VERSION,
        subject: name.to_string(),
        page: None,
        shows: false,
        answer,
        chain,
        broken: Some(0),
        callbacks: Vec::new(),
        mends: Vec::new(),
    })
}

/// All attachments of a callback.
pub fn attachments(registry: &Registry, callback: Callback) -> Vec<Place> {
    let slots = registry.points().flat_map(|point| point.slots.iter());
    let is_it = |slot: &&Slot| matches!(slot.runs, Runs::Callback(_, Some(found)) if found == callback);
    slots.filter(is_it).map(|slot| slot.place).collect()
}

fn answer(
    asking: &Asking<'_>,
    subject: Subject,
    point: Option<Address>,
    mut chain: Vec<WhyLink>,
    callbacks: Vec<WhyCallback>,
) -> Why {
    let broken = chain.iter().position(|link| link.state == LinkState::Broken);
    let behind = broken.and_then(|at| unparsed::behind(asking, subject, chain[at].name));
    let is_parsed = behind.is_none();
    if let (Some(at), Some(unparsed)) = (broken, behind) {
        let name = chain[at].name;
        chain[at] = WhyLink::broken(name, vec![unparsed.line], unparsed.reason);
    }
    let on = asking.page.map(|page| format!(" on {}", page.path)).unwrap_or_default();
    let in_vain = callbacks.first().is_some_and(|one| one.state.is_in_vain());
    let [shows, does_not] = subject.verbs(asking.registry, in_vain);
    let name = subject.name(asking.registry);
    let answer = match broken.and_then(|at| chain[at].reason.clone()) {
        Some(reason) => format!("`{name}` {does_not}{on}: {reason}"),
        None => format!("`{name}` {shows}{}", depends(asking, subject).unwrap_or(on)),
    };
    let mut mends = match broken {
        Some(_) if is_parsed => mends::mends(asking, point, subject, &chain, &callbacks),
        _ => Vec::new(),
    };
    if let (Some(_), Subject::Callback(_), Some(callback)) = (broken, subject, callbacks.first()) {
        let mend = match callback.state {
            CallbackState::Detached => Some("take the [[detach]] away"),
            CallbackState::Replaced => Some("take the [[replace]] away"),
            CallbackState::Off if callback.has_condition => Some("change its `when`, or leave it away"),
            _ => None,
        };
        let undone = (callback.state == CallbackState::Replaced).then(|| undoing(asking.registry, &name)).flatten();
        mends.extend(undone.or(mend.map(str::to_string)).filter(|_| mends.is_empty()));
    }
    let page = asking.page.map(|page| page.path.clone());
    Why { version: VERSION, subject: name, page, shows: broken.is_none(), answer, chain, broken, callbacks, mends }
}

/// On which pages something shows, where that depends on conditions and no page was asked about.
fn depends(asking: &Asking<'_>, subject: Subject) -> Option<String> {
    let Subject::Point(address) = subject else { return None };
    let point = asking.registry.point(address).filter(|_| asking.page.is_none())?;
    let presence = PresenceView::of_point(asking.registry, point);
    (!presence.conditions.is_empty()).then(|| format!(" on {}", presence.pages("pages of type ")))
}

/// The command that takes away what this theme has put in the place of a callback.
fn undoing(registry: &Registry, name: &str) -> Option<String> {
    let top = registry.project().top();
    let is_it = |slot: &&Slot| {
        slot.replaced.is_some_and(|replaced| replaced.by.layer == top) && registry.first_name(slot) == name
    };
    let mut points = registry.points();
    points.find_map(|point| {
        let slot = point.slots.iter().find(is_it)?;
        Some(command_line!["detach", point.address, registry.slot_name(slot)])
    })
}
