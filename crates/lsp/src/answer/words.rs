//! What is said of points, callbacks and the rest, in Markdown.

use std::fmt::Write;

use truehook_core::address::Address;
use truehook_core::link::{Callback, Registry, Runs, Target};
use truehook_core::mentions;
use truehook_core::scan::Field;
use truehook_core::view::{PointView, SlotState, SlotView};

use crate::answer::goto::place_of;
use crate::theme::Theme;

/// How many of what there may be many of is named.
const NAMED: usize = 6;

/// So many of a thing, in words.
pub fn count(number: usize, one: &str) -> String {
    match number {
        1 => format!("1 {one}"),
        _ => format!("{number} {one}s"),
    }
}

/// `once`, `twice`, `3 times`.
pub fn times(number: usize) -> String {
    match number {
        1 => "once".into(),
        2 => "twice".into(),
        _ => format!("{number} times"),
    }
}

/// What is known of something, as `show` tells it, but short.
pub fn told(theme: &Theme, target: Target, written: &str) -> Option<String> {
    let registry = &theme.registry;
    Some(match target {
        Target::Point(address) => point(registry, address)?,
        Target::Input(address, name) => {
            let said = registry.point(address)?;
            let input = said.inputs.iter().chain(&said.args).find(|input| input.field.name == name)?;
            let what = if address.kind.is_component() { "input" } else { "argument" };
            format!("{}\n\n{what} of `{address}`", field(&input.field))
        }
        Target::Export(file, export) => callback(registry, Callback { file, export }),
        Target::Slot(place) => slot(registry, place)?,
        Target::PageType(name) => page_type(registry, name.as_str())?,
        Target::File(file) => format!("`{}`", registry.project().shown(file)),
        Target::Media(name) => format!("`{name}`"),
        Target::Macro(file, name) => format!("macro `{name}` of `{}`", registry.project().shown(file)),
        Target::Block(file, name) => format!("block `{name}` of `{}`", registry.project().shown(file)),
        Target::Layer(layer) => {
            let layer = registry.project().layer(layer);
            format!("**{}** – {}", layer.name, layer.role.word())
        }
        Target::Menu(_) => format!("menu `{written}` of the site"),
        Target::Global(file, name) => format!("`{name}`, given by `{}`", registry.project().shown(file)),
        Target::Entry(_) => translations(registry, target)?,
        Target::Given => return None,
    })
}

/// A point: what it is, where it is placed, and what runs there.
pub fn point(registry: &Registry, address: Address) -> Option<String> {
    let point = registry.point(address)?;
    let view = PointView::new(registry, point);
    let own = registry.project().layer(registry.project().top()).name.as_str();
    let mut text = format!("**`{address}`**");
    if let Some(label) = &view.label {
        let _ = write!(text, " – {label}");
    }
    if let Some(about) = &view.about {
        let _ = write!(text, "\n\n{about}");
    }
    let _ = write!(text, "\n\n- declared in {}", view.declared.shown(own));
    for state in view.states() {
        let _ = write!(text, "\n- {state}");
    }
    if let Some(retired) = &view.retired {
        let instead = view.instead.as_ref().map(|instead| format!("; use `{instead}`")).unwrap_or_default();
        let _ = write!(text, "\n- not to be used from {retired} on{instead}");
    }
    if !view.placements.is_empty() {
        let places: Vec<String> =
            view.placements.iter().take(NAMED).map(|placement| placement.place.shown(own)).collect();
        let more = view.placements.len().saturating_sub(NAMED);
        let more = if more > 0 { format!(" and {more} more") } else { String::new() };
        let verb = if address.kind.word() == "filter" { "sent through" } else { "placed" };
        let _ = write!(text, "\n- {verb} {}: {}{more}", times(view.placements.len()), places.join(", "));
    }
    if let Some(renderer) = &view.renderer {
        let _ = write!(text, "\n- rendered by `{renderer}`");
    }
    if !view.presence.is_nowhere() {
        let _ = write!(text, "\n- reached by {}", view.presence.pages("pages of type "));
    }
    for input in &view.inputs {
        let word = input.type_word.as_deref().unwrap_or("anything");
        let _ = write!(text, "\n- takes `{}` ({word})", input.name);
    }
    let running = view.slots.iter().filter(|slot| slot.state != SlotState::Detached);
    for (at, slot) in running.enumerate() {
        let head = if at == 0 { "\n\nruns, in this order:\n" } else { "" };
        let _ = write!(text, "{head}\n{}. {}", at + 1, line(slot, own));
    }
    Some(text)
}

