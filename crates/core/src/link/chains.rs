//! Chains of templates: what each extends, and what of all of them is shown.

use rustc_hash::FxHashMap;

use super::ground::Ground;
use crate::name::Name;
use crate::names;
use crate::read::FileKind;
use crate::scan::{Named, Prefix, SectionId, SectionKind};
use crate::source::FileId;

/// What templates that are asked for and not there were most likely meant to be, where more than their name
/// tells it.
pub(super) type MeantTemplates = FxHashMap<Name, FileId>;

/// The templates on the ground, with what those that are missing were meant to be.
#[derive(Clone, Copy)]
pub(super) struct Chains<'c> {
    pub ground: &'c Ground,
    pub meant: &'c MeantTemplates,
    /// What each template extends, where that has been looked up for all of them.
    pub parents: Option<&'c FxHashMap<FileId, FileId>>,
}

impl Chains<'_> {
    /// The template that a file extends.
    pub fn parent_of(&self, file: FileId) -> Option<FileId> {
        match self.parents {
            Some(parents) => parents.get(&file).copied(),
            None => self.find_parent(file),
        }
    }

    /// What each template extends, looked up once.
    pub fn all_parents(&self) -> FxHashMap<FileId, FileId> {
        let templates = self.ground.files().map(|(file, _)| file).filter(|file| self.ground.template(*file).is_some());
        templates.filter_map(|file| Some((file, self.find_parent(file)?))).collect()
    }

    fn find_parent(&self, file: FileId) -> Option<FileId> {
        let target = self.ground.template(file)?.extends()?.target?;
        let layer = self.ground.project.file(file).layer;
        let meant = || meant_template(self.ground, &target, file).map(|(_, file)| file);
        self.ground.resolve_template(&target, layer).or_else(|| self.meant.get(&target).copied()).or_else(meant)
    }

    /// The template, and those that it extends in turn, each once.
    pub fn chain(&self, file: FileId) -> Vec<FileId> {
        let mut chain = vec![file];
        while let Some(parent) = self.parent_of(chain[chain.len() - 1]) {
            if chain.contains(&parent) {
                break;
            }
            chain.push(parent);
        }
        chain
    }

    /// Does a chain of `extends` end where it should, so that we see all of it?
    pub fn chain_is_whole(&self, chain: &[FileId]) -> bool {
        let last = chain[chain.len() - 1];
        self.ground.template(last).is_some_and(|template| !template.broken && template.extends().is_none())
    }

    /// The parts that are shown when a template is rendered, with all that it extends.
    pub fn shown_sections(&self, file: FileId) -> Vec<(FileId, SectionId)> {
        let chain = self.chain(file);
        let mut shown = Vec::new();
        if !self.chain_is_whole(&chain) {
            // What the missing end would show of these blocks can't be known, so all of them count.
            for file in chain {
                let sections = self.ground.template(file).map_or(0, |template| template.sections.len());
                shown.extend((0..sections).map(|at| (file, SectionId(at as u16))));
            }
            return shown;
        }
        let mut open = vec![(chain.len() - 1, SectionId(0))];
        while let Some((level, section)) = open.pop() {
            if shown.contains(&(chain[level], section)) {
                continue;
            }
            shown.push((chain[level], section));
            let Some(template) = self.ground.template(chain[level]) else { continue };
            let Some(part) = template.sections.get(usize::from(section.0)) else { continue };
            for block in &part.blocks {
                open.extend(self.block_from(&chain, 0, block.name));
            }
            if let (true, SectionKind::Block(block)) = (part.calls_super, part.kind) {
                open.extend(self.block_from(&chain, level + 1, block));
            }
        }
        shown
    }

    /// The blocks of a template that no template which it extends has, so that nothing shows them. Nothing where
    /// not all of those can be seen.
    pub fn lost_blocks(&self, file: FileId) -> Vec<Named> {
        let blocks = self.ground.template(file).and_then(|template| template.sections.first());
        let all = blocks.into_iter().flat_map(|section| &section.blocks).copied();
        // Most are in the very next template, and then nothing further has to be looked at.
        let next = self.parent_of(file).and_then(|next| self.ground.template(next));
        let left: Vec<Named> = all.filter(|block| next.is_none_or(|next| next.block(block.name).is_none())).collect();
        if left.is_empty() {
            return left;
        }
        let chain = self.chain(file);
        if chain.len() < 2 || !self.chain_is_whole(&chain) {
            return Vec::new();
        }
        left.into_iter().filter(|block| self.block_from(&chain, 1, block.name).is_none()).collect()
    }

    /// The first template of a chain, from a level on, that has the block.
    pub fn block_from(&self, chain: &[FileId], level: usize, block: Name) -> Option<(usize, SectionId)> {
        let mut levels = chain.iter().enumerate().skip(level);
        levels.find_map(|(level, file)| Some((level, self.ground.template(*file)?.block(block)?)))
    }
}

/// What a template's name that leads nowhere was most likely meant to be.
pub(super) fn meant_template(ground: &Ground, written: &str, asking: FileId) -> Option<(Name, FileId)> {
    let from = ground.project.file(asking).layer;
    let (prefix, name) = Prefix::split(written);
    if matches!(prefix, Prefix::Layer(_)) {
        return None;
    }
    let own = ground.project.file(asking).name();
    let known = ground.project.files.iter().filter(|file| file.kind == FileKind::Template);
    let near =
        names::nearest(name, known.map(|file| file.name()).filter(|name| prefix == Prefix::Below || *name != own))?;
    let near = if prefix == Prefix::Below { format!("below:{near}") } else { near.to_string() };
    Some((near.as_str().into(), ground.resolve_template(&near, from)?))
}
