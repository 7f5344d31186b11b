//! What is said between a program and its workers.

use std::collections::hash_map::DefaultHasher;
use std::hash::{Hash, Hasher};

use camino::Utf8PathBuf;
use serde::{Deserialize, Serialize};
use truehook_core::address::Address;
use truehook_core::read::Project;

use crate::stage::{Fired, Manner, Rendered};
use crate::watch::Code;

/// The theme that a worker opens, and how much it may take.
#[derive(Clone, Debug, Serialize, Deserialize)]
#[non_exhaustive]
pub struct Setup {
    /// The theme's folder.
    pub theme: Utf8PathBuf,
    /// The language of its pages, whatever the site says of it.
    pub language: Option<String>,
    /// Files that stand in for those on the disk, or beside them.
    pub over: Vec<(Utf8PathBuf, Vec<u8>)>,
    /// Files on the disk that the overlay hides.
    pub gone: Vec<Utf8PathBuf>,
    /// How much memory a worker may take, in MiB.
    pub mebibytes: u64,
}

impl Setup {
    /// A theme as it lies on the disk.
    pub fn new(theme: Utf8PathBuf) -> Setup {
        Setup { theme, language: None, over: Vec::new(), gone: Vec::new(), mebibytes: 512 }
    }
}

/// What a worker is asked.
#[derive(Debug, Serialize, Deserialize)]
pub enum Ask {
    Open(Setup),
    /// These files of the theme that is open have changed.
    Again(Vec<Utf8PathBuf>),
    Page {
        path: String,
        manner: Manner,
        /// Is each step to be told before it is carried out?
        announce: bool,
    },
    Fire {
        point: Address,
        path: String,
        /// Each value as JSON: one text inside another takes any depth.
        args: Vec<(String, String)>,
        manner: Manner,
        announce: bool,
    },
}

/// What a worker answers.
#[derive(Debug, Serialize, Deserialize)]
pub enum Answer {
    /// It has the theme; this is a print of all that it has read of it.
    Opened(u64),
    /// It can't open the theme.
    Refused(String),
    /// A page, or that there is none of that path.
    Page(Option<Box<Rendered>>),
    Fired(Option<Box<Fired>>),
    /// This is carried out next.
    Begins(Code),
    /// This went on past its limit; it was the last word.
    Overdue(Code),
    /// It is at work. Said again and again, so that silence means that it was stopped from outside.
    Alive,
}

/// A print of a theme as it was read, by which two processes know that they have read the same. What the preview's
/// pages say is read when they are rendered.
pub fn print(project: &Project) -> u64 {
    let mut hasher = DefaultHasher::new();
    for file in &project.files {
        (file.layer.0, file.path.as_str()).hash(&mut hasher);
        if !file.path.starts_with("preview/pages") {
            file.text().hash(&mut hasher);
        }
    }
    hasher.finish()
}
