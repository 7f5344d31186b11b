//! Reach: which types of pages get to see which placement, and what leads back to itself.
//!
//! A graph of parts (templates, their blocks, points, callbacks), in which each part leads to what
//! it may show. The types of pages are its roots, and each part gets the set of types that reach it.

use petgraph::algo::kosaraju_scc;
use petgraph::graph::{DiGraph, NodeIndex};

use super::*;
use crate::scan::{SectionId, SectionKind, TemplateVerb, Verb};

/// A set of types of pages, by their position in [`Registry::types`].
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash)]
pub struct Types(pub u64);

impl Types {
    /// The set of one type. Types past the 64th share the last bit.
    pub fn one(position: usize) -> Types {
        Types(1 << position.min(63))
    }

    /// No type at all?
    pub fn is_empty(self) -> bool {
        self.0 == 0
    }

    /// Is that type in the set?
    pub fn has(self, position: usize) -> bool {
        self.0 & Types::one(position).0 != 0
    }

    /// Those in both.
    pub fn and(self, other: Types) -> Types {
        Types(self.0 & other.0)
    }

    /// Those in this set, but not in the other.
    pub fn without(self, other: Types) -> Types {
        Types(self.0 & !other.0)
    }
}

/// Something that leads back to itself.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Cycle {
    /// Does it go through templates alone?
    pub templates: bool,
    /// The references on the way round, each with the name of what it leads to.
    pub steps: Vec<(Place, String)>,
}

/// A part of what can be shown.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Node {
    /// A template that is rendered from its beginning, with all that it extends.
    Entry(FileId),
    /// A part of a template.
    Section(FileId, SectionId),
    /// What a template that extends another does before it shows that one.
    Silent(FileId),
    /// A point.
    Point(usize),
    /// A module's uses outside its exports.
    Module(FileId),
    /// A callback.
    Export(FileId, usize),
}

#[derive(Clone, Copy, Debug)]
struct Edge {
    to: u32,
    /// Carried out in any case?
    sure: bool,
    via: Option<Place>,
    /// Is it not certain that it is there at all?
    guess: bool,
}

#[derive(Default)]
pub(super) struct Reach {
    nodes: Vec<Node>,
    edges: Vec<Vec<Edge>>,
    bits: Vec<Types>,
    /// The first node of each file; its further nodes follow.
    first: Vec<u32>,
    first_point: u32,
}

impl Reach {
    fn entry(&self, file: FileId) -> u32 {
        self.first[file.index()]
    }
    /// The second node of a template: what it does before the one that it extends; of a module: its
    /// own uses. Sections and exports come after.
    fn second(&self, file: FileId) -> u32 {
        self.first[file.index()] + 1
    }
    fn part(&self, file: FileId, at: usize) -> u32 {
        self.first[file.index()] + 2 + at as u32
    }
    fn point(&self, at: usize) -> u32 {
        self.first_point + at as u32
    }
    fn bits(&self, node: u32) -> Types {
        self.bits.get(node as usize).copied().unwrap_or_default()
    }
}

impl Registry {
    /// Works out what is reached. Needs everything else to be linked.
    pub(super) fn find_reach(&mut self) {
        let mut reach = self.nodes();
        let meant: Index<Place, Target> = self.meant_targets();
        let mut edges = Vec::with_capacity(reach.nodes.len());
        for node in &reach.nodes {
            edges.push(self.edges_of(*node, &reach, &meant));
        }
        reach.edges = edges;
        reach.bits = vec![Types::default(); reach.nodes.len()];
        let mut roots = Vec::new();
        for (at, page_type) in self.types.iter().enumerate() {
            let Some(file) = page_type.templates.first() else { continue };
            let name = self.project.file(*file).name().trim_end_matches(".html");
            let point = self.points.get_index_of(&Address::new(Kind::Template, name));
            roots.extend(
                [reach.entry(*file)]
                    .into_iter()
                    .chain(point.map(|at| reach.point(at)))
                    .map(|node| (node, Types::one(at))),
            );
        }
        spread(&mut reach, roots);
        for at in 0..self.points.len() {
            let reached = reach.bits(reach.point(at));
            self.points[at].reached = reached;
        }
        self.cycles = self.find_cycles(&reach);
        self.reach = reach;
    }

