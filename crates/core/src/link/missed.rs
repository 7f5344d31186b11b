//! What is missing: as data.

use rustc_hash::{FxHashMap, FxHashSet};

use super::blind::Blind;
use super::chains::MeantTemplates;
use super::reference::{Link, Meant, Target, Wanted};
use crate::address::Address;
use crate::source::{FileId, LayerId};

/// One thing that is asked for and isn't there.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Miss {
    /// What is asked for.
    pub wanted: Wanted,
    /// How it is asked for first; this decides the rule.
    pub link: Link,
    /// The references, as positions in [`Registry::references`]; the first is the one to mend first.
    pub references: Vec<usize>,
    /// What was most likely meant.
    pub meant: Option<Meant>,
    /// The highest layer that asks for it.
    pub layer: LayerId,
}

/// What nobody is told of, since its rule is off: it excuses nothing that follows from it.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Unheard {
    /// References that lead nowhere.
    pub links: Vec<Link>,
    /// Templates that nothing shows.
    pub templates: bool,
    /// Exports that nothing uses.
    pub exports: bool,
}

/// What is missing, and what that leaves in the dark.
#[derive(Default)]
pub(super) struct Missed {
    /// What each template extends, also where its name is misspelt.
    pub parents: FxHashMap<FileId, FileId>,
    pub misses: Vec<Miss>,
    /// All that is referred to.
    pub referred: FxHashSet<Target>,
    /// What was most likely meant, and what belongs to something missing: it counts as referred to.
    pub spared: FxHashSet<Target>,
    /// What templates that are asked for and not there were most likely meant to be.
    pub meant_templates: MeantTemplates,
    /// Where to be careful with what seems not to be there.
    pub blind: Blind,
    /// What nobody is told of.
    pub unheard: Unheard,
    /// Where each thing that is missing is in the list.
    pub(super) places: FxHashMap<Wanted, usize>,
    /// What was most likely meant by what leads nowhere; true where a placement or a filter meant it.
    pub(super) meant: FxHashMap<Target, bool>,
}

impl Missed {
    /// Is anything there that refers to this? What was most likely meant counts as referred to.
    pub fn is_referred(&self, target: Target) -> bool {
        self.referred.contains(&target) || self.spared.contains(&target)
    }

    /// What is missing of that sort, if it is.
    pub fn miss_of(&self, wanted: Wanted) -> Option<&Miss> {
        self.places.get(&wanted).map(|at| &self.misses[*at])
    }

    /// Was this most likely meant by something that leads nowhere?
    pub fn is_meant(&self, target: Target) -> bool {
        self.meant.contains_key(&target)
    }

    /// Was this most likely meant by a placement, or by a value that is sent through it?
    pub(super) fn is_meant_to_be_placed(&self, point: Address) -> bool {
        self.meant.get(&Target::Point(point)).copied().unwrap_or(false)
    }
}
