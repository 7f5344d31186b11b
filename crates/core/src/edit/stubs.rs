//! What `declare` and `attach` wrote for a point to exist, as long as nobody touched it.

use std::ops::Range;

use super::declare::{component, of_asset};
use super::{EditError, Plan, line_end, module, with_line_ends_of};
use crate::address::Address;
use crate::link::{Callback, Point, Registry, Runs, Target, component_template};
use crate::source::{Edit, Place, Span};

/// Adds to a plan that the stub of a callback goes, where nobody touched it and nothing else uses it. `goes` tells
/// whether a place from which it is used goes, too.
pub(super) fn remove_stub(
    registry: &Registry,
    point: Address,
    callback: Callback,
    goes: &dyn Fn(Place) -> bool,
    plan: &mut Plan,
) -> Result<(), EditError> {
    let target = Target::Export(callback.file, callback.export);
    let used = registry
        .references()
        .iter()
        .any(|reference| reference.outcome.target() == Some(target) && !goes(reference.from));
    let project = registry.project();
    if used || project.file(callback.file).layer != project.top() {
        return Ok(());
    }
    let text = project.file(callback.file).text();
    let name = callback.export.as_str();
    let mut written: Vec<String> =
        [true, false].into_iter().map(|html| module::stub(registry, point, name, html)).collect();
    if point.kind.is_component() {
        let inputs: Vec<String> = registry.point(point).map(inputs_of).unwrap_or_default();
        written.extend([true, false].map(|html| module::renderer(point, name, &inputs, html)));
    }
    // In the place of another one it has that one's parameters.
    let slots = registry.point(point).map(|point| &*point.slots).unwrap_or_default();
    let firsts = slots.iter().filter(|slot| matches!(slot.runs, Runs::Callback(_, Some(own)) if own == callback));
    for first in firsts.filter_map(|slot| match slot.replaced?.first {
        Runs::Callback(_, first) => first,
        Runs::Partial(..) => None,
    }) {
        let shaped = module::Shaped { params: super::replace::params(registry, first), like: Some(String::new()) };
        written.extend([true, false].map(|html| module::shaped_stub(registry, point, name, &shaped, html)));
    }
    for stub in written {
        let Some(range) = found(text, &with_line_ends_of(&stub, text)) else { continue };
        let rest = format!("{}{}", &text[..range.start], &text[range.end..]);
        match rest.is_empty() || rest.trim_end() == module::IMPORT.trim_end() {
            true => plan.removed.push(callback.file),
            false => plan.edits.push(Edit {
                file: callback.file,
                span: Span::new(range.start, range.end),
                new: String::new(),
            }),
        }
        return Ok(());
    }
    Ok(())
}

/// Adds to a plan that the stub of what one attachment runs goes, where nobody touched it and nothing else uses it; the
/// attachment itself goes by the plan already.
///
/// # Errors
/// Where the module can't be edited.
pub fn remove_of_slot(registry: &Registry, point: Address, slot: Place, plan: &mut Plan) -> Result<(), EditError> {
    let Some(callback) = registry.point(point).and_then(|point| of_slot(point, slot)) else {
        return Ok(());
    };
    let edits = plan.edits.clone();
    let goes = |place: Place| {
        let span = registry.span(place);
        edits.iter().any(|edit| edit.file == place.file && edit.span.start <= span.start && span.end <= edit.span.end)
    };
    remove_stub(registry, point, callback, &goes, plan)
}

/// As [`remove_of_slot`], for what a replacement put in the place of another.
///
/// # Errors
/// As for [`remove_of_slot`].
pub fn remove_of_replacement(
    registry: &Registry,
    point: Address,
    replacement: Place,
    plan: &mut Plan,
) -> Result<(), EditError> {
    let slots = registry.point(point).map(|point| &*point.slots).unwrap_or_default();
    let slot = slots.iter().find(|slot| slot.replaced.is_some_and(|replaced| replaced.by.place == replacement));
    let Some(Runs::Callback(_, Some(callback))) = slot.map(|slot| slot.runs) else { return Ok(()) };
    let edits = plan.edits.clone();
    let goes = |place: Place| {
        let span = registry.span(place);
        edits.iter().any(|edit| edit.file == place.file && edit.span.start <= span.start && span.end <= edit.span.end)
    };
    remove_stub(registry, point, callback, &goes, plan)
}

/// Where a stub stands in a module, with the blank line before it. What its comment says may have changed: the point
/// has another name by now, or is another one.
fn found(text: &str, stub: &str) -> Option<Range<usize>> {
    let end = line_end(text);
    let (_, function) = stub.split_once('\n')?;
    let bare = function.trim_end_matches(['\r', '\n']);
    let (start, stop) = match text.rfind(function) {
        Some(start) => (start, start + function.len()),
        // A text without a last line end.
        None => (text.strip_suffix(bare)?.len(), text.len()),
    };
    let above = text[..start].trim_end_matches(['\r', '\n']);
    let comment = above.rfind('\n').map_or(0, |end| end + 1);
    let is_ours =
        ["/** For ", "/** Renders ", "/** In the place of "].iter().any(|word| above[comment..].starts_with(word));
    if !is_ours || text[above.len()..start] != *end {
        return None;
    }
    let before = &text[..comment];
    Some(match stop == text.len() && !text.ends_with('\n') {
        true => before.trim_end_matches(['\r', '\n']).len()..stop,
        false if before.ends_with(&format!("{end}{end}")) => comment - end.len()..stop,
        false => comment..stop,
    })
}

/// Adds to a plan that the template of a component, or the file of a style or script goes, where nobody touched it.
/// The answer is the path of one that was touched.
pub(super) fn remove_files(registry: &Registry, point: &Point, plan: &mut Plan) -> Option<String> {
    let project = registry.project();
    let address = point.address;
    let (path, written) = if address.kind.is_component() {
        let holds = !point.holds.is_empty();
        (format!("markup/{}", component_template(address)), component(address, &inputs_of(point), holds))
    } else {
        let (ending, text) = of_asset(address)?;
        let file = point.asset.as_ref().and_then(|asset| asset.file.as_ref());
        let name = file.map_or_else(|| format!("{}.{ending}", address.name), |(named, _)| named.to_string());
        (format!("media/{name}"), text)
    };
    let file = project.find(project.top(), &path)?;
    let text = project.file(file).text();
    if text == written || text == written.replace('\n', "\r\n") {
        plan.removed.push(file);
        return None;
    }
    Some(path)
}

fn inputs_of(point: &Point) -> Vec<String> {
    point.inputs.iter().map(|input| input.field.name.to_string()).collect()
}

/// The file of a callback that is attached at a place.
pub(super) fn of_slot(point: &Point, place: Place) -> Option<Callback> {
    let slot = point.slots.iter().find(|slot| slot.place == place)?;
    match slot.runs {
        Runs::Callback(_, callback) => callback,
        _ => None,
    }
}
