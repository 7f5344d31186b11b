//! Reach: which types of pages get to see which placement, and what leads back to itself.
//!
//! A graph of parts (templates, their blocks, points, callbacks), in which each part leads to what
//! it may show. The types of pages are its roots, and each part gets the set of types that reach it.

mod cycles;
mod edges;
mod graph;
mod queries;
mod twice;

use std::sync::OnceLock;

use rustc_hash::FxHashMap;

use super::chains::{Chains, MeantTemplates};
use super::missed::Missed;
use super::point::Said;
use super::reference::{Reference, Target, Wanted};
use super::ties::Ties;
use super::types::Types;
use super::under::ByType;
use crate::address::{Address, Kind};
use crate::parallel;
use crate::rows::Rows;
use crate::scan::{SectionId, Shape};
use crate::source::{FileId, Place};
use graph::{Along, Edge, Graph, Node, count, spread};
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
    guesses: Guesses,
    roots: Roots,
    /// By node.
    bits: Vec<Types>,
    /// As `bits`, along ways that are gone in any case.
    sure: Vec<Types>,
    /// By node: the types of pages on which it is shown, and on which more than once.
    counts: Vec<(Types, Types)>,
    /// By node: what has to be met for it to be shown; nothing where no way has conditions. Worked out once it is asked
    /// for.
    conditions: OnceLock<Vec<ByType>>,
    /// By node: the types of pages that would get there if templates had no conditions. Worked out once it is asked for.
    unguarded: OnceLock<Vec<Types>>,
    /// The edge of each use in a template, by its place: its node, and its position there. Made once it is asked for.
    uses: OnceLock<FxHashMap<Place, (u32, u32)>>,
    /// Templates and placements that lead back to themselves.
    pub cycles: Vec<Cycle>,
}

/// Where ways begin, each with the types of pages that begin there.
#[derive(Default, PartialEq)]
struct Roots {
    /// What pages show, and what the host fires.
    shown: Vec<(u32, Types)>,
    /// What is offered to other layers, and counts as used by them.
    used: Vec<(u32, Types)>,
}

/// What was most likely meant by that which leads nowhere, as far as ways go along it.
#[derive(Default)]
struct Guesses {
    /// By each reference that leads nowhere.
    places: FxHashMap<Place, Target>,
    /// By the templates that components lack.
    markup: Vec<(Address, Target)>,
    /// By names of templates.
    templates: MeantTemplates,
}

impl Guesses {
    fn of(missed: &Missed, references: &[Reference]) -> Guesses {
        let mut guesses = Guesses { templates: missed.meant_templates.clone(), ..Guesses::default() };
        for miss in &missed.misses {
            let Some(target) = miss.meant.map(|meant| meant.target) else { continue };
            guesses.places.extend(miss.references.iter().map(|at| (references[*at].from, target)));
            if let Wanted::Markup(address) = miss.wanted {
                guesses.markup.push((address, target));
            }
        }
        guesses.markup.sort_unstable();
        guesses
    }

    /// Are they the same, but for references in these files?
    fn same_beyond(&self, other: &Guesses, files: &[FileId]) -> bool {
        let beyond = |guesses: &Guesses| guesses.places.keys().filter(|place| !files.contains(&place.file)).count();
        let known =
            |(place, target): (&Place, &Target)| files.contains(&place.file) || other.places.get(place) == Some(target);
        beyond(self) == beyond(other)
            && self.places.iter().all(known)
            && self.markup == other.markup
            && self.templates == other.templates
    }
}

/// Works out what is reached. Where some templates changed that others see as before, what was drawn before is drawn
/// again for them alone.
pub(super) fn reach(
    ties: Ties<'_>,
    missed: &Missed,
    references: &[Reference],
    known: Option<(Reached, &[FileId])>,
) -> Reached {
    let guesses = Guesses::of(missed, references);
    let chains = Chains { ground: ties.names.ground, meant: &missed.meant_templates, parents: Some(&missed.parents) };
    let reaching = Reaching { ties, chains, missed, guesses: &guesses };
    let (graph, known) = match known {
        Some((mut known, files)) if known.guesses.same_beyond(&guesses, files) => {
            let (graph, changed) = reaching.redrawn(std::mem::take(&mut known.graph), files);
            (graph, Some(known).filter(|_| !changed))
        }
        _ => (reaching.drawn(), None),
    };
    let roots = reaching.roots(&graph);
    // Along the same ways the same is reached; of a circle, it is told where its steps stand.
    let reached = match known {
        Some(known) if known.roots == roots && known.cycles.is_empty() => {
            let (uses, unguarded, conditions) = (OnceLock::new(), OnceLock::new(), OnceLock::new());
            Reached { graph, uses, unguarded, conditions, ..known }
        }
        _ => reaching.reached(graph, roots),
    };
    Reached { guesses, ..reached }
}

/// What is asked while ways are followed.
struct Reaching<'r> {
    ties: Ties<'r>,
    chains: Chains<'r>,
    missed: &'r Missed,
    guesses: &'r Guesses,
}

