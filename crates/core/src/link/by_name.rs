//! Templates and modules by their names.

use std::collections::BTreeSet;

use rustc_hash::FxHashMap;

use crate::name::Name;
use crate::read::{FileKind, Project, SourceFile};
use crate::source::FileId;

/// The files of one name, the lowest layer first.
#[derive(Default)]
pub(super) struct ByName {
    markup: FxHashMap<Name, Vec<FileId>>,
    code: FxHashMap<Name, Vec<FileId>>,
    /// The templates that have the name of one in a layer below.
    above: BTreeSet<FileId>,
}

impl ByName {
    pub fn index(project: &Project) -> ByName {
        let mut templates = ByName::default();
        // Few have the name of another one.
        let is_template = |file: &&SourceFile| file.kind == FileKind::Template;
        templates.markup.reserve(project.files.iter().filter(is_template).count());
        for (at, file) in project.files.iter().enumerate() {
            let by_name = match file.kind {
                FileKind::Template => &mut templates.markup,
                FileKind::Module => &mut templates.code,
                _ => continue,
            };
            let named = by_name.entry(file.name().into()).or_default();
            if file.kind == FileKind::Template && !named.is_empty() {
                templates.above.insert(FileId(at as u32));
            }
            named.push(FileId(at as u32));
        }
        templates
    }

    /// The templates that have the name of one in a layer below, in the order of the files.
    pub fn above(&self) -> &BTreeSet<FileId> {
        &self.above
    }

    pub fn named(&self, kind: FileKind, name: &str) -> &[FileId] {
        let by_name = if kind == FileKind::Module { &self.code } else { &self.markup };
        // A name that was never interned is nobody's.
        let known = Name::known(name).and_then(|name| by_name.get(&name));
        known.map_or(&[], Vec::as_slice)
    }
}
