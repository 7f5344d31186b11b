//! Reach: which types of pages get to see which placement, and what leads back to itself.
//!
//! A graph of parts (templates, their blocks, points, callbacks), in which each part leads to what
//! it may show. The types of pages are its roots, and each part gets the set of types that reach it.

mod cycles;
mod edges;
mod graph;
mod twice;

use rustc_hash::FxHashMap;

use super::chains::Chains;
use super::ground::Ground;
use super::missed::Missed;
use super::point::{Said, UseId};
use super::reference::{Reference, Target};
use super::ties::Ties;
use super::types::Types;
use crate::address::{Address, Kind};
use crate::parallel;
use crate::scan::{SectionId, Shape, Verb};
use crate::source::{FileId, Place};
use graph::{Graph, Node, count, spread};
pub use twice::Twice;

/// Something that leads back to itself.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Cycle {
    /// Does it go through templates alone?
    pub templates: bool,
    /// The references on the way round, each with the name of what it leads to.
    pub steps: Vec<(Place, String)>,
}

/// Which types of pages get to what.
#[derive(Default)]
pub(super) struct Reached {
    graph: Graph,
    /// By node.
    bits: Vec<Types>,
    /// As `bits`, along ways that are gone in any case.
    sure: Vec<Types>,
    /// By node: the types of pages on which it is shown, and on which more than once.
    counts: Vec<(Types, Types)>,
    /// Templates and placements that lead back to themselves.
    pub cycles: Vec<Cycle>,
}

/// Works out what is reached.
pub(super) fn reach(ties: Ties<'_>, missed: &Missed, references: &[Reference]) -> Reached {
    let mut meant = FxHashMap::default();
    for miss in &missed.misses {
        if let Some(target) = miss.meant {
            meant.extend(miss.references.iter().map(|at| (references[*at].from, target.target)));
        }
    }
    let chains = Chains { ground: ties.names.ground, meant: &missed.meant_templates, parents: Some(&missed.parents) };
    Reaching { ties, chains, missed, meant }.reached()
}

/// What is asked while ways are followed.
struct Reaching<'r> {
    ties: Ties<'r>,
    chains: Chains<'r>,
    missed: &'r Missed,
    /// What was most likely meant by each reference that leads nowhere.
    meant: FxHashMap<Place, Target>,
}

impl<'r> Reaching<'r> {
    fn points(&self) -> impl Iterator<Item = &'r Said> {
        self.ties.names.declared.all()
    }

    fn index(&self, address: &Address) -> Option<usize> {
        self.ties.names.declared.points.get_index_of(address)
    }

    fn reached(&self) -> Reached {
        let mut graph = self.nodes();
        graph.edges = parallel::map(graph.nodes.len(), |at| match graph.nodes[at] {
            Node::Entry(_) => Vec::new(),
            node => self.edges_of(node, &graph),
        });
        // A template shows all that it extends, too, so only those are followed that something enters.
        let mut entered: Vec<u32> = graph.edges.iter().flatten().map(|edge| edge.to).collect();
        let pages = self.ties.names.declared.types.iter().filter_map(|page_type| page_type.templates.first());
        entered.extend(pages.map(|file| graph.entry(*file)));
        entered.retain(|node| matches!(graph.nodes[*node as usize], Node::Entry(_)));
        entered.sort_unstable();
        entered.dedup();
        let edges = parallel::map(entered.len(), |at| self.edges_of(graph.nodes[entered[at] as usize], &graph));
        for (node, edges) in entered.into_iter().zip(edges) {
            graph.edges[node as usize] = edges;
        }
        let mut roots = Vec::new();
        for (at, page_type) in self.ties.names.declared.types.iter().enumerate() {
            let Some(file) = page_type.templates.first() else { continue };
            let name = self.ties.names.ground.project.file(*file).name().trim_end_matches(".html");
            let point = self.index(&Address::new(Kind::Template, name));
            roots.extend(
                [graph.entry(*file)]
                    .into_iter()
                    .chain(point.map(|at| graph.point(at)))
                    .map(|node| (node, Types::one(at))),
            );
        }
        let all: Types = (0..self.ties.names.declared.types.len()).collect();
        let fired = self.points().enumerate().filter(|(_, point)| self.ties.is_fired(point));
        roots.extend(fired.map(|(at, _)| (graph.point(at), all)));
        let assets = self
            .points()
            .enumerate()
            .filter(|(_, point)| point.asset.is_some() && self.ties.carried.is_on_all_pages(self.ties.names, point));
        roots.extend(assets.map(|(at, point)| {
            let when = point.asset.as_ref().and_then(|asset| asset.when.as_ref());
            (graph.point(at), self.ties.names.declared.types_where(when))
        }));
        let sure = spread(&graph, &roots, true);
        let counts = count(&graph, &roots);
        // What an open theme or a companion offers to others counts as used by them.
        let top = self.ties.names.ground.project.top();
        let for_others = |point: &&Said| point.address.kind.is_component() && point.layer() == Some(top);
        if self.ties.names.ground.project.layer(top).open {
            let found = self.points().enumerate().filter(|(_, point)| for_others(point));
            roots.extend(found.map(|(at, _)| (graph.point(at), all)));
        }
        let bits = spread(&graph, &roots, false);
        let cycles = self.find_cycles(&graph);
        Reached { graph, bits, sure, counts, cycles }
    }

    fn nodes(&self) -> Graph {
        let mut graph = Graph::default();
        for (at, facts) in self.ties.names.ground.facts.iter().enumerate() {
            let file = FileId(at as u32);
            graph.first.push(graph.nodes.len() as u32);
            match &facts.shape {
                Shape::Template(template) => {
                    graph.nodes.extend([Node::Entry(file), Node::Silent(file)]);
                    let sections = 0..template.sections.len();
                    graph.nodes.extend(sections.map(|at| Node::Section(file, SectionId(at as u16))));
                }
                Shape::Module(module) => {
                    graph.nodes.extend([Node::Module(file), Node::Module(file)]);
                    graph.nodes.extend((0..module.exports.len()).map(|at| Node::Export(file, at)));
                }
                _ => {}
            }
        }
        graph.first_point = graph.nodes.len() as u32;
        graph.nodes.extend((0..self.ties.names.declared.points.len()).map(Node::Point));
        graph.sections = graph.nodes.len() as u32;
        graph.nodes.push(Node::Sections);
        let offered = self.points().enumerate().filter(|(_, point)| point.is_offered());
        graph.offered = offered.map(|(at, point)| (at, point.address)).collect();
        graph
    }
}

