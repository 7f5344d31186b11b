//! The first step: folders become a [`Project`], the layers of a theme with the text of their files.
//! Nothing else in the core reads the disk.

mod files;
mod stack;

use std::collections::BTreeSet;
use std::sync::Arc;

use camino::{Utf8Path, Utf8PathBuf};
use ustr::Ustr;

use crate::scan::Facts;
use crate::source::{At, FileId, LayerId};

pub use files::{DiskFiles, Files, Listed, MemoryFiles, OverlayFiles};

/// The largest text that is read, in bytes.
pub const LARGEST: u64 = 4 * 1024 * 1024;

/// What a member of the stack is.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum LayerRole {
    /// The contract of the program that runs the theme.
    Host,
    /// An add-on beside the theme.
    Companion,
    /// A theme, the checked one or a base of it.
    Theme,
}

impl LayerRole {
    /// The word for it, which is also the table that opens its manifest.
    pub fn word(self) -> &'static str {
        match self {
            LayerRole::Host => "host",
            LayerRole::Companion => "companion",
            LayerRole::Theme => "theme",
        }
    }
}

/// What a file is for, which follows from where it lies.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum FileKind {
    /// `truehook.toml`, or one of `points/*.toml`.
    Manifest,
    /// `markup/**.html`.
    Template,
    /// `code/**.js`.
    Module,
    /// `preview/site.toml`.
    Site,
    /// `preview/pages/*.toml`.
    Page,
    /// The body of a preview page, Markdown or HTML.
    Body,
    /// Anything in `media/`. Its bytes are not loaded.
    Media,
}

impl FileKind {
    /// What a path inside a layer's folder is for; nothing, where True Hook does not look at it.
    pub fn of(path: &Utf8Path) -> Option<FileKind> {
        let folder = path.components().next()?.as_str();
        match (folder, path.extension()) {
            ("truehook.toml", _) => Some(FileKind::Manifest),
            ("points", Some("toml")) => Some(FileKind::Manifest),
            ("markup", Some("html")) => Some(FileKind::Template),
            ("code", Some("js" | "mjs")) => Some(FileKind::Module),
            ("media", _) => Some(FileKind::Media),
            ("preview", Some("toml")) if path == "preview/site.toml" => Some(FileKind::Site),
            ("preview", extension) if path.starts_with("preview/pages") => match extension {
                Some("toml") => Some(FileKind::Page),
                Some("md" | "html") => Some(FileKind::Body),
                _ => None,
            },
            _ => None,
        }
    }

    /// The folder that references to such files are relative to.
    pub fn folder(self) -> &'static str {
        match self {
            FileKind::Template => "markup",
            FileKind::Module => "code",
            FileKind::Media => "media",
            FileKind::Page | FileKind::Body => "preview/pages",
            FileKind::Manifest | FileKind::Site => "",
        }
    }
}

/// Why a file's text is not there.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
pub enum Unreadable {
    /// Holds NUL bytes.
    #[error("this is not text: it holds NUL bytes")]
    Binary,
    /// Is not UTF-8.
    #[error("this is not UTF-8 (byte {0} is the first that fits nowhere); save the file as UTF-8")]
    NotUtf8(usize),
    /// Is larger than [`LARGEST`].
    #[error("this file has {0} bytes, more than the 4 MiB that are read")]
    TooLarge(u64),
    /// A symbolic link that leads out of its layer's folder.
    #[error("this symbolic link leads out of the theme's folder, to {0}")]
    LeavesFolder(String),
    /// A symbolic link that leads nowhere or in a circle.
    #[error("this symbolic link leads nowhere, or in a circle")]
    DeadLink,
    /// The system says no.
    #[error("this file can't be read: {0}")]
    System(String),
}

/// What is known of a file's text.
#[derive(Clone, Debug)]
pub enum Content {
    /// The text, without a byte order mark.
    Text {
        /// The text.
        text: Arc<str>,
        /// Did a byte order mark stand before it?
        mark: bool,
    },
    /// Not loaded, because nothing needs it.
    Unread,
    /// Not there, and why.
    Broken(Unreadable),
}

impl Content {
    /// Sorts bytes into text and what is none.
    pub fn from_bytes(bytes: Vec<u8>) -> Content {
        match String::from_utf8(bytes) {
            Ok(text) if text.contains('\0') => Content::Broken(Unreadable::Binary),
            Ok(text) => match text.strip_prefix('\u{feff}') {
                Some(rest) => Content::Text { text: rest.into(), mark: true },
                None => Content::Text { text: text.into(), mark: false },
            },
            Err(error) if error.as_bytes().contains(&0) => Content::Broken(Unreadable::Binary),
            Err(error) => Content::Broken(Unreadable::NotUtf8(error.utf8_error().valid_up_to())),
        }
    }
}

/// One file of a layer.
#[derive(Clone, Debug)]
pub struct SourceFile {
    /// The layer that it belongs to.
    pub layer: LayerId,
    /// Its path below the layer's folder, with `/`.
    pub path: Utf8PathBuf,
    /// What it is for.
    pub kind: FileKind,
    /// Its text.
    pub content: Content,
}

impl SourceFile {
    /// The text; empty where there is none.
    pub fn text(&self) -> &str {
        match &self.content {
            Content::Text { text, .. } => text,
            _ => "",
        }
    }

