//! What leads back to itself.

use petgraph::algo::kosaraju_scc;
use petgraph::graph::{DiGraph, NodeIndex};
use rustc_hash::FxHashMap;

use super::super::types::Types;
use super::graph::{Edge, Graph, Node};
use super::{Cycle, Reaching};
use crate::scan::Shape;
use crate::source::{FileId, Place};

impl Reaching<'_> {
    pub(super) fn find_cycles(&self, graph: &Graph) -> Vec<Cycle> {
        let mut cycles = self.extends_cycles();
        // What is carried out in any case never ends. What depends on circumstances may end, but not
        // where a hook or region would have to be filled while it is being filled.
        for sure in [true, false] {
            for circle in circles(graph, sure) {
                let fills = |node: &Node| matches!(node, Node::Point(at) if self.ties.names.declared.points[*at].address.kind.needs_placement());
                if !sure && !circle.iter().any(|(node, _)| fills(&graph.nodes[*node as usize])) {
                    continue;
                }
                let steps: Vec<(Place, String)> = circle
                    .iter()
                    .filter_map(|(node, via)| Some(((*via)?, self.node_name(graph.nodes[*node as usize]))))
                    .collect();
                let templates = circle.iter().all(|(node, _)| !matches!(graph.nodes[*node as usize], Node::Point(_)));
                let known = |cycle: &Cycle| cycle.steps.iter().any(|step| steps.contains(step));
                if !steps.is_empty() && !cycles.iter().any(known) {
                    cycles.push(Cycle { templates, steps });
                }
            }
        }
        cycles
    }

    fn extends_cycles(&self) -> Vec<Cycle> {
        let mut cycles: Vec<Cycle> = Vec::new();
        let ends = self.chains.ends();
        for (at, facts) in self.ties.names.ground.facts.iter().enumerate() {
            let Shape::Template(template) = &facts.shape else { continue };
            if template.extends().is_none() || ends.contains_key(&FileId(at as u32)) {
                continue;
            }
            let chain = self.chains.chain(FileId(at as u32));
            if self.chains.parent_of(chain[chain.len() - 1]) != Some(chain[0]) {
                continue;
            }
            let steps: Vec<(Place, String)> = chain
                .iter()
                .filter_map(|file| {
                    let at = self.ties.names.ground.template(*file)?.extends()?.at;
                    Some((
                        Place { file: *file, at },
                        self.ties.names.ground.template_name(self.chains.parent_of(*file)?),
                    ))
                })
                .collect();
            if !cycles.iter().any(|cycle| cycle.steps.contains(&steps[0])) {
                cycles.push(Cycle { templates: true, steps });
            }
        }
        cycles
    }

    fn node_name(&self, node: Node) -> String {
        match node {
            Node::Point(at) => self.ties.names.declared.points[at].address.to_string(),
            Node::Sections => "sections".into(),
            Node::Entry(file) | Node::Silent(file) | Node::Section(file, _) => {
                self.ties.names.ground.project.file(file).name().into()
            }
            Node::Module(file) | Node::Export(file, _) => self.ties.names.ground.project.file(file).name().into(),
        }
    }
}

/// One circle for each part of the graph that leads back to itself: its nodes, each with the
/// reference that leads to it.
fn circles(graph: &Graph, sure: bool) -> Vec<Vec<(u32, Option<Place>)>> {
    let follows = |edge: &&Edge| !edge.guess && (edge.sure_types() == Types::ALL || !sure);
    // What nothing leads to lies on no circle; taking it away leaves almost nothing to search.
    let mut waits = vec![0u32; graph.nodes.len()];
    for edge in graph.edges.all().iter().filter(follows) {
        waits[edge.to as usize] += 1;
    }
    let mut free: Vec<u32> = (0..waits.len() as u32).filter(|node| waits[*node as usize] == 0).collect();
    while let Some(node) = free.pop() {
        for edge in graph.edges.row(node as usize).iter().filter(follows) {
            waits[edge.to as usize] -= 1;
            if waits[edge.to as usize] == 0 {
                free.push(edge.to);
            }
        }
    }
    let left: Vec<u32> = (0..waits.len() as u32).filter(|node| waits[*node as usize] > 0).collect();
    let mut left_over: DiGraph<u32, Option<Place>> = DiGraph::new();
    let places: FxHashMap<u32, NodeIndex> = left.iter().map(|node| (*node, left_over.add_node(*node))).collect();
    for node in &left {
        for edge in graph.edges.row(*node as usize).iter().filter(follows) {
            if let Some(to) = places.get(&edge.to) {
                left_over.add_edge(places[node], *to, edge.via);
            }
        }
    }
    let parts = kosaraju_scc(&left_over);
    parts.into_iter().filter_map(|part| circle(&left_over, &part)).collect()
}

/// A circle inside a part of a graph in which everything leads to everything.
fn circle(graph: &DiGraph<u32, Option<Place>>, part: &[NodeIndex]) -> Option<Vec<(u32, Option<Place>)>> {
    let start = *part.iter().min()?;
    let mut walk = vec![(start, None)];
    loop {
        let (at, _) = walk[walk.len() - 1];
        let mut next: Vec<(NodeIndex, Option<Place>)> = graph
            .edges(at)
            .map(|edge| (petgraph::visit::EdgeRef::target(&edge), *edge.weight()))
            .filter(|(to, _)| part.contains(to))
            .collect();
        next.sort();
        let (to, via) = *next.first()?;
        if let Some(again) = walk.iter().position(|(known, _)| *known == to) {
            let mut circle = walk.split_off(again);
            circle[0].1 = via;
            return Some(circle.into_iter().map(|(node, via)| (graph[node], via)).collect());
        }
        walk.push((to, via));
    }
}