fn line(slot: &SlotView, own: &str) -> String {
    let mut text = format!("`{}` · {}", slot.running(), slot.priority);
    if slot.layer != own {
        let _ = write!(text, " · {}", slot.layer);
    }
    if let Some(when) = &slot.when {
        let _ = write!(text, " · when `{when}`");
    }
    if slot.state == SlotState::Broken {
        text.push_str(" · can't run");
    }
    text
}

/// A field: its name, type and what it is for.
pub fn field(field: &Field) -> String {
    let word = field.type_word().unwrap_or("anything");
    let mut text = format!("**`{}`** – {word}", field.name);
    if let Some(default) = field.default() {
        let _ = write!(text, ", `{default}` where none is given");
    }
    if let Some(choices) = field.schema.get("enum").and_then(|choices| choices.as_array()) {
        let choices: Vec<String> = choices.iter().map(|choice| format!("`{choice}`")).collect();
        let _ = write!(text, "; one of {}", choices.join(", "));
    }
    if let Some(about) = field.schema.get("about").and_then(|about| about.as_str()) {
        let _ = write!(text, "\n\n{about}");
    }
    text
}

/// A callback: where it is attached, and when it runs there.
fn callback(registry: &Registry, callback: Callback) -> String {
    let mut text = format!("**`{}`**", registry.callback_name(callback));
    let mut any = false;
    for (point, slot, at, of) in runs_at(registry, callback) {
        any = true;
        let role = point.address.kind.role().map_or("callback", |role| role.word());
        let _ = write!(text, "\n- {role} of `{}`, {} of {of}, at {}", point.address, ordinal(at), slot.priority);
        if let Some(when) = &slot.when {
            let _ = write!(text, ", when `{}`", when.text);
        }
    }
    for point in registry.points() {
        if matches!(point.renderer, Some(truehook_core::link::Renderer::Callback(known)) if known == callback) {
            any = true;
            let _ = write!(text, "\n- renders `{}`", point.address);
        }
    }
    if !any {
        text.push_str("\n\nattached to nothing");
    }
    text
}

/// The points at which a callback runs, with its slot, and its position among so many.
pub fn runs_at(
    registry: &Registry,
    callback: Callback,
) -> impl Iterator<Item = (&truehook_core::link::Point, &truehook_core::link::Slot, usize, usize)> {
    registry.points().flat_map(move |point| {
        let slots = point.slots.iter().enumerate();
        let own =
            slots.filter(move |(_, slot)| matches!(slot.runs, Runs::Callback(_, Some(known)) if known == callback));
        own.map(move |(at, slot)| (point, slot, at + 1, point.slots.len()))
    })
}

/// `1st`, `2nd`, `3rd`, `4th`.
pub fn ordinal(number: usize) -> String {
    let ending = match (number % 10, number % 100) {
        (_, 11..=13) => "th",
        (1, _) => "st",
        (2, _) => "nd",
        (3, _) => "rd",
        _ => "th",
    };
    format!("{number}{ending}")
}

fn slot(registry: &Registry, place: truehook_core::source::Place) -> Option<String> {
    let (point, slot) = registry.points().find_map(|point| {
        Some((point, point.slots.iter().chain(point.detached.iter()).find(|slot| slot.place == place)?))
    })?;
    Some(format!("`{}`, attached to `{}` at {}", registry.slot_name(slot), point.address, slot.priority))
}

fn page_type(registry: &Registry, name: &str) -> Option<String> {
    let known = registry.types().iter().find(|known| known.name == *name)?;
    let mut text = format!("type of pages **`{name}`**");
    if let Some(file) = known.templates.first() {
        let _ = write!(text, ", shown by `{}`", registry.project().shown(*file));
    }
    for key in &known.keys {
        let _ = write!(text, "\n- `page.{}` ({})", key.name, key.type_word().unwrap_or("anything"));
    }
    Some(text)
}

fn translations(registry: &Registry, target: Target) -> Option<String> {
    let entries = mentions::of(registry, target).into_iter().filter(|mention| mention.declares);
    let lines = entries.filter_map(|mention| {
        let words = registry.words(mention.file)?;
        let entry = words.entries.iter().find(|entry| registry.facts(mention.file).span(entry.at) == mention.span)?;
        let language = registry.project().file(mention.file).path.file_stem()?;
        let forms: Vec<String> = entry.forms.iter().map(|form| format!("“{form}”")).collect();
        Some(format!("- {language}: {}", forms.join(", ")))
    });
    let lines: Vec<String> = lines.collect();
    (!lines.is_empty()).then(|| lines.join("\n")).or_else(|| place_of(registry, target).map(|_| String::new()))
}
