//! Changes to files: splices of byte ranges, worked out as data and written all or none. Whatever a
//! splice does not touch stays as it is: comments, order, line ends, a byte order mark.

pub mod adopt;
pub mod asked;
mod blocks;
mod cells;
pub mod declare;
mod elements;
pub mod fill;
mod guard;
mod lists;
pub mod manifest;
mod markup_tags;
pub mod module;
mod placement;
pub mod removal;
pub mod rename;
pub mod replace;
mod selector;
pub mod stubs;
pub mod suggest;
mod tables;
pub mod template;
mod texts;
mod tree;
pub mod withdraw;
mod words;
mod write;

use std::collections::BTreeMap;

use camino::Utf8PathBuf;

use crate::read::{Content, Files, MemoryFiles, OverlayFiles, Project};
use crate::source::{Edit, FileId};

pub use blocks::block_names;
pub use cells::beside_cell;
pub use elements::{Position, find_in_page};
pub use selector::Selector;
pub use write::{
    Disk, Folder, Left, LeftOver, Lock, RealDisk, WriteError, left_over, left_over_in, readable_journal, save,
    state_folder, write_all, write_on,
};

/// Why a change can't be made.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
#[error("{0}")]
pub struct EditError(pub String);

impl EditError {
    /// A refusal, in words for people.
    pub fn new(message: impl Into<String>) -> EditError {
        EditError(message.into())
    }
}

/// A file before and after a change.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Change {
    /// Where it lies.
    pub path: Utf8PathBuf,
    /// How it is shown to people.
    pub shown: String,
    /// Its bytes before; nothing where it is new.
    pub before: Option<Vec<u8>>,
    /// Its bytes after; nothing where it goes.
    pub after: Option<Vec<u8>>,
}

/// A file of the checked theme that is no part of the project, such as what is kept of an original.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Beside {
    /// The path below the theme's folder.
    pub path: Utf8PathBuf,
    /// What it holds; nothing where it isn't there.
    pub before: Option<String>,
    /// What it is to hold; nothing where it is to go.
    pub after: Option<String>,
}

/// Changes to several files, not written yet.
#[derive(Clone, Debug, Default)]
pub struct Plan {
    /// Splices of files that are there.
    pub edits: Vec<Edit>,
    /// New files of the checked theme: their paths below its folder, and their texts.
    pub created: Vec<(Utf8PathBuf, String)>,
    /// Files that go.
    pub removed: Vec<FileId>,
    /// Files that are no part of the project.
    pub beside: Vec<Beside>,
}

impl Plan {
    /// A plan of nothing but splices.
    pub fn of(edits: Vec<Edit>) -> Plan {
        Plan { edits, ..Plan::default() }
    }

    /// Joins what another plan does to this one.
    pub fn join(&mut self, other: Plan) {
        self.edits.extend(other.edits);
        self.created.extend(other.created);
        self.removed.extend(other.removed);
        self.beside.extend(other.beside);
    }

    /// The changes that this comes to, in the order of the files' paths.
    ///
    /// # Errors
    /// Where a file can't be edited, because it is built in or is no text.
    pub fn changes(&self, project: &Project) -> Result<Vec<Change>, EditError> {
        let mut by_file: BTreeMap<FileId, Vec<&Edit>> = BTreeMap::new();
        for edit in &self.edits {
            by_file.entry(edit.file).or_default().push(edit);
        }
        for file in &self.removed {
            by_file.entry(*file).or_default();
        }
        let mut changes = Vec::new();
        for (file, edits) in by_file {
            let source = project.file(file);
            if project.layer(source.layer).built_in {
                return Err(EditError::new(format!("{} is built in and can't be edited", project.shown(file))));
            }
            let Content::Text { text, mark } = &source.content else {
                return Err(EditError::new(format!("{} is no text that can be edited", project.shown(file))));
            };
            let bytes = |text: &str| format!("{}{text}", if *mark { "\u{feff}" } else { "" }).into_bytes();
            let goes = self.removed.contains(&file);
            changes.push(Change {
                path: project.path_of(file),
                shown: project.shown(file),
                before: Some(bytes(text)),
                after: (!goes).then(|| bytes(&splice(text, &edits))),
            });
        }
        let root = &project.layer(project.top()).root;
        for (path, text) in &self.created {
            let (shown, path) = (path.to_string(), root.join(path));
            changes.push(Change { path, shown, before: None, after: Some(text.clone().into_bytes()) });
        }
        for Beside { path, before, after } in &self.beside {
            let before = before.as_ref().map(|text| text.clone().into_bytes());
            changes.push(Change {
                path: root.join(path),
                shown: path.to_string(),
                before,
                after: after.as_ref().map(|text| text.clone().into_bytes()),
            });
        }
        changes.sort_by(|a, b| a.path.cmp(&b.path));
        Ok(changes)
    }
}

/// The project as it would be with some changes made.
///
/// # Errors
/// Where the theme can't be opened any more.
pub fn preview(files: &dyn Files, project: &Project, changes: &[Change]) -> Result<Project, crate::read::OpenError> {
    let mut laid = OverlayFiles { below: files, over: MemoryFiles::new(), gone: Vec::new() };
    for change in changes {
        match &change.after {
            Some(bytes) => laid.over.insert(change.path.clone(), bytes.clone()),
            None => laid.gone.push(change.path.clone()),
        }
    }
    Project::open(&laid, &project.layer(project.top()).root)
}

/// Makes the edits of one text. They must not overlap; several at one place come in their order.
fn splice(text: &str, edits: &[&Edit]) -> String {
    let mut edits = edits.to_vec();
    edits.sort_by_key(|edit| edit.span);
    edits.dedup();
    let mut spliced = String::with_capacity(text.len() + 64);
    let mut at = 0;
    for edit in edits {
        let range = edit.span.range();
        if range.start < at {
            continue;
        }
        spliced.push_str(&text[at..range.start]);
        spliced.push_str(&edit.new);
        at = range.end;
    }
    spliced.push_str(&text[at..]);
    spliced
}

/// A text as TOML writes it.
pub(crate) fn toml_text(text: &str) -> String {
    texts::string(text)
}

/// How lines end in a text.
pub(crate) fn line_end(text: &str) -> &'static str {
    match text.find('\n') {
        Some(at) if text[..at].ends_with('\r') => "\r\n",
        _ => "\n",
    }
}

/// A text whose lines end as those of another do.
pub(crate) fn with_line_ends_of(text: &str, other: &str) -> String {
    match line_end(other) {
        "\r\n" => text.replace("\r\n", "\n").replace('\n', "\r\n"),
        _ => text.to_string(),
    }
}
