//! Files: what each is for, and what is known of its text.

use std::sync::Arc;

use camino::{Utf8Path, Utf8PathBuf};

use super::LayerId;

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
    /// `media/**.css`
    Style,
    /// `media/**.js`, which browsers run.
    Script,
    /// A translation, `words/*.po`.
    Words,
    /// Anything else in `media/`. Its bytes are not loaded.
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
            ("media", Some("css")) => Some(FileKind::Style),
            ("media", Some("js" | "mjs")) => Some(FileKind::Script),
            ("media", _) => Some(FileKind::Media),
            (_, Some("po")) => Some(FileKind::Words),
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
            FileKind::Style | FileKind::Script | FileKind::Media => "media",
            FileKind::Page | FileKind::Body => "preview/pages",
            FileKind::Manifest | FileKind::Site | FileKind::Words => "",
        }
    }

    /// Does it lie in `media/`, where addresses on pages lead?
    pub fn is_media(self) -> bool {
        matches!(self, FileKind::Style | FileKind::Script | FileKind::Media)
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
    /// A pipe, a device, a socket.
    #[error("this is no plain file: a pipe, a device or a socket")]
    NotPlain,
    /// The system says no.
    #[error("this file can't be read: {0}")]
    System(String),
}

/// What is known of a file's text.
#[derive(Clone, Debug, PartialEq, Eq)]
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
    /// Is it text that could be read?
    pub fn is_text(&self) -> bool {
        matches!(self, Content::Text { .. })
    }

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
        super::looked::note();
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
