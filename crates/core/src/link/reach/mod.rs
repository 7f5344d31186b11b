//! Reach: which types of pages get to see which placement, and what leads back to itself.
//!
//! A graph of parts (templates, their blocks, points, callbacks), in which each part leads to what
//! it may show. The types of pages are its roots, and each part gets the set of types that reach it.

mod cycles;
mod edges;

use super::*;
use crate::scan::{SectionId, Verb};

/// A set of types of pages, by their position in [`Registry::types`].
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash)]
pub struct Types(pub u64);

impl Types {
    /// Every type.
    pub const ALL: Types = Types(u64::MAX);

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
    /// The sections that pages are composed of.
    Sections,
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
    /// The types of pages on which it may be carried out.
    mask: Types,
}

#[derive(Default)]
pub(super) struct Reach {
    nodes: Vec<Node>,
    edges: Vec<Vec<Edge>>,
    bits: Vec<Types>,
    /// As `bits`, along ways that are gone in any case.
    sure: Vec<Types>,
    /// The first node of each file; its further nodes follow.
    first: Vec<u32>,
    first_point: u32,
    sections: u32,
    /// The components that site editors can pick, by their positions.
    offered: Vec<(usize, Address)>,
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
        let edges = parallel::map(reach.nodes.len(), |at| self.edges_of(reach.nodes[at], &reach, &meant));
        reach.edges = edges;
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
        let all = (0..self.types.len()).fold(Types::default(), |all, at| Types(all.0 | Types::one(at).0));
        let fired = self.points.values().enumerate().filter(|(_, point)| self.is_fired(point));
        roots.extend(fired.map(|(at, _)| (reach.point(at), all)));
        let assets =
            self.points.values().enumerate().filter(|(_, point)| point.asset.is_some() && self.is_on_all_pages(point));
        roots.extend(assets.map(|(at, point)| {
            let when = point.asset.as_ref().and_then(|asset| asset.when.as_ref());
            (reach.point(at), self.types_where(when))
        }));
        reach.sure = spread(&reach, &roots, true);
        // What an open theme or a companion offers to others counts as used by them.
        let top = self.project.top();
        let for_others = |point: &&Point| point.address.kind.is_component() && point.layer() == Some(top);
        if self.project.layer(top).open {
            let found = self.points.values().enumerate().filter(|(_, point)| for_others(point));
            roots.extend(found.map(|(at, _)| (reach.point(at), all)));
        }
        reach.bits = spread(&reach, &roots, false);
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
        reach.sections = reach.nodes.len() as u32;
        reach.nodes.push(Node::Sections);
        let offered = self.points.values().enumerate().filter(|(_, point)| point.is_offered());
        reach.offered = offered.map(|(at, point)| (at, point.address)).collect();
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

    /// The types of pages on which a use of a point shows in any case.
    pub fn use_sure(&self, id: UseId) -> Types {
        let found = self.use_of(id);
        match self.template(id.file) {
            Some(_) if !found.conditional => {
                let node = self.reach.part(id.file, usize::from(found.section.0));
                self.reach.sure.get(node as usize).copied().unwrap_or_default()
            }
            _ => Types::default(),
        }
    }

    /// The types of pages that get to the outlet for their sections.
    pub fn sections_reached(&self) -> Types {
        self.reach.bits(self.reach.sections)
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

    /// The types of pages on which a condition may hold. One that can never hold is told by itself, and
    /// counts as if it could.
    pub fn types_where(&self, when: Option<&Condition>) -> Types {
        let may = |page_type: &TypeInfo| {
            when.is_none_or(|when| {
                when.can_hold(|name| match name {
                    "page.type" => Some(vec![page_type.name.as_str().into()]),
                    name => self.closed_values(name),
                })
            })
        };
        let types = self.types.iter().enumerate().filter(|(_, page_type)| may(page_type));
        match Types(types.fold(0, |all, (at, _)| all | Types::one(at).0)) {
            found if found.is_empty() => Types::ALL,
            found => found,
        }
    }

    /// All values that a name of a condition can have, where they are a closed set.
    pub fn closed_values(&self, name: &str) -> Option<Vec<serde_json::Value>> {
        use serde_json::Value;
        if name == "page.type" {
            return Some(self.types.iter().map(|known| Value::from(known.name.as_str())).collect());
        }
        let option = self.point(Address::new(Kind::Option, name.strip_prefix("options.")?))?;
        let schema = option.schema()?;
        match schema.get("enum").and_then(Value::as_array) {
            Some(all) => Some(all.clone()),
            None if schema.get("type")?.as_str() == Some("boolean") => {
                Some(vec![Value::from(true), Value::from(false)])
            }
            None => None,
        }
    }

    /// The names of a set of types.
    pub fn type_names(&self, types: Types) -> Vec<&'static str> {
        let named = self.types.iter().enumerate().filter(|(at, _)| types.has(*at));
        named.map(|(_, page_type)| page_type.name.as_str()).collect()
    }
}

/// The region whose first item is the page's body.
pub fn body_region() -> Address {
    Address::new(Kind::Region, "main")
}

/// The component that renders menus, where a placement names no other.
pub fn menu_partial() -> Address {
    Address::new(Kind::Partial, "menu")
}

/// The component that prints the page's body.
pub fn body_partial() -> Address {
    Address::new(Kind::Partial, "body")
}

/// Carries sets of types along all edges, or along those alone that are gone in any case.
fn spread(reach: &Reach, roots: &[(u32, Types)], sure: bool) -> Vec<Types> {
    let mut all = vec![Types::default(); reach.nodes.len()];
    let mut open = Vec::new();
    for (node, types) in roots {
        all[*node as usize].0 |= types.0;
        open.push(*node);
    }
    // All types that share a way go along it together.
    while let Some(node) = open.pop() {
        let here = all[node as usize];
        for edge in reach.edges[node as usize].iter().filter(|edge| !sure || edge.sure && !edge.guess) {
            let types = here.and(edge.mask).0;
            let bits = &mut all[edge.to as usize].0;
            if *bits | types != *bits {
                *bits |= types;
                open.push(edge.to);
            }
        }
    }
    all
}
