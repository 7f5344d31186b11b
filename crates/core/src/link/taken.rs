//! What took a placement away from the pages that had it.

use super::looking::Looking;
use super::point::{Renderer, Said, UseId};
use super::reference::{Outcome, Target};
use crate::scan::{SectionKind, Verb};
use crate::source::{FileId, Place};

/// What took a placement away.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Taken {
    /// A higher layer's copy of a template, which lacks what stands at this place of the original.
    Copy {
        /// The copy.
        copy: FileId,
        /// The place in the original.
        original: Place,
    },
    /// A block that takes the place of the one with the placement, without `super()`.
    Block {
        /// The block.
        block: Place,
        /// The placement.
        original: Place,
    },
}

impl Taken {
    /// The file that took it away.
    pub fn file(self) -> FileId {
        match self {
            Taken::Copy { copy, .. } => copy,
            Taken::Block { block, .. } => block.file,
        }
    }
}

impl Looking<'_> {
    /// What took a point away from the pages that had it, where something did.
    pub fn taken(&self, point: &Said) -> Option<Taken> {
        let copied = self.lost(point).map(|(copy, original)| Taken::Copy { copy, original });
        copied.or_else(|| self.ties.uses(point.address).iter().rev().find_map(|id| self.overridden(*id)))
    }

    /// The copy of a template that lacks a placement which the original has, or what leads there.
    pub fn lost(&self, point: &Said) -> Option<(FileId, Place)> {
        self.ties.uses(point.address).iter().rev().find_map(|id| {
            let place = Place { file: id.file, at: self.ground().use_of(*id).point.at };
            let keeps = |copy: FileId| {
                let mut uses = self.ground().uses_in(copy).iter();
                uses.any(|found| found.verb != Verb::Filled && found.point.address == Some(point.address))
            };
            self.copy_without(place, keeps).or_else(|| self.led_away(id.file, &mut Vec::new()))
        })
    }

    /// A copy, in a higher layer, of the template in which a place is, that pages show and that has lost it.
    fn copy_without(&self, place: Place, keeps: impl Fn(FileId) -> bool) -> Option<(FileId, Place)> {
        let original = self.ground().project.file(place.file);
        let copies = self.ground().files_named(original.kind, original.name());
        let copy = copies.iter().rev().find(|copy| self.ground().project.file(**copy).layer > original.layer)?;
        let kept = self.chains.chain(*copy).contains(&place.file) || keeps(*copy);
        let shows = self.ground().template(*copy).is_some() && !self.template_types(*copy).is_empty();
        (shows && !kept).then_some((*copy, place))
    }

    /// A copy that no longer includes a template, or places the component that it renders.
    fn led_away(&self, file: FileId, seen: &mut Vec<FileId>) -> Option<(FileId, Place)> {
        if seen.contains(&file) || self.ground().template(file).is_none() || !self.template_types(file).is_empty() {
            return None;
        }
        seen.push(file);
        let mut rendered =
            self.points().filter(|point| self.ties.renderer(point.address) == Some(Renderer::Template(file)));
        let target = rendered.next().map_or(Target::File(file), |component| Target::Point(component.address));
        let users = || self.references.iter().filter(move |reference| reference.outcome == Outcome::Found(target));
        let leads = |copy: FileId| users().any(|other| other.from.file == copy);
        users().find_map(|user| self.copy_without(user.from, leads).or_else(|| self.led_away(user.from.file, seen)))
    }

    /// The block that takes the place of the one in which a placement stands, and does not show it.
    fn overridden(&self, id: UseId) -> Option<Taken> {
        let template = self.ground().template(id.file)?;
        let found = self.ground().use_of(id);
        let SectionKind::Block(block) = template.sections[usize::from(found.section.0)].kind else { return None };
        let original = Place { file: id.file, at: found.point.at };
        let roots = self.ties.names.declared.types.iter().filter_map(|page_type| page_type.templates.first());
        roots.into_iter().find_map(|root| {
            let chain = self.chains.chain(*root);
            let level = chain.iter().position(|file| *file == id.file)?;
            for file in &chain[..level] {
                let Some(over) = self.ground().template(*file) else { continue };
                let Some(section) = self.ground().block_in(*file, block) else { continue };
                if !over.sections[usize::from(section.0)].calls_super {
                    let mut blocks = over.sections.iter().flat_map(|section| &section.blocks);
                    let named = blocks.find(|named| named.name == block)?;
                    return Some(Taken::Block { block: Place { file: *file, at: named.at }, original });
                }
            }
            None
        })
    }
}
