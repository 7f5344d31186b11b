//! What is on one page more than once, and by which ways it gets there.

use super::super::types::Types;
use super::Reached;
use super::graph::{Edge, Graph};
use crate::scan::Chance;
use crate::source::Place;

/// Something that is on one page more than once.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Twice {
    /// The types of pages.
    pub types: Types,
    /// Where it is placed.
    pub placed: Vec<Place>,
    /// Where that is shown which places it: several times, or in a loop.
    pub shown: Vec<Place>,
    /// Is it a loop that shows it more than once?
    pub looped: bool,
}

impl Reached {
    /// Why a node is shown more than once on a page, where it is.
    pub(super) fn twice(&self, node: u32) -> Option<Twice> {
        // The last bit may be shared by several types.
        let types = self.counts.get(node as usize)?.1.without(Types::one(63));
        let one = types.first()?;
        let mut found = Twice { types, placed: Vec::new(), shown: Vec::new(), looped: false };
        let mut node = node;
        let mut seen = Vec::new();
        // Up, to where the ways part.
        loop {
            seen.push(node);
            let ways =
                self.graph.ways_to(node, |from, edge| edge.under.may.has(one) && self.counts[from as usize].0.has(one));
            let looped = ways.iter().any(|(_, edge)| edge.chance == Chance::Repeated);
            let places: Vec<Place> = ways.iter().filter_map(|(_, edge)| edge.via).collect();
            if found.placed.is_empty() {
                found.placed.clone_from(&places);
            } else if ways.len() > 1 || looped {
                found.shown.clone_from(&places);
            }
            found.looped = looped;
            match ways.as_slice() {
                [(from, _)] if !looped && !seen.contains(from) => node = *from,
                _ => return Some(found),
            }
        }
    }
}

impl Graph {
    /// The edges that lead to a node and are followed where things are counted, each with where it begins.
    fn ways_to(&self, node: u32, follows: impl Fn(u32, &Edge) -> bool) -> Vec<(u32, Edge)> {
        let mut found = Vec::new();
        for (from, edges) in self.edges.iter().enumerate() {
            let from = from as u32;
            let leads = edges.iter().filter(|edge| edge.to == node && edge.is_meant() && follows(from, edge));
            found.extend(leads.map(|edge| (from, edge.clone())));
        }
        found
    }
}
