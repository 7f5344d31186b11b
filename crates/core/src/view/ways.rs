//! What can be done about a point, as commands that can be pasted in the theme's folder.

use serde::Serialize;

use crate::address::{Address, Kind, Role};
use crate::command_line;
use crate::edit::suggest::Places;
use crate::link::{Point, Registry, Renderer, Runs, Slot};
use crate::read::FileKind;
use crate::scan::Verb;
use crate::source::FileId;

/// A command, and what it is for.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, schemars::JsonSchema)]
pub struct WayView {
    /// What it does, in a few words.
    pub what: String,
    /// The command.
    pub command: String,
}

impl WayView {
    fn new(what: impl Into<String>, command: String) -> WayView {
        WayView { what: what.into(), command }
    }
}

/// The ways to change what comes of a point: those that add, then those that take away or put something else there.
pub fn ways(registry: &Registry, point: &Point) -> Vec<WayView> {
    let address = point.address;
    let mut ways = Vec::new();
    if point.dropped.is_some() {
        return ways;
    }
    if matches!(address.kind, Kind::Region | Kind::Area | Kind::Menu) {
        ways.extend(fill(registry, address));
    }
    let prepared = |role: Role| role != Role::Preparer || address.kind == Kind::Template || !point.inputs.is_empty();
    if let Some(role) = address.kind.role().filter(|role| prepared(*role)) {
        let what = match role {
            Role::Listener => "print something here, by a listener".to_owned(),
            Role::Filter => "change the value, by a filter".to_owned(),
            Role::Arranger => "arrange what it holds".to_owned(),
            Role::Preparer => format!("prepare what {address} is given"),
        };
        let call = unused(registry, address, word(role));
        ways.push(WayView::new(what, command_line!["attach", address, call]));
    }
    for slot in point.slots.iter() {
        ways.extend(of_slot(registry, address, slot));
    }
    match point.renderer {
        Some(Renderer::Template(file)) => ways.extend(template(registry, file)),
        Some(Renderer::Callback(callback))
            if registry.project().file(callback.file).layer != registry.project().top() =>
        {
            let name = registry.callback_name(callback);
            let with = unused(registry, address, "show");
            ways.push(WayView::new("render it by a callback of this theme", command_line!["replace", name, with]));
        }
        _ => {}
    }
    let placed = point.uses.iter().any(|used| registry.use_of(*used).verb == Verb::Place);
    if address.kind.needs_placement() && !placed {
        let places = Places::of(registry);
        if places.has_place(address) {
            ways.push(WayView::new("place it", places.command(address, None)));
        }
    }
    ways
}

fn word(role: Role) -> &'static str {
    match role {
        Role::Listener => "show",
        Role::Filter => "change",
        Role::Arranger => "arrange",
        Role::Preparer => "prepare",
    }
}

/// A callback that isn't there yet, in a module that is named after a point.
pub(crate) fn unused(registry: &Registry, address: Address, word: &str) -> String {
    let module = address.name.rsplit('/').next().unwrap_or_default();
    let named = |number: usize| match number {
        1 => format!("{module}.js#{word}"),
        _ => format!("{module}.js#{word}{number}"),
    };
    let top = registry.project().top();
    let is_free = |name: &String| registry.callback_named(name, top).is_none();
    (1..).map(named).find(is_free).unwrap_or_default()
}

/// What higher layers may do about an attachment.
fn of_slot(registry: &Registry, address: Address, slot: &Slot) -> Vec<WayView> {
    let top = registry.project().top();
    let (first, running) = (registry.first_name(slot), registry.slot_name(slot));
    let by_us = slot.replaced.is_some_and(|replaced| replaced.by.layer == top);
    let mut ways = Vec::new();
    if slot.sealed && slot.layer != top {
        return ways;
    }
    if by_us {
        ways.push(WayView::new(format!("let {first} run again"), command_line!["detach", address, running]));
    }
    ways.push(WayView::new(format!("take {first} away"), command_line!["detach", address, first]));
    let first_runs = slot.replaced.map_or(slot.runs, |replaced| replaced.first);
    if slot.layer != top && !by_us && matches!(first_runs, Runs::Callback(_, Some(_))) {
        let with =
            unused(registry, address, &format!("own{}", capital(word(address.kind.role().unwrap_or(Role::Listener)))));
        let command = command_line!["replace", first, with, "--point", address];
        ways.push(WayView::new(format!("run another callback in the place of {first}"), command));
    }
    ways
}

fn capital(word: &str) -> String {
    word.chars().enumerate().map(|(at, c)| if at == 0 { c.to_ascii_uppercase() } else { c }).collect()
}

/// The first offer that a region or area may hold, or a link; an entry of a menu.
fn fill(registry: &Registry, address: Address) -> Option<WayView> {
    if address.kind == Kind::Menu {
        return Some(WayView::new("add an entry", command_line!["fill", address, "Home=/"]));
    }
    let (component, label) = offers(registry, address).into_iter().next()?;
    Some(WayView::new("fill it", command_line!["fill", address, component, "--offer", label]))
}

/// What site editors can put into a region or area: the component, and the label of the offer.
pub fn offers(registry: &Registry, holder: Address) -> Vec<(Address, String)> {
    let mut found = Vec::new();
    for point in registry.points().filter(|point| point.address.kind.is_component() && point.renderer.is_some()) {
        if point.reserved || point.dropped.is_some() || !registry.may_hold(holder, point.address) {
            continue;
        }
        for (_, offer) in point.offers.iter().flatten() {
            found.extend(offer.label.map(|label| (point.address, label.to_string())));
        }
    }
    found.sort();
    found
}

/// How a template of a lower layer is taken over.
fn template(registry: &Registry, file: FileId) -> Option<WayView> {
    let project = registry.project();
    let top = project.top();
    let name = project.file(file).name();
    let named = registry.files_named(FileKind::Template, name);
    let own = named.iter().any(|file| project.file(*file).layer == top);
    (!own && project.file(file).layer != top)
        .then(|| WayView::new("write its markup anew, from a copy", command_line!["adopt", name, "--copy"]))
}
