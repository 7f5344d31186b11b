//! What is asked of all that was reached.

use super::super::ground::Ground;
use super::super::point::UseId;
use super::super::types::Types;
use super::super::under::{Asks, ByType, Circumstance, Remaining, Under, joined};
use super::graph::{Along, Edge, Node, conditions, spread};
use super::{Reached, Twice};
use crate::scan::{SectionId, Shape, Use, Verb};
use crate::source::{FileId, Place};

/// Circumstances in the order of types of pages, without those in which nothing has to be met.
fn ordered(mut all: ByType) -> ByType {
    all.retain(|one| !one.types.is_empty() && (one.conditions.is_some() || !one.whole));
    all.sort_by_key(|one| one.types.first());
    all
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
                let node = self.graph.part(id.file, usize::from(found.section.0));
                let silent = self.bits_of(self.graph.second(id.file));
                let before = found.verb == Verb::Through && found.section == SectionId(0);
                let part = self.bits_of(node);
                let part = if before { part.or(silent) } else { part };
                return self.edge_of(node, id, found).map_or(part, |edge| part.and(edge.under.may));
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
        match self.edge_of(node, id, found) {
            Some(edge) => self.bits_of(node).and(edge.under.may),
            None => self.bits_of(node),
        }
    }

    /// The edge of a use of a point, where it leads to one.
    fn edge_of(&self, node: u32, id: UseId, found: &Use) -> Option<&Edge> {
        let uses = self.uses.get_or_init(|| {
            let rows = self.graph.edges.iter().enumerate();
            let placed = rows.flat_map(|(node, row)| row.iter().enumerate().map(move |(at, edge)| (node, at, edge)));
            let sections = placed.filter(|(node, ..)| matches!(self.graph.nodes[*node], Node::Section(..)));
            sections.filter_map(|(node, at, edge)| Some((edge.via?, (node as u32, at as u32)))).collect()
        });
        let (known, at) = uses.get(&Place { file: id.file, at: found.point.at })?;
        (*known == node).then(|| &self.graph.edges.row(node as usize)[*at as usize])
    }

    /// What has to be met for a use of a point to show, by types of pages.
    pub fn use_conditions(&self, ground: &Ground, id: UseId) -> ByType {
        let found = ground.use_of(id);
        let Some(_) = ground.template(id.file) else { return Vec::new() };
        let node = self.graph.part(id.file, usize::from(found.section.0));
        let own = self.edge_of(node, id, found).map_or(Under::ALWAYS, |edge| edge.under.clone());
        let mut all = ByType::new();
        for here in self.conditions_of(node) {
            let sure = here.types.and(own.sure);
            let rest = here.types.and(own.may).without(sure);
            let (conditions, whole) = (joined(&here.conditions, &own.conditions), here.whole && own.whole);
            all.push(Circumstance { types: sure, ..here });
            all.push(Circumstance { types: rest, conditions, whole });
        }
        ordered(all)
    }

    /// The conditions around a use of a point that are never met, so that no page gets there.
    pub fn never_met(&self, ground: &Ground, id: UseId) -> Vec<Remaining> {
        let found = ground.use_of(id);
        let Some(_) = ground.template(id.file) else { return Vec::new() };
        let node = self.graph.part(id.file, usize::from(found.section.0));
        let edge = self.edge_of(node, id, found).filter(|edge| edge.under.may.is_empty());
        edge.and_then(|edge| edge.under.conditions.clone()).map_or(Vec::new(), |denied| denied.to_vec())
    }

    /// What has to be met for a point, by its position, to be reached, by types of pages.
    pub fn point_conditions(&self, position: usize) -> ByType {
        ordered(self.conditions_of(self.graph.point(position)))
    }

    /// All conditions that pages of a type may have to meet, each once.
    pub fn all_conditions(&self, page_type: usize) -> Vec<Remaining> {
        let mut all: Vec<Remaining> = Vec::new();
        for edge in self.graph.edges.all().iter().filter(|edge| edge.under.may.has(page_type)) {
            for remaining in edge.under.conditions.iter().flat_map(|all| all.iter()) {
                if all.iter().all(|known| known.text != remaining.text) {
                    all.push(*remaining);
                }
            }
        }
        all
    }

    fn conditions_of(&self, node: u32) -> ByType {
        let all = self.conditions.get_or_init(|| conditions(&self.graph, &self.all_roots()));
        match all.get(node as usize) {
            Some(known) => known.clone(),
            None => Vec::new(),
        }
    }

    fn all_roots(&self) -> Vec<(u32, Types)> {
        self.roots.shown.iter().chain(&self.roots.used).copied().collect()
    }

    /// Does a template ask whether a point is filled, around something else than that?
    pub fn has_other_guards(&self) -> bool {
        let asks = |remaining: &Remaining| matches!(remaining.asks, Asks::Filled(_));
        let mut edges = self.graph.edges.all().iter().filter_map(|edge| edge.under.conditions.as_ref());
        edges.any(|all| all.iter().any(asks))
    }

    /// The types of pages on which a use of a point shows in any case.
    pub fn use_sure(&self, ground: &Ground, id: UseId) -> Types {
        let found = ground.use_of(id);
        let Some(_) = ground.template(id.file) else { return Types::default() };
        let node = self.graph.part(id.file, usize::from(found.section.0));
        let here = self.sure.get(node as usize).copied().unwrap_or_default();
        here.and(self.edge_of(node, id, found).map_or(Types::default(), |edge| edge.under.sure))
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

    /// The types of pages that would reach a part of a template if templates had no conditions: a component need not
    /// know where it is placed.
    pub fn unguarded_types(&self, file: FileId, section: SectionId) -> Types {
        let all = self.unguarded.get_or_init(|| spread(&self.graph, &self.all_roots(), Along::Unguarded));
        let types = |node: u32| all.get(node as usize).copied().unwrap_or_default();
        let part = types(self.graph.part(file, usize::from(section.0)));
        if section == SectionId(0) { part.or(types(self.graph.second(file))) } else { part }
    }

    /// The types of pages that reach any part of a template.
    pub fn template_types(&self, ground: &Ground, file: FileId) -> Types {
        let sections = ground.template(file).map_or(0, |template| template.sections.len());
        let parts = (0..sections).map(|at| self.bits_of(self.graph.part(file, at)));
        let whole = self.bits_of(self.graph.second(file)).or(self.bits_of(self.graph.entry(file)));
        parts.fold(whole, Types::or)
    }
}