impl Reached {
    fn bits_of(&self, node: u32) -> Types {
        self.bits.get(node as usize).copied().unwrap_or_default()
    }

    /// The types of pages that reach a point, by its position.
    pub fn point(&self, position: usize) -> Types {
        self.bits_of(self.graph.point(position))
    }

    /// The types of pages that reach a use of a point.
    pub fn use_reached(&self, ground: &Ground, id: UseId) -> Types {
        let found = ground.use_of(id);
        let node = match &ground.facts(id.file).shape {
            Shape::Template(_) => {
                let part = self.bits_of(self.graph.part(id.file, usize::from(found.section.0)));
                let silent = self.bits_of(self.graph.second(id.file));
                let before = found.verb == Verb::Through && found.section == SectionId(0);
                return if before { Types(part.0 | silent.0) } else { part };
            }
            Shape::Module(_) => match found.owner {
                Some(owner) => {
                    let at = ground.export_at(id.file, owner);
                    self.graph.part(id.file, at.unwrap_or(0))
                }
                None => self.graph.second(id.file),
            },
            _ => return Types::default(),
        };
        self.bits_of(node)
    }

    /// The types of pages on which a use of a point shows in any case.
    pub fn use_sure(&self, ground: &Ground, id: UseId) -> Types {
        let found = ground.use_of(id);
        match ground.template(id.file) {
            Some(_) if !found.chance.is_conditional() => {
                let node = self.graph.part(id.file, usize::from(found.section.0));
                self.sure.get(node as usize).copied().unwrap_or_default()
            }
            _ => Types::default(),
        }
    }

    /// Why a point, by its position, is on a page more than once, where it is.
    pub fn point_twice(&self, position: usize) -> Option<Twice> {
        self.twice(self.graph.point(position))
    }

    /// Why a page's sections are on it more than once, where they are.
    pub fn sections_twice(&self) -> Option<Twice> {
        self.twice(self.graph.sections)
    }

    /// The types of pages that get to the outlet for their sections.
    pub fn sections_reached(&self) -> Types {
        self.bits_of(self.graph.sections)
    }

    /// The types of pages that reach a part of a template.
    pub fn part_types(&self, file: FileId, section: SectionId) -> Types {
        let part = self.bits_of(self.graph.part(file, usize::from(section.0)));
        // What a template that extends another one does before it shows that one.
        if section == SectionId(0) { part.or(self.bits_of(self.graph.second(file))) } else { part }
    }

    /// The types of pages that reach any part of a template.
    pub fn template_types(&self, ground: &Ground, file: FileId) -> Types {
        let sections = ground.template(file).map_or(0, |template| template.sections.len());
        let parts = (0..sections).map(|at| self.bits_of(self.graph.part(file, at)));
        let whole = self.bits_of(self.graph.second(file)).or(self.bits_of(self.graph.entry(file)));
        parts.fold(whole, Types::or)
    }
}
