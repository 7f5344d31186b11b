//! A new name that a layer below has given: what the checked theme says of the same thing follows it.

use camino::Utf8Path;

use super::super::words::words;
use super::{Renaming, input, own_files, own_references, point, template};
use crate::address::Address;
use crate::edit::EditError;
use crate::link::{Registry, Target};
use crate::read::FileKind;
use crate::scan::CallRef;
use crate::source::{At, Edit, LayerId};

/// What a renaming in a lower layer, whose folder is `below`, comes to in the checked theme. Nothing changes where the
/// theme does not speak of it.
///
/// # Errors
/// Where a file would get a path that is taken.
pub fn follow(registry: &Registry, below: &Utf8Path, from: &str, to: &str) -> Result<Renaming, EditError> {
    let project = registry.project();
    let found = project.layers.iter().position(|layer| layer.root == below);
    let Some(layer) = found.map(|at| LayerId(at as u16)).filter(|layer| *layer != project.top()) else {
        return Ok(Renaming::default());
    };
    let mut renaming = if from.contains('#') {
        callback(registry, layer, from, to)
    } else if from.ends_with(".html") && !from.contains(':') {
        markup(registry, layer, from, to)
    } else if from.contains('.') {
        input::followed(registry, from, to)
    } else {
        match (from.parse::<Address>(), to.parse::<Address>()) {
            (Ok(from), Ok(to)) if registry.point(from).is_some() => point::renamed(registry, from, to),
            _ => Renaming::default(),
        }
    };
    renaming.move_files(registry)?;
    Ok(renaming)
}

/// `layer:file.js#old` in manifests, and imports of the function.
fn callback(registry: &Registry, layer: LayerId, from: &str, to: &str) -> Renaming {
    let mut renaming = Renaming::default();
    let Some(call) = CallRef::parse(from, At::default()) else { return renaming };
    let (old, new) = (call.export.as_str(), to.rsplit('#').next().unwrap_or(to));
    let Some(file) = registry.project().find(layer, &format!("code/{}", call.file)) else { return renaming };
    let target = Target::Export(file, call.export);
    let mut places: Vec<Edit> = own_references(registry, |reference| reference.outcome.target() == Some(target))
        .filter_map(|reference| {
            let (file, span) = (reference.from.file, registry.span(reference.from));
            let raw = registry.project().file(file).text().get(span.range())?;
            let changed = raw.replacen(&format!("#{old}"), &format!("#{new}"), 1);
            (changed != raw).then_some(Edit { file, span, new: changed })
        })
        .collect();
    // What is detached or replaced is named by its place in the order, and not as an export.
    let written = format!("{}:{}#{old}", registry.project().layer(layer).name, call.file);
    for (manifest, source) in own_files(registry).filter(|(_, file)| file.kind == FileKind::Manifest) {
        let text = source.text();
        for word in words(text).into_iter().filter(|word| !word.is_key && word.text == written) {
            places.push(word.with(manifest, text, &format!("#{old}"), &format!("#{new}")));
        }
    }
    places.sort();
    places.dedup_by(|one, other| one.file == other.file && one.span.start < other.span.end);
    renaming.plan.edits = places;
    renaming
}

fn markup(registry: &Registry, layer: LayerId, from: &str, to: &str) -> Renaming {
    let path = |name: &str| format!("markup/{}", name.strip_prefix("markup/").unwrap_or(name));
    let mut renaming = Renaming::default();
    if let Some(file) = registry.project().find(layer, &path(from)) {
        renaming.plan.edits = template::references(registry, file, &path(from), &path(to));
    }
    renaming
}
