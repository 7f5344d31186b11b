//! What each part of the graph leads to.

use super::super::point::{Callback, ItemUse, Renderer, Runs, Said};
use super::super::reference::{Link, Target, Wanted};
use super::super::types::Types;
use super::super::wellknown::{body_partial, body_region, menu_partial};
use super::Reaching;
use super::graph::{Edge, Graph, Node};
use crate::address::Kind;
use crate::name::Name;
use crate::scan::{Chance, Named, Outlet, OutletKind, Section, SectionId, SectionKind, TemplateVerb, Use, Verb};
use crate::source::{FileId, Place};

impl Reaching<'_> {
    pub(super) fn edges_of(&self, node: Node, graph: &Graph, edges: &mut Vec<Edge>) {
        match node {
            Node::Entry(file) => {
                let shown = self.chains.shown_sections(file);
                edges.extend(shown.into_iter().map(|(file, section)| Edge {
                    to: graph.part(file, usize::from(section.0)),
                    chance: Chance::Always,
                    via: None,
                    guess: false,
                    mask: Types::ALL,
                }));
                for file in self.chains.chain(file).into_iter().filter(|file| self.chains.parent_of(*file).is_some()) {
                    self.lost_edges(file, graph, edges);
                    edges.push(Edge {
                        to: graph.second(file),
                        chance: Chance::Always,
                        via: None,
                        guess: false,
                        mask: Types::ALL,
                    });
                }
            }
            Node::Silent(file) => {
                let top = |found: &&Use| found.section == SectionId(0) && found.verb == Verb::Through;
                for found in self.ties.names.ground.uses_in(file).iter().filter(top) {
                    edges.extend(self.use_edge(file, found, graph));
                }
            }
            Node::Section(file, section) => self.section_edges(file, section, graph, edges),
            Node::Point(at) => self.point_edges(&self.ties.names.declared.points[at], graph, edges),
            Node::Sections => self.sections_edges(graph, edges),
            Node::Module(file) => self.module_edges(file, None, graph, edges),
            Node::Export(file, at) => {
                // Which of a module's functions call which is not known, only that they may.
                edges.push(Edge {
                    to: graph.second(file),
                    chance: Chance::Perhaps,
                    via: None,
                    guess: true,
                    mask: Types::ALL,
                });
                let name = self.ties.names.ground.module(file).map(|module| module.exports[at].name);
                self.module_edges(file, name, graph, edges);
            }
        }
    }

    /// What a template that extends another one holds and nothing shows: that is told by itself, and what is in it
    /// counts as shown.
    fn lost_edges(&self, file: FileId, graph: &Graph, edges: &mut Vec<Edge>) {
        let Some(template) = self.ties.names.ground.template(file) else { return };
        if self.missed.unheard.links.contains(&Link::BlockToBlock) {
            return;
        }
        let lost = self
            .chains
            .lost_blocks(file)
            .into_iter()
            .filter_map(|block| self.ties.names.ground.block_in(file, block.name));
        let outside = (!template.outside.is_empty()).then_some(SectionId(0));
        edges.extend(lost.chain(outside).map(|section| Edge {
            to: graph.part(file, usize::from(section.0)),
            chance: Chance::Perhaps,
            via: None,
            guess: true,
            mask: Types::ALL,
        }));
    }

    fn use_edge(&self, file: FileId, found: &Use, graph: &Graph) -> Option<Edge> {
        if found.verb == Verb::Filled {
            return None;
        }
        let via = Place { file, at: found.point.at };
        let address = match self.guesses.places.get(&via) {
            Some(Target::Point(address)) => *address,
            _ => found.point.address?,
        };
        let to = graph.point(self.index(&address)?);
        Some(Edge {
            to,
            chance: found.chance,
            via: Some(via),
            guess: self.guesses.places.contains_key(&via),
            mask: Types::ALL,
        })
    }

    fn section_edges(&self, file: FileId, section: SectionId, graph: &Graph, edges: &mut Vec<Edge>) {
        let Some(template) = self.ties.names.ground.template(file) else { return };
        let part = &template.sections[usize::from(section.0)];
        if part.kind == SectionKind::Dead {
            return;
        }
        for found in template.uses.iter().filter(|found| found.section == section) {
            edges.extend(self.use_edge(file, found, graph));
        }
        for outlet in template.outlets.iter().filter(|outlet| outlet.section == section) {
            edges.extend(outlet_edge(file, *outlet, graph));
        }
        let layer = self.ties.names.ground.project.file(file).layer;
        for reference in template.refs.iter() {
            let included = reference.verb == TemplateVerb::Include && reference.section == section;
            let Some(written) = reference.target.filter(|_| included || reference.verb == TemplateVerb::Import) else {
                continue;
            };
            let via = Place { file, at: reference.at };
            let target =
                self.ties.names.ground.resolve_template(&written, layer).or(match self.guesses.places.get(&via) {
                    Some(Target::File(file)) => Some(*file),
                    _ => None,
                });
            let Some(target) = target else { continue };
            if !included {
                self.macro_edges(part, &reference.aliases, target, graph, edges);
                continue;
            }
            let chance = if reference.optional { Chance::Perhaps } else { reference.chance };
            edges.push(Edge {
                to: graph.entry(target),
                chance,
                via: Some(via),
                guess: self.guesses.places.contains_key(&via),
                mask: Types::ALL,
            });
        }
        for mention in &part.mentions {
            if let Some(own) = template.section(SectionKind::Macro(*mention)) {
                edges.push(Edge {
                    to: graph.part(file, usize::from(own.0)),
                    chance: Chance::Perhaps,
                    via: None,
                    guess: false,
                    mask: Types::ALL,
                });
            }
        }
    }

    fn macro_edges(
        &self,
        part: &Section,
        aliases: &[(Name, Option<Named>)],
        target: FileId,
        graph: &Graph,
        edges: &mut Vec<Edge>,
    ) {
        let Some(template) = self.ties.names.ground.template(target) else { return };
        for (local, single) in aliases.iter().filter(|(local, _)| part.mentions.contains(local)) {
            for (at, section) in template.sections.iter().enumerate() {
                let shown = match (section.kind, single) {
                    (SectionKind::Macro(name), Some(single)) => name == single.name || name == *local,
                    (SectionKind::Macro(_), None) => true,
                    _ => false,
                };
                if shown {
                    edges.push(Edge {
                        to: graph.part(target, at),
                        chance: Chance::Perhaps,
                        via: None,
                        guess: false,
                        mask: Types::ALL,
                    });
                }
            }
        }
    }

    fn point_edges(&self, point: &Said, graph: &Graph, edges: &mut Vec<Edge>) {
        if point.dropped.is_some() {
            return;
        }
        for (needed, place) in &point.needs {
            let to = needed.address.and_then(|address| self.index(&address)).map(|at| graph.point(at));
            edges.extend(to.map(|to| Edge {
                to,
                chance: Chance::Perhaps,
                via: Some(*place),
                guess: false,
                mask: Types::ALL,
            }));
        }
        self.attached_edges(point, graph, edges);
        if let (Some(Renderer::Template(file)), true) =
            (self.ties.renderer(point.address), point.address.kind.is_component())
        {
            edges.push(Edge {
                to: graph.entry(file),
                chance: Chance::Always,
                via: None,
                guess: false,
                mask: Types::ALL,
            });
        }
        let markup = self.missed.miss_of(Wanted::Markup(point.address)).and_then(|miss| miss.meant);
        if let Some(Target::File(file)) = markup.map(|meant| meant.target) {
            edges.push(Edge {
                to: graph.entry(file),
                chance: Chance::Perhaps,
                via: None,
                guess: true,
                mask: Types::ALL,
            });
        }
        // What a component holds is said item by item; it never holds itself without end.
        self.item_edges(self.ties.items(point.address), point.address.kind.is_component(), graph, edges);
        self.offer_edges(point, graph, edges);
        if point.address.kind == Kind::Menu {
            let to = self.index(&menu_partial()).map(|at| graph.point(at));
            edges.extend(to.map(|to| Edge { to, chance: Chance::Perhaps, via: None, guess: false, mask: Types::ALL }));
        }
        if point.address == body_region() {
            let to = self.index(&body_partial()).map(|at| graph.point(at));
            edges.extend(to.map(|to| Edge { to, chance: Chance::Perhaps, via: None, guess: false, mask: Types::ALL }));
        }
    }

    /// What is attached to a point, and the callback that renders it.
    fn attached_edges(&self, point: &Said, graph: &Graph, edges: &mut Vec<Edge>) {
        let mut callback = |callback: Callback, sure: bool, guess: bool, mask: Types| {
            if let Some(at) = self.ties.names.ground.export_at(callback.file, callback.export) {
                edges.push(Edge { to: graph.part(callback.file, at), chance: by_chance(sure), via: None, guess, mask });
            }
        };
        for slot in self.ties.slots(point.address) {
            let sure = slot.when.is_none();
            let mask = self.ties.names.declared.types_where(slot.when.as_ref());
            match slot.runs {
                Runs::Callback(_, Some(found)) => callback(found, sure, false, mask),
                Runs::Callback(call, None) => {
                    let at = Place { file: slot.place.file, at: call.at };
                    if let Some(Target::Export(file, export)) = self.guesses.places.get(&at) {
                        callback(Callback { file: *file, export: *export }, sure, true, mask);
                    }
                }
                Runs::Partial(..) => {}
            }
        }
        if let (Some(Renderer::Callback(found)), true) =
            (self.ties.renderer(point.address), point.address.kind.is_component())
        {
            callback(found, true, false, Types::ALL);
        }
        for slot in self.ties.slots(point.address) {
            if let Runs::Partial(address, true) = slot.runs {
                let to = self.index(&address).map(|at| graph.point(at));
                let mask = self.ties.names.declared.types_where(slot.when.as_ref());
                edges.extend(to.map(|to| Edge {
                    to,
                    chance: by_chance(slot.when.is_none()),
                    via: Some(slot.place),
                    guess: false,
                    mask,
                }));
            }
        }
    }

    fn item_edges(&self, items: &[ItemUse], held: bool, graph: &Graph, edges: &mut Vec<Edge>) {
        for item in items {
            let via = item.place;
            let address = match self.guesses.places.get(&via) {
                Some(Target::Point(address)) => Some(*address),
                _ => item.component,
            };
            let to = address.and_then(|address| self.index(&address)).map(|at| graph.point(at));
            let guess = held || self.guesses.places.contains_key(&via);
            edges.extend(to.map(|to| Edge {
                to,
                chance: by_chance(item.sure),
                via: Some(via),
                guess,
                mask: item.types,
            }));
        }
    }

    /// What site editors may put into a point: the pieces that are offered.
    fn offer_edges(&self, point: &Said, graph: &Graph, edges: &mut Vec<Edge>) {
        let kind = point.address.kind;
        if point.reserved || !(kind.holds_items() || kind.is_component() && !point.holds.is_empty()) {
            return;
        }
        for (at, offered) in graph.offered.iter().filter(|(_, offered)| offered.kind == Kind::Piece) {
            if self.ties.names.may_hold(point.address, *offered) {
                edges.push(Edge {
                    to: graph.point(*at),
                    chance: Chance::Perhaps,
                    via: None,
                    guess: true,
                    mask: Types::ALL,
                });
            }
        }
    }

    /// What pages may be composed of: what they are in the preview, and what is offered.
    fn sections_edges(&self, graph: &Graph, edges: &mut Vec<Edge>) {
        let before = edges.len();
        self.item_edges(&self.ties.filled.page_sections, true, graph, edges);
        for (at, _) in graph.offered.iter().filter(|(_, offered)| offered.kind == Kind::Section) {
            edges.push(Edge {
                to: graph.point(*at),
                chance: Chance::Perhaps,
                via: None,
                guess: true,
                mask: Types::ALL,
            });
        }
        // A page is composed of something or not, and no edge of these is sure.
        edges[before..].iter_mut().for_each(|edge| edge.chance = Chance::Perhaps);
    }

    fn module_edges(&self, file: FileId, owner: Option<Name>, graph: &Graph, edges: &mut Vec<Edge>) {
        let Some(module) = self.ties.names.ground.module(file) else { return };
        for found in module.uses.iter().filter(|found| found.owner == owner) {
            edges.extend(self.use_edge(file, found, graph));
        }
        for outlet in module.outlets.iter().filter(|outlet| outlet.owner == owner) {
            edges.extend(outlet_edge(file, *outlet, graph));
        }
        if owner.is_some() {
            return;
        }
        // A callback may use whatever its module imports.
        for import in &module.imports {
            let via = Place { file, at: import.from.at };
            let target = self.ties.names.ground.resolve_import(file, &import.from.name).or(
                match self.guesses.places.get(&via) {
                    Some(Target::File(file)) => Some(*file),
                    _ => None,
                },
            );
            let Some((target, other)) =
                target.and_then(|target| Some((target, self.ties.names.ground.module(target)?)))
            else {
                continue;
            };
            edges.push(Edge {
                to: graph.second(target),
                chance: Chance::Perhaps,
                via: None,
                guess: true,
                mask: Types::ALL,
            });
            // A misspelt name stands for what was meant by it.
            let asked = |named: &Named| match self.guesses.places.get(&Place { file, at: named.at }) {
                Some(Target::Export(_, meant)) => *meant,
                _ => named.name,
            };
            for (at, export) in other.exports.iter().enumerate() {
                if import.all || import.names.iter().any(|named| asked(named) == export.name) {
                    edges.push(Edge {
                        to: graph.part(target, at),
                        chance: Chance::Perhaps,
                        via: None,
                        guess: true,
                        mask: Types::ALL,
                    });
                }
            }
        }
    }
}

fn by_chance(sure: bool) -> Chance {
    if sure { Chance::Always } else { Chance::Perhaps }
}

fn outlet_edge(file: FileId, outlet: Outlet, graph: &Graph) -> Option<Edge> {
    let via = Some(Place { file, at: outlet.at });
    (outlet.kind == OutletKind::Sections).then_some(Edge {
        to: graph.sections,
        chance: outlet.chance,
        via,
        guess: false,
        mask: Types::ALL,
    })
}
