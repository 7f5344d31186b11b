//! Chains of templates: what each extends, and what of all of them is shown.

use indexmap::{IndexMap, IndexSet};
use rustc_hash::{FxBuildHasher, FxHashMap};

use super::ground::Ground;
use super::lookups::SetOf;
use super::of_type::Shows;
use super::ties::Ties;
use super::types::Types;
use super::under::Under;
use crate::name::Name;
use crate::name_sets::Nearest;
use crate::names;
use crate::read::FileKind;
use crate::scan::{Context, GuardId, Named, Prefix, Section, SectionId, SectionKind, TemplateRef, TemplateVerb};
use crate::source::FileId;

/// What templates that are asked for and not there were most likely meant to be, where more than their name
/// tells it.
pub(super) type MeantTemplates = FxHashMap<Name, FileId>;

/// A part of a template that is shown, with the guards around the blocks on the way to it.
pub(super) struct ShownPart {
    pub file: FileId,
    pub section: SectionId,
    pub guards: Vec<(FileId, GuardId)>,
}

/// What is known of any page of a type.
struct OfType(Name);

impl Context for OfType {
    fn value(&self, path: &str) -> Option<minijinja::Value> {
        (path == "page.type").then(|| minijinja::Value::from(self.0.as_str()))
    }
}

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

    /// The files that a reference to a template leads to, each with the types of pages on which it does. Of several
    /// names of which the first that is there is taken, each is a reference of its own.
    pub fn targets(&self, file: FileId, reference: &TemplateRef, ties: Ties<'_>) -> Vec<(FileId, Types)> {
        let layer = self.ground.project.file(file).layer;
        if let Some(written) = reference.target {
            let found = self.ground.resolve_template(&written, layer);
            return found.map(|found| (found, Types::ALL)).into_iter().collect();
        }
        let Some(computed) = &reference.computed else { return Vec::new() };
        let mut found: Vec<(FileId, Types)> = Vec::new();
        for (at, page_type) in ties.names.declared.types.iter().enumerate() {
            let Some(name) = computed.value(&OfType(page_type.name)) else { continue };
            let Some(target) = self.ground.resolve_template(&name.to_string(), layer) else { continue };
            match found.iter_mut().find(|(known, _)| *known == target) {
                Some((_, types)) => *types = types.or(Types::one(at)),
                None => found.push((target, Types::one(at))),
            }
        }
        found
    }

    /// All chains of templates that begin with a file, each with the circumstances under which it is the one: a
    /// template may extend another one under a condition.
    pub fn all_chains(&self, file: FileId, ties: Ties<'_>) -> Vec<(Vec<FileId>, Under)> {
        /// More than this are not told apart.
        const MOST: usize = 32;
        let plain = self.chain(file);
        if !plain.iter().any(|file| self.has_choice(*file)) {
            return vec![(plain, Under::ALWAYS)];
        }
        let mut chains = Vec::new();
        let mut open = vec![(vec![file], Under::ALWAYS)];
        while let Some((chain, under)) = open.pop() {
            let last = chain[chain.len() - 1];
            let several = self.parents_of(last, ties);
            if several.is_empty() || chains.len() + open.len() > MOST {
                let end = self.chain(last);
                let chain: IndexSet<FileId, FxBuildHasher> = chain.into_iter().chain(end).collect();
                chains.push((chain.into_iter().collect(), under));
                continue;
            }
            for (parent, along) in several {
                match chain.contains(&parent) {
                    true => chains.push((chain.clone(), under.clone().and(along))),
                    false => open.push((chain.iter().copied().chain([parent]).collect(), under.clone().and(along))),
                }
            }
        }
        chains
    }

    /// Does a template extend another one under a condition, or by a name that is put together?
    fn has_choice(&self, file: FileId) -> bool {
        let refs = self.ground.template(file).map_or(&[][..], |template| &template.refs);
        let mut extends = refs.iter().filter(|reference| reference.verb == TemplateVerb::Extends);
        extends.any(|reference| reference.guard.is_some() || reference.target.is_none())
    }

    /// What a template extends under one condition or another; nothing where it always extends the same.
    fn parents_of(&self, file: FileId, ties: Ties<'_>) -> Vec<(FileId, Under)> {
        let Some(template) = self.ground.template(file).filter(|_| self.has_choice(file)) else { return Vec::new() };
        let mut parents = Vec::new();
        for reference in template.refs.iter().filter(|reference| reference.verb == TemplateVerb::Extends) {
            let under = ties.under_guard(file, reference.guard, Shows::Other);
            let targets = self.targets(file, reference, ties);
            parents.extend(targets.into_iter().map(|(target, types)| (target, under.clone().on(types))));
        }
        parents
    }

    /// The parts that are shown when a template is rendered, with all that it extends, each with the guards around the
    /// blocks on the way to it.
    pub fn shown_by(&self, chain: &[FileId]) -> Vec<ShownPart> {
        let file = chain[0];
        if let ([_], Some(template)) = (chain, self.ground.template(file))
            && template.sections.first().is_some_and(|top| top.blocks.is_empty())
            && self.is_an_end(file)
        {
            return vec![ShownPart { file, section: SectionId(0), guards: Vec::new() }];
        }
        let mut shown = IndexMap::<(FileId, SectionId), Vec<(FileId, GuardId)>, FxBuildHasher>::default();
        if !self.chain_is_whole(chain) {
            // What the missing end would show of these blocks can't be known, so all of them count.
            for file in chain {
                let sections = self.ground.template(*file).map_or(0, |template| template.sections.len());
                shown.extend((0..sections).map(|at| ((*file, SectionId(at as u16)), Vec::new())));
            }
        } else {
            let mut open = vec![(chain.len() - 1, SectionId(0), Vec::new())];
            while let Some((level, section, guards)) = open.pop() {
                let key = (chain[level], section);
                if shown.contains_key(&key) {
                    continue;
                }
                let part =
                    self.ground.template(key.0).and_then(|template| template.sections.get(usize::from(section.0)));
                for block in part.into_iter().flat_map(|part| &part.blocks) {
                    let around = guards.iter().copied().chain(block.guard.map(|guard| (key.0, guard))).collect();
                    open.extend(self.block_from(chain, 0, block.name).map(|(level, section)| (level, section, around)));
                }
                if let Some(Section { calls_super: true, kind: SectionKind::Block(block), .. }) = part {
                    let above = self.block_from(chain, level + 1, *block);
                    open.extend(above.map(|(level, section)| (level, section, guards.clone())));
                }
                shown.insert(key, guards);
            }
        }
        shown.into_iter().map(|((file, section), guards)| ShownPart { file, section, guards }).collect()
    }

    /// The blocks of a template that no template which it extends has, so that nothing shows them. Nothing where
    /// not all of those can be seen.
    pub fn lost_blocks(&self, file: FileId) -> Vec<Named> {
        let blocks = self.ground.template(file).and_then(|template| template.sections.first());
        let all = blocks.into_iter().flat_map(|section| &section.blocks);
        let all = all.map(|block| Named { name: block.name, at: block.at });
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