    fn nodes(&self) -> Reach {
        let mut reach = Reach::default();
        for (at, facts) in self.facts.iter().enumerate() {
            let file = FileId(at as u32);
            reach.first.push(reach.nodes.len() as u32);
            match &facts.shape {
                Shape::Template(template) => {
                    reach.nodes.extend([Node::Entry(file), Node::Silent(file)]);
                    let sections = 0..template.sections.len();
                    reach.nodes.extend(sections.map(|at| Node::Section(file, SectionId(at as u16))));
                }
                Shape::Module(module) => {
                    reach.nodes.extend([Node::Module(file), Node::Module(file)]);
                    reach.nodes.extend((0..module.exports.len()).map(|at| Node::Export(file, at)));
                }
                _ => {}
            }
        }
        reach.first_point = reach.nodes.len() as u32;
        reach.nodes.extend((0..self.points.len()).map(Node::Point));
        reach
    }

    /// What was most likely meant by each reference that leads nowhere.
    fn meant_targets(&self) -> Index<Place, Target> {
        let mut meant = Index::default();
        for miss in &self.misses {
            if let Some(target) = miss.meant {
                meant.extend(miss.references.iter().map(|at| (self.references[*at].from, target.target)));
            }
        }
        meant
    }

    fn edges_of(&self, node: Node, reach: &Reach, meant: &Index<Place, Target>) -> Vec<Edge> {
        let mut edges = Vec::new();
        match node {
            Node::Entry(file) => {
                let shown = self.shown_sections(file);
                edges.extend(shown.into_iter().map(|(file, section)| Edge {
                    to: reach.part(file, usize::from(section.0)),
                    sure: true,
                    via: None,
                    guess: false,
                }));
                for file in self.chain(file).into_iter().filter(|file| self.parent_of(*file).is_some()) {
                    edges.push(Edge { to: reach.second(file), sure: true, via: None, guess: false });
                }
            }
            Node::Silent(file) => {
                let top = |found: &&Use| found.section == SectionId(0) && found.verb == Verb::Through;
                for found in self.uses_in(file).iter().filter(top) {
                    edges.extend(self.use_edge(file, found, reach, meant));
                }
            }
            Node::Section(file, section) => self.section_edges(file, section, reach, meant, &mut edges),
            Node::Point(at) => self.point_edges(&self.points[at], reach, meant, &mut edges),
            Node::Module(file) => self.module_edges(file, None, reach, meant, &mut edges),
            Node::Export(file, at) => {
                // Which of a module's functions call which is not known, only that they may.
                edges.push(Edge { to: reach.second(file), sure: false, via: None, guess: true });
                let name = self.module(file).map(|module| module.exports[at].name);
                self.module_edges(file, name, reach, meant, &mut edges);
            }
        }
        edges
    }

    fn use_edge(&self, file: FileId, found: &Use, reach: &Reach, meant: &Index<Place, Target>) -> Option<Edge> {
        if found.verb == Verb::Filled {
            return None;
        }
        let via = Place { file, at: found.point.at };
        let address = match meant.get(&via) {
            Some(Target::Point(address)) => *address,
            _ => found.point.address?,
        };
        let to = reach.point(self.points.get_index_of(&address)?);
        Some(Edge { to, sure: !found.conditional, via: Some(via), guess: meant.contains_key(&via) })
    }

