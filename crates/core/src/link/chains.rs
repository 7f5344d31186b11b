//! Chains of templates: what each extends, and what of all of them is shown.

use indexmap::IndexSet;
use rustc_hash::{FxBuildHasher, FxHashMap};

use super::ground::Ground;
use super::lookups::SetOf;
use crate::name::Name;
use crate::name_sets::Nearest;
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
        // Most extend none.
        if self.parent_of(file).is_none() {
            return vec![file];
        }
        let mut chain = IndexSet::<FileId, FxBuildHasher>::default();
        let mut next = Some(file);
        while let Some(file) = next.filter(|file| chain.insert(*file)) {
            next = self.parent_of(file);
        }
        chain.into_iter().collect()
    }

    /// The end of the chain of each template that extends another one, where it is reached; one that goes in a circle
    /// has none.
    pub fn ends(&self) -> FxHashMap<FileId, FileId> {
        let mut ends: FxHashMap<FileId, Option<FileId>> = FxHashMap::default();
        for (file, _) in self.ground.files().filter(|(file, _)| self.parent_of(*file).is_some()) {
            let mut walk = Vec::new();
            let mut at = file;
            let end = loop {
                if let Some(known) = ends.get(&at) {
                    break *known;
                }
                walk.push(at);
                ends.insert(at, None);
                match self.parent_of(at) {
                    Some(parent) => at = parent,
                    None => break Some(at),
                }
            };
            ends.extend(walk.into_iter().map(|file| (file, end)));
        }
        ends.into_iter().filter_map(|(file, end)| Some((file, end?))).collect()
    }

    /// The end of the chain of one template that extends another one, as in [`ends`](Chains::ends).
    pub fn end_of(&self, file: FileId) -> Option<FileId> {
        self.parent_of(file)?;
        let last = *self.chain(file).last()?;
        self.parent_of(last).is_none().then_some(last)
    }

    /// The first template that this one extends, in whatever turn, which has the block. For chains that come to an
    /// end.
    pub fn block_below(&self, file: FileId, block: Name) -> Option<FileId> {
        let mut next = self.parent_of(file);
        while let Some(file) = next {
            if self.ground.block_in(file, block).is_some() {
                return Some(file);
            }
            next = self.parent_of(file);
        }
        None
    }

    /// Does a chain of `extends` end where it should, so that we see all of it?
    pub fn chain_is_whole(&self, chain: &[FileId]) -> bool {
        self.is_an_end(chain[chain.len() - 1])
    }

    /// Is this a template that extends no other, and can be seen?
    pub fn is_an_end(&self, file: FileId) -> bool {
        self.ground.template(file).is_some_and(|template| !template.broken && template.extends().is_none())
    }

    /// The parts that are shown when a template is rendered, with all that it extends.
    pub fn shown_sections(&self, file: FileId) -> Vec<(FileId, SectionId)> {
        let chain = self.chain(file);
        if let ([_], Some(template)) = (chain.as_slice(), self.ground.template(file))
            && template.sections.first().is_some_and(|top| top.blocks.is_empty())
            && self.is_an_end(file)
        {
            return vec![(file, SectionId(0))];
        }
        let mut shown = IndexSet::<(FileId, SectionId), FxBuildHasher>::default();
        if !self.chain_is_whole(&chain) {
            // What the missing end would show of these blocks can't be known, so all of them count.
            for file in chain {
                let sections = self.ground.template(file).map_or(0, |template| template.sections.len());
                shown.extend((0..sections).map(|at| (file, SectionId(at as u16))));
            }
            return shown.into_iter().collect();
        }
        let mut open = vec![(chain.len() - 1, SectionId(0))];
        while let Some((level, section)) = open.pop() {
            if !shown.insert((chain[level], section)) {
                continue;
            }
            let Some(template) = self.ground.template(chain[level]) else { continue };
            let Some(part) = template.sections.get(usize::from(section.0)) else { continue };
            for block in &part.blocks {
                open.extend(self.block_from(&chain, 0, block.name));
            }
            if let (true, SectionKind::Block(block)) = (part.calls_super, part.kind) {
                open.extend(self.block_from(&chain, level + 1, block));
            }
        }
        shown.into_iter().collect()
    }

    /// The blocks of a template that no template which it extends has, so that nothing shows them. Nothing where
    /// not all of those can be seen.
    pub fn lost_blocks(&self, file: FileId) -> Vec<Named> {
        let blocks = self.ground.template(file).and_then(|template| template.sections.first());
        let all = blocks.into_iter().flat_map(|section| &section.blocks).copied();
        // Most are in the very next template, and then nothing further has to be looked at.
        let next = self.parent_of(file);
        let is_in = |next: FileId, block: &Named| self.ground.block_in(next, block.name).is_some();
        let left: Vec<Named> = all.filter(|block| next.is_none_or(|next| !is_in(next, block))).collect();
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
        levels.find_map(|(level, file)| Some((level, self.ground.block_in(*file, block)?)))
    }
}

fn templates(ground: &Ground) -> impl Iterator<Item = &str> {
    ground.project.files.iter().filter(|file| file.kind == FileKind::Template).map(|file| file.name())
}

/// The template whose name is nearest to a misspelt one.
pub(super) fn near_template(ground: &Ground, name: &str) -> Option<Nearest> {
    ground.looked.sets.of(SetOf::Templates, || templates(ground)).nearest(name)
}

/// What a template's name that leads nowhere was most likely meant to be.
pub(super) fn meant_template(ground: &Ground, written: &str, asking: FileId) -> Option<(Name, FileId)> {
    let from = ground.project.file(asking).layer;
    let (prefix, name) = Prefix::split(written);
    if matches!(prefix, Prefix::Layer(_)) {
        return None;
    }
    let own = ground.project.file(asking).name();
    let near = match near_template(ground, name)? {
        near if prefix == Prefix::Below || near.written != own => near.written,
        _ => names::nearest(name, templates(ground).filter(|name| *name != own))?.to_string(),
    };
    let near = if prefix == Prefix::Below { format!("below:{near}") } else { near.to_string() };
    Some((near.as_str().into(), ground.resolve_template(&near, from)?))
}
