//! What is looked up on the ground again and again: kept once somebody has asked.

use std::sync::OnceLock;

use rustc_hash::FxHashMap;

use super::paths::file_name;
use crate::address::{Address, Kind};
use crate::name::Name;
use crate::name_sets::NameSets;
use crate::read::Project;
use crate::scan::{SectionKind, Shape};
use crate::source::{FileId, LayerId, Lines};

/// What a set of names is the names of.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub(super) enum SetOf {
    /// Points of a kind that are not retired.
    Points(Kind),
    /// What a module exports.
    Exports(FileId),
    /// The modules of a layer.
    Modules(LayerId),
    /// All templates.
    Templates,
    /// The files below a folder that style sheets, scripts and pages ask for.
    MediaBelow(&'static str),
    /// Callbacks attached to a point, or to any, as they are called in a layer; those of lower layers only.
    Attached(Option<Address>, LayerId, bool),
}

/// What has been looked up.
#[derive(Default)]
pub(super) struct Looked {
    /// Names among which what misspelt ones were meant to be is looked for.
    pub sets: NameSets<SetOf>,
    /// The only file of each name, in whatever folder.
    media: OnceLock<FxHashMap<String, Option<String>>>,
    files: Vec<InFile>,
}

impl Looked {
    pub fn of(project: &Project) -> Looked {
        Looked { files: (0..project.files.len()).map(|_| InFile::default()).collect(), ..Looked::default() }
    }

    /// Forgets what was looked up in a file.
    pub fn forget(&mut self, file: FileId) {
        self.files[file.index()] = InFile::default();
    }

    /// Where the lines of a file are.
    pub fn lines(&self, file: FileId, text: &str) -> &Lines {
        self.files[file.index()].lines.get_or_init(|| Box::new(Lines::of(text)))
    }

    /// The exports of a module, or the blocks of a template, by name, as positions.
    pub fn parts(&self, file: FileId, shape: &Shape) -> &FxHashMap<Name, usize> {
        self.files[file.index()].parts.get_or_init(|| {
            let mut parts = FxHashMap::default();
            match shape {
                Shape::Module(module) => {
                    for (at, export) in module.exports.iter().enumerate() {
                        parts.entry(export.name).or_insert(at);
                    }
                }
                Shape::Template(template) => {
                    for (at, section) in template.sections.iter().enumerate() {
                        if let SectionKind::Block(block) = section.kind {
                            parts.entry(block).or_insert(at);
                        }
                    }
                }
                _ => {}
            }
            Box::new(parts)
        })
    }

    /// The only file of that name that style sheets, scripts and pages can ask for, in whatever folder.
    pub fn lone_media(&self, project: &Project, name: &str) -> Option<&str> {
        let by_name = self.media.get_or_init(|| {
            let mut by_name: FxHashMap<String, Option<String>> = FxHashMap::default();
            for path in project.layers.iter().flat_map(|layer| &layer.media) {
                let known = by_name.entry(file_name(path.as_str()).to_string());
                known.and_modify(|path| *path = None).or_insert_with(|| Some(path.to_string()));
            }
            by_name
        });
        by_name.get(name)?.as_deref()
    }
}

/// What has been looked up in a file. In most files nothing is.
#[derive(Default)]
struct InFile {
    lines: OnceLock<Box<Lines>>,
    /// The exports of a module, or the blocks of a template, by name, as positions.
    parts: OnceLock<Box<FxHashMap<Name, usize>>>,
}