    fn section_edges(
        &self,
        file: FileId,
        section: SectionId,
        reach: &Reach,
        meant: &Index<Place, Target>,
        edges: &mut Vec<Edge>,
    ) {
        let Some(template) = self.template(file) else { return };
        let part = &template.sections[usize::from(section.0)];
        if part.kind == SectionKind::Dead {
            return;
        }
        for found in template.uses.iter().filter(|found| found.section == section) {
            edges.extend(self.use_edge(file, found, reach, meant));
        }
        let layer = self.project.file(file).layer;
        for reference in template.refs.iter() {
            let Some(written) = reference.target else { continue };
            let via = Place { file, at: reference.at };
            let target = self.resolve_template(&written, layer).or(match meant.get(&via) {
                Some(Target::File(file)) => Some(*file),
                _ => None,
            });
            let Some(target) = target else { continue };
            match reference.verb {
                TemplateVerb::Include if reference.section == section => {
                    let sure = !reference.conditional && !reference.optional;
                    edges.push(Edge { to: reach.entry(target), sure, via: Some(via), guess: meant.contains_key(&via) });
                }
                TemplateVerb::Import => self.macro_edges(part, &reference.aliases, target, reach, edges),
                _ => {}
            }
        }
        for mention in &part.mentions {
            if let Some(own) = template.section(SectionKind::Macro(*mention)) {
                edges.push(Edge { to: reach.part(file, usize::from(own.0)), sure: false, via: None, guess: false });
            }
        }
    }

    fn macro_edges(
        &self,
        part: &crate::scan::Section,
        aliases: &[(Ustr, Option<crate::scan::Named>)],
        target: FileId,
        reach: &Reach,
        edges: &mut Vec<Edge>,
    ) {
        let Some(template) = self.template(target) else { return };
        for (local, single) in aliases.iter().filter(|(local, _)| part.mentions.contains(local)) {
            for (at, section) in template.sections.iter().enumerate() {
                let shown = match (section.kind, single) {
                    (SectionKind::Macro(name), Some(single)) => name == single.name || name == *local,
                    (SectionKind::Macro(_), None) => true,
                    _ => false,
                };
                if shown {
                    edges.push(Edge { to: reach.part(target, at), sure: false, via: None, guess: false });
                }
            }
        }
    }

    fn point_edges(&self, point: &Point, reach: &Reach, meant: &Index<Place, Target>, edges: &mut Vec<Edge>) {
        let mut callback = |callback: Callback, sure: bool, guess: bool| {
            let Some(module) = self.module(callback.file) else { return };
            if let Some(at) = module.exports.iter().position(|export| export.name == callback.export) {
                edges.push(Edge { to: reach.part(callback.file, at), sure, via: None, guess });
            }
        };
        for slot in &point.slots {
            let sure = slot.when.is_none();
            match slot.runs {
                Runs::Callback(_, Some(found)) => callback(found, sure, false),
                Runs::Callback(call, None) => {
                    let at = Place { file: slot.place.file, at: call.at };
                    if let Some(Target::Export(file, export)) = meant.get(&at) {
                        callback(Callback { file: *file, export: *export }, sure, true);
                    }
                }
                Runs::Partial(..) => {}
            }
        }
        if let (Some(Renderer::Callback(found)), true) = (point.renderer, point.address.kind.is_component()) {
            callback(found, true, false);
        }
        for slot in &point.slots {
            if let Runs::Partial(address, true) = slot.runs {
                let to = self.points.get_index_of(&address).map(|at| reach.point(at));
                edges.extend(to.map(|to| Edge { to, sure: slot.when.is_none(), via: Some(slot.place), guess: false }));
            }
        }
        if let (Some(Renderer::Template(file)), true) = (point.renderer, point.address.kind.is_component()) {
            edges.push(Edge { to: reach.entry(file), sure: true, via: None, guess: false });
        }
        let markup =
            self.misses.iter().find(|miss| miss.wanted == Wanted::Markup(point.address)).and_then(|miss| miss.meant);
        if let Some(Target::File(file)) = markup.map(|meant| meant.target) {
            edges.push(Edge { to: reach.entry(file), sure: false, via: None, guess: true });
        }
        let items = point.fills.iter().filter_map(|(file, at)| Some((*file, self.fill_of(*file, *at)?)));
        for (file, item) in items.flat_map(|(file, fill)| fill.items.iter().map(move |item| (file, item))) {
            let via = Place { file, at: item.component.at };
            let address = match meant.get(&via) {
                Some(Target::Point(address)) => Some(*address),
                _ => item.component.address,
            };
            let to = address.and_then(|address| self.points.get_index_of(&address)).map(|at| reach.point(at));
            edges.extend(to.map(|to| Edge {
                to,
                sure: item.when.is_none(),
                via: Some(via),
                guess: meant.contains_key(&via),
            }));
        }
        if point.address == body_region() {
            let to = self.points.get_index_of(&body_partial()).map(|at| reach.point(at));
            edges.extend(to.map(|to| Edge { to, sure: false, via: None, guess: false }));
        }
    }

