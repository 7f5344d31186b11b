//! Inputs of components and templates, and arguments of hooks and filters.

use crate::command_line;
use std::collections::BTreeSet;

use super::super::words::words;
use super::{Renaming, belongs, code, own_files, own_references, shown, told_below};
use crate::address::{Address, Kind};
use crate::edit::EditError;
use crate::link::{Callback, Registry, Renderer, Runs, Target};
use crate::name::Name;
use crate::names::{hint, nearest};
use crate::read::FileKind;
use crate::source::{Edit, FileId, Place};

pub(super) fn rename(registry: &Registry, from: &str, to: &str) -> Result<Renaming, EditError> {
    let wrong =
        || EditError::new(format!("`{from}` is no input; write the point and the input, as in partial:note.heading"));
    let (point, old) = from.split_once('.').ok_or_else(wrong)?;
    // The new name alone will do, too.
    let new = match to.split_once('.') {
        Some((other, new)) if other == point => new,
        Some(_) => {
            return Err(EditError::new(format!(
                "an input stays with its point: {}",
                command_line!["rename", from, format!("{point}.NEW")]
            )));
        }
        None => to,
    };
    let address: Address = point.parse().map_err(|error| EditError::new(format!("{error}")))?;
    let Some(said) = registry.point(address) else {
        let near = nearest(&address.name, registry.names(address.kind));
        let near = near.map(|name| Address::new(address.kind, name).to_string());
        return Err(EditError::new(format!("no layer declares `{address}`{}", hint(&near))));
    };
    let fields = || said.inputs.iter().chain(&said.args);
    let known: Vec<&str> = fields().map(|input| input.field.name.as_str()).collect();
    let Some(field) = fields().find(|input| input.field.name == *old) else {
        let near = nearest(old, known.iter().copied()).map(|near| format!("{address}.{near}"));
        let there = if known.is_empty() { "it has none".to_string() } else { format!("it has {}", known.join(", ")) };
        return Err(EditError::new(format!("{address} has no input `{old}`{}; {there}", hint(&near))));
    };
    let is_name = new.starts_with(|c: char| c.is_ascii_alphabetic() || c == '_')
        && new.chars().all(|c| c.is_ascii_alphanumeric() || c == '_');
    if !is_name || ["use", "holds", "when"].contains(&new) {
        return Err(EditError::new(format!(
            "`{new}` can't be the name of an input: letters, digits and _, and not use, holds or when"
        )));
    }
    reserved(registry, address, old, new)?;
    if known.contains(&new) {
        return Err(EditError::new(format!("{address} has an input `{new}` already")));
    }
    let layer = registry.layer_of(field.place);
    if layer != registry.project().top() {
        return Err(belongs(registry, &format!("{address}.{old}"), layer));
    }
    let target = Target::Input(address, old.into());
    let mut renaming = Renaming { points: vec![address], ..Renaming::default() };
    declared(registry, address, (old, new), &mut renaming.plan.edits);
    let mut seen: BTreeSet<(FileId, u32)> = BTreeSet::new();
    for reference in own_references(registry, |reference| reference.outcome.target() == Some(target)) {
        let (file, span) = (reference.from.file, registry.span(reference.from));
        if !seen.insert((file, span.start)) {
            continue;
        }
        shared(registry, reference.from, target, old)?;
        renaming.plan.edits.extend(edit(registry, reference.from, (old, new)));
    }
    renaming.told =
        told_below(registry, &format!("{address}.{old}"), |reference| reference.outcome.target() == Some(target));
    renaming.told.extend(passed_whole(registry, address, old));
    renaming.names.push((format!("`{old}`"), format!("`{new}`")));
    renaming.names.push((format!("{address}.{old}"), format!("{address}.{new}")));
    Ok(renaming)
}

/// As [`rename`], for an input that a lower layer has renamed. Where a place means two inputs, it stays.
pub(super) fn followed(registry: &Registry, from: &str, to: &str) -> Renaming {
    let mut renaming = Renaming::default();
    let (Some((point, old)), new) = (from.split_once('.'), to.rsplit('.').next().unwrap_or(to)) else {
        return renaming;
    };
    let Ok(address) = point.parse::<Address>() else { return renaming };
    let target = Target::Input(address, old.into());
    declared(registry, address, (old, new), &mut renaming.plan.edits);
    let mut seen: BTreeSet<(FileId, u32)> = BTreeSet::new();
    for reference in own_references(registry, |reference| reference.outcome.target() == Some(target)) {
        let (file, span) = (reference.from.file, registry.span(reference.from));
        if seen.insert((file, span.start)) && shared(registry, reference.from, target, old).is_ok() {
            renaming.plan.edits.extend(edit(registry, reference.from, (old, new)));
        }
    }
    renaming
}

