//! A new name for a point, callback, input or template, everywhere in the checked theme.

mod callback;
mod code;
mod follow;
mod input;
mod point;
mod template;

pub use follow::follow;
pub(super) use point::Point;

use crate::command_line;
use std::collections::BTreeSet;

use camino::Utf8PathBuf;

use super::{EditError, Plan, splice};
use crate::address::Address;
use crate::link::{Reference, Registry};
use crate::read::FileKind;
use crate::source::{Edit, FileId, LayerId, Place};

/// What a new name comes to.
#[derive(Clone, Debug, Default)]
pub struct Renaming {
    /// The changes.
    pub plan: Plan,
    /// The points that it is about, by their new names.
    pub points: Vec<Address>,
    /// What was left as it is, with the place and the reason.
    pub told: Vec<String>,
    /// The texts that stand for one another: the old one, and the new one.
    pub names: Vec<(String, String)>,
    /// Files that get another path.
    moved: Vec<(FileId, Utf8PathBuf)>,
}

/// Gives something of the checked theme another name: `region:aside`, `notes.js#today`, `partial:note.heading` or a
/// template's path below `markup/`.
///
/// # Errors
/// Where there is nothing of that name in this theme, the new name is none or is taken, or a place can't be changed.
pub fn rename(registry: &Registry, from: &str, to: &str) -> Result<Renaming, EditError> {
    if from == to {
        return Err(EditError::new(format!("`{from}` is called that already")));
    }
    let is_template = |text: &str| text.ends_with(".html") && !text.contains([':', '#']);
    let mut renaming = if from.contains('#') {
        callback::rename(registry, from, to)?
    } else if is_template(from) {
        template::rename(registry, from, to)?
    } else if from.contains('.') {
        input::rename(registry, from, to)?
    } else {
        point::rename(registry, from, to)?
    };
    renaming.move_files(registry)?;
    Ok(renaming)
}

impl Renaming {
    /// Writes the files that get another path there, with what is changed in them, and takes them away here.
    fn move_files(&mut self, registry: &Registry) -> Result<(), EditError> {
        let project = registry.project();
        for (file, path) in std::mem::take(&mut self.moved) {
            if project.find(project.top(), path.as_str()).is_some() {
                return Err(EditError::new(format!("{path} is there already")));
            }
            let old = project.file(file).path.to_string();
            let edits: Vec<&Edit> = self.plan.edits.iter().filter(|edit| edit.file == file).collect();
            let text = splice(project.file(file).text(), &edits);
            self.plan.edits.retain(|edit| edit.file != file);
            self.plan.created.push((path.clone(), text));
            self.plan.removed.push(file);
            // Translators' files say where a text comes from.
            self.plan.edits.extend(in_translations(registry, &old, path.as_str()));
            self.names.push((old, path.into_string()));
        }
        Ok(())
    }
}

/// The places in translations that name a file.
fn in_translations(registry: &Registry, old: &str, new: &str) -> Vec<Edit> {
    let mut edits = Vec::new();
    for (file, source) in own_files(registry).filter(|(_, file)| file.kind == FileKind::Words) {
        let text = source.text();
        let mut start = 0;
        for line in text.split_inclusive('\n') {
            if let Some(references) = line.strip_prefix("#:") {
                let mut at = start + 2;
                for word in references.split_inclusive([' ', '\n', '\r']) {
                    let named = word.trim_end().split(':').next().unwrap_or_default();
                    if named == old {
                        edits.push(Edit {
                            file,
                            span: crate::source::Span::new(at, at + old.len()),
                            new: new.to_string(),
                        });
                    }
                    at += word.len();
                }
            }
            start += line.len();
        }
    }
    edits
}

/// The files of the checked theme.
fn own_files(registry: &Registry) -> impl Iterator<Item = (FileId, &crate::source::SourceFile)> {
    registry.project().files_of(registry.project().top())
}

/// The references of the checked theme that lead somewhere.
fn own_references<'r>(
    registry: &'r Registry,
    leads: impl Fn(&Reference) -> bool + 'r,
) -> impl Iterator<Item = &'r Reference> {
    let top = registry.project().top();
    registry.references().iter().filter(move |reference| registry.layer_of(reference.from) == top && leads(reference))
}

/// What lower layers say of the same thing: it stays.
fn told_below(registry: &Registry, what: &str, leads: impl Fn(&Reference) -> bool) -> Vec<String> {
    let top = registry.project().top();
    let below =
        registry.references().iter().filter(|reference| registry.layer_of(reference.from) != top && leads(reference));
    let lines: BTreeSet<String> = below
        .filter(|reference| !registry.project().layer(registry.layer_of(reference.from)).built_in)
        .map(|reference| {
            let layer = registry.project().layer(registry.layer_of(reference.from)).name;
            format!("{what} in {layer} stays as it is: {}", shown(registry, reference.from))
        })
        .collect();
    lines.into_iter().collect()
}

/// A place for people: its file and line.
fn shown(registry: &Registry, place: Place) -> String {
    let line = registry.lines(place.file).position(registry.span(place).start).0;
    format!("{}:{line}", registry.project().shown(place.file))
}

/// How a layer that isn't the checked one is named in a refusal.
fn belongs(registry: &Registry, what: &str, layer: LayerId) -> EditError {
    let layer = registry.project().layer(layer);
    match layer.built_in {
        true => EditError::new(format!("{what} is the host's, and keeps its name")),
        false => EditError::new(format!(
            "{what} is declared by {}; rename it there: {}",
            layer.name,
            command_line!["-C", layer.root, "rename", what, "NEW"]
        )),
    }
}