    fn module_edges(
        &self,
        file: FileId,
        owner: Option<Ustr>,
        reach: &Reach,
        meant: &Index<Place, Target>,
        edges: &mut Vec<Edge>,
    ) {
        let Some(module) = self.module(file) else { return };
        for found in module.uses.iter().filter(|found| found.owner == owner) {
            edges.extend(self.use_edge(file, found, reach, meant));
        }
        if owner.is_some() {
            return;
        }
        // A callback may use whatever its module imports.
        for import in &module.imports {
            let via = Place { file, at: import.from.at };
            let target = self.resolve_import(file, &import.from.name).or(match meant.get(&via) {
                Some(Target::File(file)) => Some(*file),
                _ => None,
            });
            let Some((target, other)) = target.and_then(|target| Some((target, self.module(target)?))) else {
                continue;
            };
            edges.push(Edge { to: reach.second(target), sure: false, via: None, guess: true });
            for (at, export) in other.exports.iter().enumerate() {
                if import.all || import.names.iter().any(|named| named.name == export.name) {
                    edges.push(Edge { to: reach.part(target, at), sure: false, via: None, guess: true });
                }
            }
        }
    }

    /// The types of pages that reach a use of a point.
    pub fn use_reached(&self, id: UseId) -> Types {
        let found = self.use_of(id);
        let node = match &self.facts(id.file).shape {
            Shape::Template(_) => {
                let part = self.reach.bits(self.reach.part(id.file, usize::from(found.section.0)));
                let silent = self.reach.bits(self.reach.second(id.file));
                let before = found.verb == Verb::Through && found.section == SectionId(0);
                return if before { Types(part.0 | silent.0) } else { part };
            }
            Shape::Module(module) => match found.owner {
                Some(owner) => {
                    let at = module.exports.iter().position(|export| export.name == owner);
                    self.reach.part(id.file, at.unwrap_or(0))
                }
                None => self.reach.second(id.file),
            },
            _ => return Types::default(),
        };
        self.reach.bits(node)
    }

    /// The types of pages that reach any part of a template.
    pub fn template_types(&self, file: FileId) -> Types {
        let sections = self.template(file).map_or(0, |template| template.sections.len());
        let parts = (0..sections).map(|at| self.reach.bits(self.reach.part(file, at)).0);
        let silent = self.reach.bits(self.reach.second(file)).0;
        Types(parts.fold(silent | self.reach.bits(self.reach.entry(file)).0, |all, bits| all | bits))
    }

    /// All types that have a template.
    pub fn templated_types(&self) -> Types {
        let with = self.types.iter().enumerate().filter(|(_, page_type)| !page_type.templates.is_empty());
        Types(with.fold(0, |all, (at, _)| all | Types::one(at).0))
    }