/// In items, `title` in an area and `extent` anywhere mean something by themselves.
fn reserved(registry: &Registry, address: Address, old: &str, new: &str) -> Result<(), EditError> {
    let Some(word) = [old, new].into_iter().find(|name| ["title", "extent"].contains(name)) else { return Ok(()) };
    let in_area = |holder: Option<Address>| holder.is_some_and(|holder| holder.kind == Kind::Area);
    let mut items = registry.items().into_iter().filter(|item| item.component == Some(address));
    let taken = items.any(|item| {
        let given = item.item.inputs.iter().any(|given| given.name.name.as_str() == word);
        given && (word == "extent" || in_area(item.holder))
    });
    match taken {
        false => Ok(()),
        true => Err(EditError::new(format!(
            "`{word}` means something by itself for items in an area, or with an extent, and {address} is used as one; its \
             inputs can't change from or to that name"
        ))),
    }
}

/// The keys that declare it.
fn declared(registry: &Registry, address: Address, (old, new): (&str, &str), edits: &mut Vec<Edit>) {
    let table: Vec<&str> = match address.inner() {
        Some((section, own)) => vec!["section", section.name.as_str(), "piece", own],
        None => vec![address.kind.word(), address.name.as_str()],
    };
    for (file, source) in own_files(registry).filter(|(_, file)| file.kind == FileKind::Manifest) {
        let text = source.text();
        for word in words(text).into_iter().filter(|word| word.is_key) {
            let fields = ["inputs", "args"].iter().any(|list| word.is_at(&[table.as_slice(), &[list, old]].concat()));
            if fields {
                edits.push(word.with(file, text, old, new));
            }
        }
    }
}

fn edit(registry: &Registry, from: Place, (old, new): (&str, &str)) -> Option<Edit> {
    let (file, span) = (from.file, registry.span(from));
    let source = registry.project().file(file);
    let text = source.text();
    if source.kind == FileKind::Module {
        return code::property(file, text, span, (old, new));
    }
    let raw = text.get(span.range())?;
    let changed = raw.replacen(old, new, 1);
    (changed != raw).then_some(Edit { file, span, new: changed })
}

/// Does the same word mean an input of something else, too, which keeps its name?
fn shared(registry: &Registry, from: Place, target: Target, old: &str) -> Result<(), EditError> {
    let span = registry.span(from);
    let here = |place: Place| place.file == from.file && registry.span(place) == span;
    let others =
        registry.references().iter().filter(|other| here(other.from)).filter_map(|other| other.outcome.target());
    let other = others.filter(|other| *other != target).find_map(|other| match other {
        Target::Input(address, name) if name.as_str() == old => Some(format!("{address}.{name}")),
        _ => None,
    });
    match other {
        None => Ok(()),
        Some(other) => Err(EditError::new(format!(
            "{} means {other} as well, which keeps its name; write that place apart first",
            shown(registry, from)
        ))),
    }
}

/// Where the inputs are passed on as a whole, or read by what is computed, nobody can say who reads this one.
fn passed_whole(registry: &Registry, address: Address, old: &str) -> Vec<String> {
    let Some(point) = registry.point(address) else { return Vec::new() };
    let slots = point.slots.iter().filter_map(|slot| match slot.runs {
        Runs::Callback(_, callback) => callback,
        Runs::Partial(..) => None,
    });
    let renders = match point.renderer {
        Some(Renderer::Callback(callback)) => Some(callback),
        _ => None,
    };
    let whole = |callback: &Callback| {
        let export = registry.export(*callback)?;
        let whole = export.takes.iter().any(|taken| taken.param == 0 && taken.path.is_empty() && taken.whole);
        let own = registry.project().file(callback.file).layer == registry.project().top();
        (whole && own).then_some(Place { file: callback.file, at: export.at })
    };
    let places: Vec<Place> = slots.chain(renders).filter_map(|callback| whole(&callback)).collect();
    let name: Name = old.into();
    places
        .into_iter()
        .map(|place| format!("{} passes its inputs on as a whole; look there for `{name}`", shown(registry, place)))
        .collect()
}
