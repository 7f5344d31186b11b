//! The graph of what can be shown.

use super::super::types::Types;
use super::super::under::{ByType, Circumstance, Conditions, Under, common, joined};
use crate::address::Address;
use crate::rows::Rows;
use crate::scan::{Chance, SectionId};
use crate::source::{FileId, Place};

/// A part of what can be shown.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Node {
    /// A template that is rendered from its beginning, with all that it extends.
    Entry(FileId),
    /// A part of a template.
    Section(FileId, SectionId),
    /// What a template that extends another does before it shows that one.
    Silent(FileId),
    /// A point.
    Point(usize),
    /// The sections that pages are composed of.
    Sections,
    /// A module's uses outside its exports.
    Module(FileId),
    /// A callback.
    Export(FileId, usize),
}

#[derive(Clone, Debug)]
pub(super) struct Edge {
    pub to: u32,
    /// How often is it carried out, wherever there is something to show?
    pub chance: Chance,
    pub via: Option<Place>,
    /// Is it not certain that it is there at all?
    pub guess: bool,
    /// The circumstances under which it is carried out.
    pub under: Under,
}

impl Edge {
    /// Does it lead to the same, under the same circumstances, wherever it stands?
    pub fn leads_as(&self, other: &Edge) -> bool {
        let same = |edge: &Edge| (edge.to, edge.chance, edge.guess, edge.under.may, edge.under.sure);
        same(self) == same(other) && alike(&self.under.conditions, &other.under.conditions)
    }

    /// An edge that is carried out in any case.
    pub fn sure(to: u32) -> Edge {
        Edge { to, chance: Chance::Always, via: None, guess: false, under: Under::ALWAYS }
    }

    /// An edge that is carried out as it happens.
    pub fn perhaps(to: u32) -> Edge {
        Edge { to, chance: Chance::Perhaps, via: None, guess: false, under: Under::PERHAPS }
    }

    /// An edge of which it isn't certain that it is there at all.
    pub fn guess(to: u32) -> Edge {
        Edge { guess: true, ..Edge::perhaps(to) }
    }

    /// The types of pages on which it is carried out in any case.
    pub fn sure_types(&self) -> Types {
        if self.guess { Types::default() } else { self.under.sure }
    }

    /// Is it carried out wherever there is something to show?
    pub fn is_meant(&self) -> bool {
        !self.guess && self.chance.is_meant()
    }
}

#[derive(Default)]
pub(super) struct Graph {
    pub nodes: Vec<Node>,
    /// What each node leads to.
    pub edges: Rows<Edge>,
    /// The templates that something enters, as nodes in their order.
    pub entered: Vec<u32>,
    /// The first node of each file; its further nodes follow.
    pub first: Vec<u32>,
    pub first_point: u32,
    pub sections: u32,
    /// The components that site editors can pick, by their positions.
    pub offered: Vec<(usize, Address)>,
}

impl Graph {
    pub fn entry(&self, file: FileId) -> u32 {
        self.first[file.index()]
    }
    /// The second node of a template: what it does before the one that it extends; of a module: its
    /// own uses. Sections and exports come after.
    pub fn second(&self, file: FileId) -> u32 {
        self.first[file.index()] + 1
    }
    pub fn part(&self, file: FileId, at: usize) -> u32 {
        self.first[file.index()] + 2 + at as u32
    }
    pub fn point(&self, at: usize) -> u32 {
        self.first_point + at as u32
    }
}

/// Along which edges sets of types are carried.
#[derive(Clone, Copy, PartialEq, Eq)]
pub(super) enum Along {
    /// All, on the types of pages on which they may be carried out.
    May,
    /// Those that are carried out in any case.
    Sure,
    /// All, whatever conditions templates put around them.
    Unguarded,
}

/// Carries sets of types along edges.
pub(super) fn spread(graph: &Graph, roots: &[(u32, Types)], along: Along) -> Vec<Types> {
    let mut all = vec![Types::default(); graph.nodes.len()];
    let mut open = Vec::new();
    for (node, types) in roots {
        all[*node as usize].0 |= types.0;
        open.push(*node);
    }
    // All types that share a way go along it together.
    while let Some(node) = open.pop() {
        let here = all[node as usize];
        for edge in graph.edges.row(node as usize) {
            let types = match along {
                Along::May => here.and(edge.under.may),
                Along::Sure => here.and(edge.sure_types()),
                Along::Unguarded if matches!(graph.nodes[node as usize], Node::Section(..)) => here,
                Along::Unguarded => here.and(edge.under.may),
            };
            let types = types.0;
            let bits = &mut all[edge.to as usize].0;
            if *bits | types != *bits {
                *bits |= types;
                open.push(edge.to);
            }
        }
    }
    all
}

