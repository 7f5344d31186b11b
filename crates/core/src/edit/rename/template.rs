//! Templates.

use super::super::words::words;
use super::{Renaming, own_files, own_references, told_below};
use crate::address::{Address, Kind};
use crate::command_line;
use crate::edit::EditError;
use crate::edit::template::own_template;
use crate::link::{Link, Registry, Target};
use crate::read::FileKind;
use crate::source::{Edit, FileId};

pub(super) fn rename(registry: &Registry, from: &str, to: &str) -> Result<Renaming, EditError> {
    let file = own_template(registry, from)?;
    let to = to.strip_prefix("markup/").unwrap_or(to);
    let good = to.ends_with(".html")
        && to.split('/').all(|part| !part.is_empty() && !part.starts_with('.') && !part.contains('\\'));
    if !good {
        return Err(EditError::new(format!(
            "`{to}` can't be the name of a template: a path below markup/ that ends in .html"
        )));
    }
    let old = registry.project().file(file).path.to_string();
    let name = registry.project().file(file).name().to_string();
    if let Some(component) = component(registry, file) {
        return Err(EditError::new(format!(
            "{name} is what renders {component}: {}",
            command_line!["rename", component, format!("{}:NEW", component.kind)]
        )));
    }
    if registry.types().iter().any(|kind| kind.templates.contains(&file)) {
        return Err(EditError::new(format!("{name} is what pages of that type are rendered by; its name stays")));
    }
    let below = registry.files_named(FileKind::Template, &name);
    if let Some(lower) = below.iter().rev().find(|lower| **lower != file) {
        let layer = registry.project().layer(registry.project().file(*lower).layer).name;
        return Err(EditError::new(format!(
            "{name} stands in the place of the one of {layer}, and would leave that place; its name stays"
        )));
    }
    let new = format!("markup/{to}");
    let mut renaming = Renaming::default();
    renaming.plan.edits = references(registry, file, &old, &new);
    renaming.told = told_below(registry, &name, |reference| is_meant(reference.outcome.target(), file));
    renaming.names.push((name, to.to_string()));
    renaming.moved.push((file, new.into()));
    Ok(renaming)
}

/// The component that a template renders.
fn component(registry: &Registry, file: FileId) -> Option<Address> {
    let name = registry.project().file(file).name();
    let mut components = registry.points().filter(|point| point.address.kind.is_component());
    let found = components.find(|point| crate::link::component_template(point.address) == name)?;
    Some(found.address).filter(|address| address.kind != Kind::Template)
}

fn is_meant(target: Option<Target>, file: FileId) -> bool {
    target == Some(Target::File(file))
}

/// The edits of what names a template by its path.
pub(super) fn references(registry: &Registry, file: FileId, old: &str, new: &str) -> Vec<Edit> {
    let below = |path: &str| path.strip_prefix("markup/").unwrap_or(path).to_string();
    let (old, new) = (below(old), below(new));
    let named = own_references(registry, |reference| {
        reference.link == Link::TemplateToTemplate && is_meant(reference.outcome.target(), file)
    });
    let mut edits: Vec<Edit> = named
        .filter_map(|reference| {
            let (from, span) = (reference.from.file, registry.span(reference.from));
            let raw = registry.project().file(from).text().get(span.range())?;
            raw.contains(old.as_str()).then(|| Edit { file: from, span, new: raw.replacen(&old, &new, 1) })
        })
        .collect();
    for (manifest, source) in own_files(registry).filter(|(_, file)| file.kind == FileKind::Manifest) {
        let text = source.text();
        let ignored = format!("markup/{old}");
        for word in words(text) {
            let is_copy = word.is_key && word.is_at(&["adopted", &old]);
            if is_copy || !word.is_key && word.is_at(&["check", "ignore", "file"]) && word.text == ignored {
                edits.push(word.with(manifest, text, &old, &new));
            }
        }
    }
    edits
}