    /// The path as references write it: relative to `markup/`, `code/` and so on.
    pub fn name(&self) -> &str {
        let folder = self.kind.folder();
        let path = self.path.as_str();
        path.strip_prefix(folder).and_then(|rest| rest.strip_prefix('/')).unwrap_or(path)
    }
}

/// One member of the stack.
#[derive(Clone, Debug)]
pub struct Layer {
    /// Its name; the contract's is `host`.
    pub name: Ustr,
    /// What it is.
    pub role: LayerRole,
    /// Its folder.
    pub root: Utf8PathBuf,
    /// How its files are shown: a path relative to the checked theme, ending in `/` or `:`.
    pub shown: String,
    /// Its files, as positions in [`Project::files`].
    pub files: std::ops::Range<usize>,
    /// Its `truehook.toml`.
    pub manifest: FileId,
    /// What is in its `media/`, as paths below its folder.
    pub media: BTreeSet<Utf8PathBuf>,
    /// Is it inside the program, so that its files can't be edited?
    pub built_in: bool,
    /// Do other themes build on it?
    pub open: bool,
}

/// What a manifest asks for in another folder.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum Wanted {
    /// `base`
    Base,
    /// one of `companions`
    Companion,
    /// `host`
    Host,
}

/// What is wrong with a layer that a manifest asks for.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Trouble {
    /// No such folder, or no manifest in it.
    Missing {
        /// Where it was looked for.
        path: String,
        /// A path that is there and was most likely meant.
        near: Option<String>,
    },
    /// It is there and in use, but not of the wanted version.
    Version {
        /// The layer that was found.
        found: LayerId,
        /// Its version, or nothing where it states none.
        version: String,
        /// The versions that were asked for.
        wanted: String,
    },
    /// It builds, in the end, on itself.
    Cycle {
        /// The names on the way round.
        way: Vec<String>,
    },
}

/// A layer that could not be had as a manifest asked for it.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct LayerTrouble {
    /// What was asked for.
    pub wanted: Wanted,
    /// Who asked.
    pub layer: LayerId,
    /// Where, in the asking layer's manifest.
    pub at: At,
    /// What is wrong.
    pub trouble: Trouble,
}

/// A reference from one manifest to another that was found.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct LayerLink {
    /// What was asked for.
    pub wanted: Wanted,
    /// Who asked.
    pub layer: LayerId,
    /// Where, in the asking layer's manifest.
    pub at: At,
    /// What it found.
    pub found: LayerId,
}

/// All layers of a theme, lowest first, with the text of their files.
pub struct Project {
    /// The layers, the host first and the checked theme last.
    pub layers: Vec<Layer>,
    /// The files of all layers.
    pub files: Vec<SourceFile>,
    /// Layers that could not be had as asked.
    pub troubles: Vec<LayerTrouble>,
    /// Layers that were found.
    pub links: Vec<LayerLink>,
    /// Facts of the manifests that had to be known to find the layers.
    pub(crate) early: std::collections::HashMap<FileId, Facts>,
}

/// Why no theme could be opened.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
pub enum OpenError {
    /// The folder is not there.
    #[error("there is no folder {0}")]
    NoFolder(String),
    /// The folder holds no manifest.
    #[error("{0} holds no truehook.toml, so it is not a theme")]
    NoManifest(String),
    /// A path that is not UTF-8.
    #[error("{0} is not UTF-8")]
    Path(String),
}

impl Project {
    /// Opens the theme in `root` and every layer below it, each file read once.
    ///
    /// # Errors
    /// Only where `root` is no folder with a `truehook.toml`. Anything else that is wrong becomes
    /// part of the project, so that it can be reported.
    pub fn open(files: &dyn Files, root: &Utf8Path) -> Result<Project, OpenError> {
        stack::open(files, root)
    }

    /// The layer with this position.
    pub fn layer(&self, id: LayerId) -> &Layer {
        &self.layers[id.index()]
    }

    /// The file with this position.
    pub fn file(&self, id: FileId) -> &SourceFile {
        &self.files[id.index()]
    }

    /// The checked theme.
    pub fn top(&self) -> LayerId {
        LayerId((self.layers.len() - 1) as u16)
    }

    /// How a file is shown to people: its path relative to the checked theme's folder.
    pub fn shown(&self, id: FileId) -> String {
        let file = self.file(id);
        format!("{}{}", self.layer(file.layer).shown, file.path)
    }

    /// Where a file lies on the disk.
    pub fn path_of(&self, id: FileId) -> Utf8PathBuf {
        let file = self.file(id);
        self.layer(file.layer).root.join(&file.path)
    }

    /// The file at a path below a layer's folder.
    pub fn find(&self, layer: LayerId, path: &str) -> Option<FileId> {
        let range = self.layer(layer).files.clone();
        let files = &self.files[range.clone()];
        let at = files.binary_search_by(|file| file.path.as_str().cmp(path)).ok()?;
        Some(FileId((range.start + at) as u32))
    }

    /// The layer of that name.
    pub fn layer_named(&self, name: &str) -> Option<LayerId> {
        let at = self.layers.iter().position(|layer| layer.name == name)?;
        Some(LayerId(at as u16))
    }

    /// All files of a layer.
    pub fn files_of(&self, layer: LayerId) -> impl Iterator<Item = (FileId, &SourceFile)> {
        let range = self.layer(layer).files.clone();
        range.map(|at| (FileId(at as u32), &self.files[at]))
    }
}
