//! What a step finds out about references.

use super::ground::Ground;
use super::reference::{Link, Outcome, Reference, Target};
use crate::name::Name;
use crate::source::Place;

/// The references that a step resolved, in order, and what else counts as referred to.
#[derive(Default)]
pub(super) struct Refs {
    pub all: Vec<Reference>,
    pub referred: Vec<Target>,
}

impl Refs {
    pub fn refer(&mut self, ground: &Ground, link: Link, from: Place, written: Name, outcome: Outcome) {
        self.all.push(Reference { link, from, layer: ground.layer_of(from), written, outcome });
    }
}
