//! What each part of the graph leads to.

use super::super::of_type::Shows;
use super::super::point::{Callback, ItemUse, Renderer, Runs, Said};
use super::super::reference::{Link, Target, Wanted};
use super::super::types::Types;
use super::super::under::{Asks, Conditions, Remaining, Under};
use super::super::wellknown::{body_partial, body_region, menu_partial};
use super::Reaching;
use super::graph::{Edge, Graph, Node};
use crate::address::{Address, Kind};
use crate::name::Name;
use crate::scan::{
    Chance, GuardId, Named, Outlet, OutletKind, Section, SectionId, SectionKind, TemplateVerb, Use, Verb,
};
use crate::source::{FileId, Place};

impl Reaching<'_> {
    pub(super) fn edges_of(&self, node: Node, graph: &Graph, edges: &mut Vec<Edge>) {
        match node {
            Node::Entry(file) => self.entry_edges(file, graph, edges),
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
                edges.push(Edge::guess(graph.second(file)));
                let name = self.ties.names.ground.module(file).map(|module| module.exports[at].name);
                self.module_edges(file, name, graph, edges);
            }
        }
    }

    fn entry_edges(&self, file: FileId, graph: &Graph, edges: &mut Vec<Edge>) {
        for (chain, under) in self.chains.all_chains(file, self.ties) {
            for part in self.chains.shown_by(&chain) {
                let guards = part.guards.into_iter();
                let guards = guards.map(|(file, guard)| self.ties.under_guard(file, Some(guard), Shows::Other));
                let under = guards.fold(under.clone(), Under::and);
                let to = graph.part(part.file, usize::from(part.section.0));
                edges.push(Edge { under, ..Edge::sure(to) });
            }
            for file in chain.into_iter().filter(|file| self.chains.parent_of(*file).is_some()) {
                self.lost_edges(file, graph, edges);
                edges.push(Edge { under: under.clone(), ..Edge::sure(graph.second(file)) });
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
        edges.extend(lost.chain(outside).map(|section| Edge::guess(graph.part(file, usize::from(section.0)))));
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
        let guess = self.guesses.places.contains_key(&via);
        let under = self.under_use(file, found.guard, found.chance, Shows::Point(address));
        Some(Edge { to, chance: found.chance, via: Some(via), guess, under })
    }

    /// Under which circumstances something in a template or module is carried out. What functions of a module do is
    /// known by its chance alone.
    fn under_use(&self, file: FileId, guard: Option<GuardId>, chance: Chance, shows: Shows) -> Under {
        match self.ties.names.ground.template(file) {
            Some(_) => self.ties.under_guard(file, guard, shows),
            None if chance.is_conditional() => Under::PERHAPS,
            None => Under::ALWAYS,
        }
    }

    fn section_edges(&self, file: FileId, section: SectionId, graph: &Graph, edges: &mut Vec<Edge>) {
        let Some(template) = self.ties.names.ground.template(file) else { return };
        let part = &template.sections[usize::from(section.0)];
        for found in template.uses.iter().filter(|found| found.section == section) {
            edges.extend(self.use_edge(file, found, graph));
        }
        for outlet in template.outlets.iter().filter(|outlet| outlet.section == section) {
            edges.extend(self.outlet_edge(file, *outlet, graph));
        }
        for reference in template.refs.iter() {
            let included = reference.verb == TemplateVerb::Include && reference.section == section;
            if !included && reference.verb != TemplateVerb::Import {
                continue;
            }
            let via = Place { file, at: reference.at };
            let mut targets = self.chains.targets(file, reference, self.ties);
            let mut guess = false;
            if let (true, Some(Target::File(meant))) = (targets.is_empty(), self.guesses.places.get(&via)) {
                (targets, guess) = (vec![(*meant, Types::ALL)], true);
            }
            for (target, types) in targets {
                if !included {
                    self.macro_edges((file, part), &reference.aliases, target, graph, edges);
                    continue;
                }
                let chance = if reference.optional { Chance::Perhaps } else { reference.chance };
                let mut under = self.ties.under_guard(file, reference.guard, Shows::Other).on(types);
                if reference.optional {
                    (under.sure, under.whole) = (Types::default(), false);
                }
                edges.push(Edge { to: graph.entry(target), chance, via: Some(via), guess, under });
            }
        }
        for mention in &part.mentions {
            if let Some(own) = template.section(SectionKind::Macro(mention.name)) {
                let under = self.ties.under_guard(file, mention.guard, Shows::Other).and(Under::PERHAPS);
                edges.push(Edge { under, ..Edge::perhaps(graph.part(file, usize::from(own.0))) });
            }
        }
    }

    fn macro_edges(
        &self,
        (file, part): (FileId, &Section),
        aliases: &[(Name, Option<Named>)],
        target: FileId,
        graph: &Graph,
        edges: &mut Vec<Edge>,
    ) {
        let Some(template) = self.ties.names.ground.template(target) else { return };
        for (local, single) in aliases {
            let Some(mention) = part.mentions.iter().find(|mention| mention.name == *local) else { continue };
            let under = self.ties.under_guard(file, mention.guard, Shows::Other).and(Under::PERHAPS);
            for (at, section) in template.sections.iter().enumerate() {
                let shown = match (section.kind, single) {
                    (SectionKind::Macro(name), Some(single)) => name == single.name || name == *local,
                    (SectionKind::Macro(_), None) => true,
                    _ => false,
                };
                if shown {
                    edges.push(Edge { under: under.clone(), ..Edge::perhaps(graph.part(target, at)) });
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
            edges.extend(to.map(|to| Edge { via: Some(*place), ..Edge::perhaps(to) }));
        }
        self.attached_edges(point, graph, edges);
        if let (Some(Renderer::Template(file)), true) =
            (self.ties.renderer(point.address), point.address.kind.is_component())
        {
            edges.push(Edge::sure(graph.entry(file)));
        }
        let markup = self.missed.miss_of(Wanted::Markup(point.address)).and_then(|miss| miss.meant);
        if let Some(Target::File(file)) = markup.map(|meant| meant.target) {
            edges.push(Edge::guess(graph.entry(file)));
        }
        // What a component holds is said item by item; it never holds itself without end.
        self.item_edges(self.ties.items(point.address), point.address.kind.is_component(), graph, edges);
        self.offer_edges(point, graph, edges);
        if point.address.kind == Kind::Menu {
            let to = self.index(&menu_partial()).map(|at| graph.point(at));
            edges.extend(to.map(Edge::perhaps));
        }
        if point.address == body_region() {
            let to = self.index(&body_partial()).map(|at| graph.point(at));
            edges.extend(to.map(Edge::perhaps));
        }
    }

    /// What is attached to a point, and the callback that renders it.
    fn attached_edges(&self, point: &Said, graph: &Graph, edges: &mut Vec<Edge>) {
        let mut callback = |callback: Callback, sure: bool, guess: bool, under: Under| {
            if let Some(at) = self.ties.names.ground.export_at(callback.file, callback.export) {
                let to = graph.part(callback.file, at);
                edges.push(Edge { to, chance: by_chance(sure), via: None, guess, under });
            }
        };
        for slot in self.ties.slots(point.address) {
            let sure = slot.when.is_none();
            let under = || self.ties.under_when(slot.place.file, slot.when.as_ref());
            match slot.runs {
                Runs::Callback(_, Some(found)) => callback(found, sure, false, under()),
                Runs::Callback(call, None) => {
                    let at = Place { file: slot.place.file, at: call.at };
                    if let Some(Target::Export(file, export)) = self.guesses.places.get(&at) {
                        callback(Callback { file: *file, export: *export }, sure, true, under());
                    }
                }
                Runs::Partial(..) => {}
            }
        }
        if let (Some(Renderer::Callback(found)), true) =
            (self.ties.renderer(point.address), point.address.kind.is_component())
        {
            callback(found, true, false, Under::ALWAYS);
        }
        for slot in self.ties.slots(point.address) {
            if let Runs::Partial(address, true) = slot.runs {
                let to = self.index(&address).map(|at| graph.point(at));
                let under = self.ties.under_when(slot.place.file, slot.when.as_ref());
                let chance = by_chance(slot.when.is_none());
                edges.extend(to.map(|to| Edge { to, chance, via: Some(slot.place), guess: false, under }));
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
            let sure = if item.sure { item.types } else { Types::default() };
            let under = Under { may: item.types, sure, conditions: None, whole: item.sure && !guess };
            edges.extend(to.map(|to| Edge { to, chance: by_chance(item.sure), via: Some(via), guess, under }));
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
                edges.push(Edge::guess(graph.point(*at)));
            }
        }
    }

    /// What pages may be composed of: what they are in the preview, and what is offered.
    fn sections_edges(&self, graph: &Graph, edges: &mut Vec<Edge>) {
        let before = edges.len();
        self.item_edges(&self.ties.filled.page_sections, true, graph, edges);
        for (at, _) in graph.offered.iter().filter(|(_, offered)| offered.kind == Kind::Section) {
            edges.push(Edge::guess(graph.point(*at)));
        }
        // A page is composed of something or not, and no edge of these is sure.
        for edge in &mut edges[before..] {
            edge.chance = Chance::Perhaps;
            edge.under.sure = Types::default();
            if let Node::Point(at) = graph.nodes[edge.to as usize] {
                edge.under.whole = true;
                edge.under.conditions = self.among_sections(self.ties.names.declared.points[at].address);
            }
        }
    }

    fn outlet_edge(&self, file: FileId, outlet: Outlet, graph: &Graph) -> Option<Edge> {
        let via = Some(Place { file, at: outlet.at });
        let under = self.under_use(file, outlet.guard, outlet.chance, Shows::Outlet(outlet.kind));
        let is_sections = outlet.kind == OutletKind::Sections;
        is_sections.then_some(Edge { to: graph.sections, chance: outlet.chance, via, guess: false, under })
    }

    /// The condition under which a page shows a section: the page says that it has it.
    fn among_sections(&self, section: Address) -> Conditions {
        let declared = self.ties.names.declared.point(section)?.declared.last()?;
        let text = section.to_string().as_str().into();
        Some([Remaining { text, asks: Asks::Section(section), place: declared.place, told: false }].into())
    }

    fn module_edges(&self, file: FileId, owner: Option<Name>, graph: &Graph, edges: &mut Vec<Edge>) {
        let Some(module) = self.ties.names.ground.module(file) else { return };
        for found in module.uses.iter().filter(|found| found.owner == owner) {
            edges.extend(self.use_edge(file, found, graph));
        }
        for outlet in module.outlets.iter().filter(|outlet| outlet.owner == owner) {
            edges.extend(self.outlet_edge(file, *outlet, graph));
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
            edges.push(Edge::guess(graph.second(target)));
            // A misspelt name stands for what was meant by it.
            let asked = |named: &Named| match self.guesses.places.get(&Place { file, at: named.at }) {
                Some(Target::Export(_, meant)) => *meant,
                _ => named.name,
            };
            for (at, export) in other.exports.iter().enumerate() {
                if import.all || import.names.iter().any(|named| asked(named) == export.name) {
                    edges.push(Edge::guess(graph.part(target, at)));
                }
            }
        }
    }
}

fn by_chance(sure: bool) -> Chance {
    if sure { Chance::Always } else { Chance::Perhaps }
}
