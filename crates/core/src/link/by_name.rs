//! Templates and modules by their names.

use rustc_hash::FxHashMap;

use crate::name::Name;
use crate::read::{FileKind, Project};
use crate::source::FileId;

/// The files of one name, the lowest layer first.
#[derive(Default)]
pub(super) struct ByName {
    markup: FxHashMap<Name, Vec<FileId>>,
    code: FxHashMap<Name, Vec<FileId>>,
}

impl ByName {
    pub fn index(project: &Project) -> ByName {
        let mut templates = ByName::default();
        // Most files are templates, and few have the name of another one.
        templates.markup.reserve(project.files.len());
        for (at, file) in project.files.iter().enumerate() {
            let by_name = match file.kind {
                FileKind::Template => &mut templates.markup,
                FileKind::Module => &mut templates.code,
                _ => continue,
            };
            by_name.entry(file.name().into()).or_default().push(FileId(at as u32));
        }
        templates
    }

    /// The templates that have the name of another one.
    pub fn doubled(&self) -> impl Iterator<Item = &Vec<FileId>> {
        self.markup.values().filter(|files| files.len() > 1)
    }

    pub fn named(&self, kind: FileKind, name: &str) -> &[FileId] {
        let by_name = if kind == FileKind::Module { &self.code } else { &self.markup };
        // A name that was never interned is nobody's.
        let known = Name::known(name).and_then(|name| by_name.get(&name));
        known.map_or(&[], Vec::as_slice)
    }
}
