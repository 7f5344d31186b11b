//! What is known of an asset.

use crate::address::Address;
use crate::name::Name;
use crate::scan::{AssetKeys, Condition};
use crate::source::{FileId, Place};

/// What is known of a style, script or bundle.
#[derive(Clone, Debug, Default)]
pub struct Asset {
    /// Its file, below `media/`, and where that is said.
    pub file: Option<(Name, Place)>,
    /// Global names that other scripts may use.
    pub gives: Vec<(Name, Place)>,
    /// Where a style applies.
    pub media: Option<Name>,
    /// Does a script belong in the head?
    pub head: bool,
    /// Lower comes earlier.
    pub priority: u8,
    /// The pages that it is on.
    pub when: Option<Condition>,
    /// The file that says so.
    pub(crate) when_file: Option<FileId>,
    /// Is its condition broken, so that it is on none?
    pub switched_off: bool,
    /// The position among the declarations of its layer.
    pub(super) position: u32,
}

/// Assets that need each other in a circle: each place says that it needs the next one.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct NeedCycle {
    /// Where it is said, and the asset that is needed there.
    pub steps: Vec<(Place, Address)>,
}

impl Asset {
    pub(super) fn add(&mut self, place: Place, keys: AssetKeys, extend: bool, position: u32) {
        let here = |at| Place { file: place.file, at };
        self.file = keys.file.map(|file| (file.name, here(file.at))).or(self.file);
        if let Some(gives) = keys.gives {
            let known = if extend { std::mem::take(&mut self.gives) } else { Vec::new() };
            let added = gives.into_iter().map(|name| (name.name, here(name.at)));
            self.gives = known.into_iter().chain(added).collect();
        }
        self.media = keys.media.or(self.media);
        self.head = keys.head.unwrap_or(self.head);
        self.priority = keys.priority.unwrap_or(self.priority);
        self.switched_off |= keys.when_broken;
        if keys.when.is_some() {
            (self.when, self.when_file) = (keys.when, Some(place.file));
        }
        self.position = position;
    }

    /// One that nothing is known of yet.
    pub(super) fn new() -> Asset {
        Asset { priority: 50, ..Asset::default() }
    }
}