    /// The names of a set of types.
    pub fn type_names(&self, types: Types) -> Vec<&'static str> {
        let named = self.types.iter().enumerate().filter(|(at, _)| types.has(*at));
        named.map(|(_, page_type)| page_type.name.as_str()).collect()
    }

    fn find_cycles(&self, reach: &Reach) -> Vec<Cycle> {
        let mut cycles = self.extends_cycles();
        // What is carried out in any case never ends. What depends on circumstances may end, but not
        // where a hook or region would have to be filled while it is being filled.
        for sure in [true, false] {
            for circle in circles(reach, sure) {
                let fills =
                    |node: &Node| matches!(node, Node::Point(at) if self.points[*at].address.kind.needs_placement());
                if !sure && !circle.iter().any(|(node, _)| fills(&reach.nodes[*node as usize])) {
                    continue;
                }
                let steps: Vec<(Place, String)> = circle
                    .iter()
                    .filter_map(|(node, via)| Some(((*via)?, self.node_name(reach.nodes[*node as usize]))))
                    .collect();
                let templates = circle.iter().all(|(node, _)| !matches!(reach.nodes[*node as usize], Node::Point(_)));
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
        for (at, facts) in self.facts.iter().enumerate() {
            let Shape::Template(template) = &facts.shape else { continue };
            if template.extends().is_none() {
                continue;
            }
            let chain = self.chain(FileId(at as u32));
            if self.parent_of(chain[chain.len() - 1]) != Some(chain[0]) {
                continue;
            }
            let steps: Vec<(Place, String)> = chain
                .iter()
                .filter_map(|file| {
                    let at = self.template(*file)?.extends()?.at;
                    Some((Place { file: *file, at }, self.template_name(self.parent_of(*file)?)))
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
            Node::Point(at) => self.points[at].address.to_string(),
            Node::Entry(file) | Node::Silent(file) | Node::Section(file, _) => self.project.file(file).name().into(),
            Node::Module(file) | Node::Export(file, _) => self.project.file(file).name().into(),
        }
    }
}

/// The region whose first item is the page's body.
pub fn body_region() -> Address {
    Address::new(Kind::Region, "main")
}

/// The component that prints the page's body.
pub fn body_partial() -> Address {
    Address::new(Kind::Partial, "body")
}

/// Carries sets of types along all edges.
fn spread(reach: &mut Reach, roots: Vec<(u32, Types)>) {
    let mut open = Vec::new();
    for (node, types) in roots {
        reach.bits[node as usize].0 |= types.0;
        open.push(node);
    }
    // All types that share a way go along it together.
    while let Some(node) = open.pop() {
        let types = reach.bits[node as usize].0;
        for edge in &reach.edges[node as usize] {
            let bits = &mut reach.bits[edge.to as usize].0;
            if *bits | types != *bits {
                *bits |= types;
                open.push(edge.to);
            }
        }
    }
}

/// One circle for each part of the graph that leads back to itself: its nodes, each with the
/// reference that leads to it.
fn circles(reach: &Reach, sure: bool) -> Vec<Vec<(u32, Option<Place>)>> {
    let follows = |edge: &&Edge| !edge.guess && (edge.sure || !sure);
    // What nothing leads to lies on no circle; taking it away leaves almost nothing to search.
    let mut waits = vec![0u32; reach.nodes.len()];
    for edge in reach.edges.iter().flatten().filter(follows) {
        waits[edge.to as usize] += 1;
    }
    let mut free: Vec<u32> = (0..waits.len() as u32).filter(|node| waits[*node as usize] == 0).collect();
    while let Some(node) = free.pop() {
        for edge in reach.edges[node as usize].iter().filter(follows) {
            waits[edge.to as usize] -= 1;
            if waits[edge.to as usize] == 0 {
                free.push(edge.to);
            }
        }
    }
    let left: Vec<u32> = (0..waits.len() as u32).filter(|node| waits[*node as usize] > 0).collect();
    let mut graph: DiGraph<u32, Option<Place>> = DiGraph::new();
    let places: Index<u32, NodeIndex> = left.iter().map(|node| (*node, graph.add_node(*node))).collect();
    for node in &left {
        for edge in reach.edges[*node as usize].iter().filter(follows) {
            if let Some(to) = places.get(&edge.to) {
                graph.add_edge(places[node], *to, edge.via);
            }
        }
    }
    let parts = kosaraju_scc(&graph);
    parts.into_iter().filter_map(|part| circle(&graph, &part)).collect()
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