impl<'r> Reaching<'r> {
    fn points(&self) -> impl Iterator<Item = &'r Said> {
        self.ties.names.declared.all()
    }

    fn index(&self, address: &Address) -> Option<usize> {
        self.ties.names.declared.points.get_index_of(address)
    }

    /// The whole graph.
    fn drawn(&self) -> Graph {
        let mut graph = self.nodes();
        let drawn =
            parallel::rows(graph.nodes.len(), graph.nodes.len() / parallel::LIGHT, |at, edges| match graph.nodes[at] {
                Node::Entry(_) => {}
                node => self.edges_of(node, &graph, edges),
            });
        graph.entered = self.entered(&graph, drawn.all());
        let entries = parallel::rows(graph.entered.len(), graph.entered.len() / parallel::LIGHT, |at, edges| {
            self.edges_of(graph.nodes[graph.entered[at] as usize], &graph, edges);
        });
        let mut edges = Rows::with_room(graph.nodes.len(), drawn.all().len() + entries.all().len());
        let mut next = graph.entered.iter().zip(entries.iter()).peekable();
        for (node, row) in drawn.iter().enumerate() {
            let entry = next.next_if(|(entry, _)| **entry == node as u32);
            edges.push(entry.map_or(row, |(_, row)| row).iter().cloned());
        }
        graph.edges = edges;
        graph
    }

    /// A graph that was drawn before, after some templates changed that others see as before. Tells whether any way
    /// leads elsewhere now, or is gone on other pages.
    fn redrawn(&self, mut graph: Graph, files: &[FileId]) -> (Graph, bool) {
        let mut changed = false;
        let mut redraw = |graph: &mut Graph, node: u32| {
            let mut edges = Vec::new();
            self.edges_of(graph.nodes[node as usize], graph, &mut edges);
            let before = graph.edges.row(node as usize);
            changed |=
                before.len() != edges.len() || before.iter().zip(&edges).any(|(one, other)| !one.leads_as(other));
            graph.edges.replace(node as usize, edges);
        };
        for file in files {
            let sections = self.ties.names.ground.template(*file).map_or(0, |template| template.sections.len());
            (graph.second(*file)..graph.part(*file, sections)).for_each(|node| redraw(&mut graph, node));
        }
        let entered = self.entered(&graph, graph.edges.all());
        let before = std::mem::replace(&mut graph.entered, entered);
        for left in before.iter().filter(|node| graph.entered.binary_search(node).is_err()) {
            graph.edges.replace(*left as usize, Vec::new());
        }
        let is_new = |node: &u32| before.binary_search(node).is_err();
        let new: Vec<u32> = graph.entered.iter().copied().filter(is_new).collect();
        new.into_iter().for_each(|node| redraw(&mut graph, node));
        (graph, changed)
    }

    /// The templates that something enters, in order. Each shows all that it extends, too, so that only these are
    /// followed.
    fn entered(&self, graph: &Graph, edges: &[Edge]) -> Vec<u32> {
        let mut entered = vec![false; graph.nodes.len()];
        edges.iter().for_each(|edge| entered[edge.to as usize] = true);
        let pages = self.ties.names.declared.types.iter().filter_map(|page_type| page_type.templates.first());
        pages.for_each(|file| entered[graph.entry(*file) as usize] = true);
        let is_entered = |at: &usize| entered[*at] && matches!(graph.nodes[*at], Node::Entry(_));
        (0..entered.len()).filter(is_entered).map(|at| at as u32).collect()
    }

    /// Where ways begin.
    fn roots(&self, graph: &Graph) -> Roots {
        let mut shown = Vec::new();
        for (at, page_type) in self.ties.names.declared.types.iter().enumerate() {
            let Some(file) = page_type.templates.first() else { continue };
            let name = self.ties.names.ground.project.file(*file).name().trim_end_matches(".html");
            let point = self.index(&Address::new(Kind::Template, name)).map(|at| graph.point(at));
            shown.extend([graph.entry(*file)].into_iter().chain(point).map(|node| (node, Types::one(at))));
        }
        let all: Types = (0..self.ties.names.declared.types.len()).collect();
        let fired = self.points().enumerate().filter(|(_, point)| self.ties.is_fired(point));
        shown.extend(fired.map(|(at, _)| (graph.point(at), all)));
        let assets = self
            .points()
            .enumerate()
            .filter(|(_, point)| point.asset.is_some() && self.ties.carried.is_on_all_pages(self.ties.names, point));
        shown.extend(assets.map(|(at, point)| {
            let when = point.asset.as_ref().and_then(|asset| asset.when.as_ref());
            (graph.point(at), self.ties.names.declared.types_where(when))
        }));
        // What an open theme or a companion offers to others counts as used by them.
        let top = self.ties.names.ground.project.top();
        let open = self.ties.names.ground.project.layer(top).open;
        let for_others = |point: &Said| open && point.address.kind.is_component() && point.layer() == Some(top);
        let found = self.points().enumerate().filter(|(_, point)| for_others(point));
        let used = found.map(|(at, _)| (graph.point(at), all)).collect();
        Roots { shown, used }
    }

    /// What is reached along a graph.
    fn reached(&self, graph: Graph, roots: Roots) -> Reached {
        let things = graph.nodes.len() / parallel::LIGHT;
        let all: Vec<(u32, Types)> = roots.shown.iter().chain(&roots.used).copied().collect();
        let ((sure, counts), (bits, cycles)) = parallel::both(
            things,
            || (spread(&graph, &roots.shown, Along::Sure), count(&graph, &roots.shown)),
            || (spread(&graph, &all, Along::May), self.find_cycles(&graph)),
        );
        let guesses = Guesses::default();
        Reached { graph, guesses, roots, bits, sure, counts, cycles, ..Reached::default() }
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