/// Those types of pages on which each node is shown once, and those on which it is shown more than once, wherever
/// there is something to show.
pub(super) fn count(graph: &Graph, roots: &[(u32, Types)]) -> Vec<(Types, Types)> {
    let followed = |edge: &&Edge| edge.is_meant();
    let mut waiting = vec![0u32; graph.nodes.len()];
    for edge in graph.edges.all().iter().filter(followed) {
        waiting[edge.to as usize] += 1;
    }
    let mut counts = vec![(Types::default(), Types::default()); graph.nodes.len()];
    let add = |(once, twice): &mut (Types, Types), more: Types, many: Types| {
        twice.0 |= once.0 & more.0 | many.0;
        once.0 |= more.0;
    };
    for (node, types) in roots {
        add(&mut counts[*node as usize], *types, Types::default());
    }
    let mut ready: Vec<u32> = (0..graph.nodes.len() as u32).filter(|node| waiting[*node as usize] == 0).collect();
    // What leads back to itself is never ready, and told by itself.
    while let Some(node) = ready.pop() {
        let (once, twice) = counts[node as usize];
        for edge in graph.edges.row(node as usize).iter().filter(followed) {
            let (once, twice) = (once.and(edge.under.may), twice.and(edge.under.may));
            let many = if edge.chance == Chance::Repeated { once } else { twice };
            add(&mut counts[edge.to as usize], once, many);
            waiting[edge.to as usize] -= 1;
            if waiting[edge.to as usize] == 0 {
                ready.push(edge.to);
            }
        }
    }
    counts
}

/// The conditions that have to be met for each node to be reached, on all ways to it. Nothing where no edge has any.
pub(super) fn conditions(graph: &Graph, roots: &[(u32, Types)]) -> Vec<ByType> {
    // Most themes have no such conditions, or few.
    if graph.edges.all().iter().all(|edge| edge.under.conditions.is_none()) {
        return Vec::new();
    }
    let mut found: Vec<ByType> = vec![Vec::new(); graph.nodes.len()];
    let mut open: Vec<u32> = Vec::new();
    for (node, types) in roots {
        meet(&mut found[*node as usize], &Circumstance { types: *types, conditions: None, whole: true });
        open.push(*node);
    }
    while let Some(node) = open.pop() {
        let here = found[node as usize].clone();
        for edge in graph.edges.row(node as usize) {
            let to = edge.to as usize;
            let mut changed = false;
            for Circumstance { types, conditions, whole } in &here {
                let types = types.and(edge.under.may);
                let sure = types.and(edge.under.sure);
                changed |= meet(
                    &mut found[to],
                    &Circumstance { types: sure, conditions: conditions.clone(), whole: *whole && !edge.guess },
                );
                let way = Circumstance {
                    types: types.without(sure),
                    conditions: joined(conditions, &edge.under.conditions),
                    whole: *whole && edge.under.whole,
                };
                changed |= meet(&mut found[to], &way);
            }
            if changed {
                open.push(edge.to);
            }
        }
    }
    found
}

/// Notes one more way on these types of pages. Tells whether fewer conditions are left, or further types.
fn meet(known: &mut ByType, way: &Circumstance) -> bool {
    if way.types.is_empty() {
        return false;
    }
    let mut new = way.types;
    let mut changed: Vec<Circumstance> = Vec::new();
    for own in known.iter_mut() {
        let both = own.types.and(way.types);
        new = new.without(both);
        if both.is_empty() {
            continue;
        }
        let conditions = common(&own.conditions, &way.conditions);
        // A way that needs no more than what is left is enough.
        let enough = |one: &Circumstance| one.whole && alike(&one.conditions, &conditions);
        let whole = enough(own) || enough(way);
        if !alike(&conditions, &own.conditions) || whole != own.whole {
            own.types = own.types.without(both);
            changed.push(Circumstance { types: both, conditions, whole });
        }
    }
    if !new.is_empty() {
        changed.push(Circumstance { types: new, ..way.clone() });
    }
    known.retain(|own| !own.types.is_empty());
    let is_changed = !changed.is_empty();
    for new in changed {
        let same = |own: &&mut Circumstance| own.whole == new.whole && alike(&own.conditions, &new.conditions);
        match known.iter_mut().find(same) {
            Some(own) => own.types = own.types.or(new.types),
            None => known.push(new),
        }
    }
    is_changed
}

fn alike(one: &Conditions, other: &Conditions) -> bool {
    match (one, other) {
        (None, None) => true,
        (Some(one), Some(other)) => {
            one.len() == other.len() && one.iter().zip(other.iter()).all(|(one, other)| one.text == other.text)
        }
        _ => false,
    }
}
