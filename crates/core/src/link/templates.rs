//! Templates: what they extend, include, import and were taken from.

use rustc_hash::FxHashSet;

use super::chains::{Chains, MeantTemplates, meant_template, near_template};
use super::names::Names;
use super::reference::{Link, Meaning, Meant, Outcome, Target, Wanted};
use super::refs::Refs;
use crate::name::Name;
use crate::read::FileKind;
use crate::scan::{Adopted, Prefix, SectionKind, TemplateVerb};
use crate::source::{FileId, Place};

/// What templates say of each other.
#[derive(Default)]
pub(super) struct Included {
    /// Macros that a template was most likely meant to import, though it misspells them.
    pub meant_macros: FxHashSet<(FileId, Name)>,
    pub refs: Refs,
}

/// Resolves what templates extend, include and import.
pub(super) fn include(names: Names<'_>) -> Included {
    let mut out = Included::default();
    let none = MeantTemplates::default();
    let parents = Chains { ground: names.ground, meant: &none, parents: None }.all_parents();
    let chains = Chains { ground: names.ground, meant: &none, parents: Some(&parents) };
    let ends = chains.ends();
    for (file, _) in names.ground.files() {
        out.include_in(names, &chains, ends.get(&file).copied(), file);
        out.refs.end_file();
    }
    out
}

impl Included {
    /// What one template alone asks of others.
    pub fn of(names: Names<'_>, file: FileId) -> Included {
        let mut out = Included::default();
        let none = MeantTemplates::default();
        let chains = Chains { ground: names.ground, meant: &none, parents: None };
        out.include_in(names, &chains, chains.end_of(file), file);
        out
    }

    fn include_in(&mut self, names: Names<'_>, chains: &Chains<'_>, end: Option<FileId>, file: FileId) {
        let Some(shape) = names.ground.template(file) else { return };
        let layer = names.ground.project.file(file).layer;
        for reference in &shape.refs {
            let Some(target) = reference.target else { continue };
            let from = Place { file, at: reference.at };
            let found = names.ground.resolve_template(&target, layer);
            let outcome = match found {
                Some(found) => Outcome::Found(Target::File(found)),
                None if reference.optional => continue,
                None => missing_template(names, target, file),
            };
            self.refs.refer(names.ground, Link::TemplateToTemplate, from, target, outcome);
            let imported = found.filter(|_| reference.verb == TemplateVerb::Import);
            for (_, name) in &reference.aliases {
                if let (Some(imported), Some(name)) = (imported, name) {
                    let outcome = macro_in(names, imported, name.name);
                    if let Outcome::Missing { meant: Some(meant), .. } = outcome {
                        self.meant_macros.insert((file, meant.written));
                    }
                    self.refs.refer(names.ground, Link::ImportToMacro, Place { file, at: name.at }, name.name, outcome);
                }
            }
        }
        link_blocks(names, chains, end, file, &mut self.refs);
        for asset in &shape.assets {
            names.link_asset(&mut self.refs, Place { file, at: asset.at }, asset.name, layer);
        }
    }
}

/// Ties templates that were taken over to their originals.
pub(super) fn adopted(names: Names<'_>) -> Refs {
    let mut refs = Refs::default();
    for (_, file) in names.ground.manifests() {
        let adopted = names.ground.manifest(file).map(|manifest| manifest.adopted.as_slice());
        for copy in adopted.unwrap_or_default() {
            let outcome = match names.ground.original(copy) {
                Some(original) => Outcome::Found(Target::File(original)),
                None if names.ground.blind.declarations => Outcome::Unknown,
                None => missing_original(names, copy),
            };
            refs.refer(
                names.ground,
                Link::CopyToOriginal,
                Place { file, at: copy.template.at },
                copy.template.name,
                outcome,
            );
        }
    }
    refs
}

/// Ties the blocks of a template that extends another one to those that they take the place of.
fn link_blocks(names: Names<'_>, chains: &Chains<'_>, end: Option<FileId>, file: FileId, refs: &mut Refs) {
    let (Some(parent), Some(shape)) = (chains.parent_of(file), names.ground.template(file)) else { return };
    let whole = end.is_some_and(|end| chains.is_an_end(end));
    for block in shape.sections.first().into_iter().flat_map(|section| &section.blocks) {
        let found = match end {
            Some(_) => chains.block_below(file, block.name),
            // In a circle, each is looked at once.
            None => {
                let chain = chains.chain(file);
                chains.block_from(&chain, 1, block.name).map(|(level, _)| chain[level])
            }
        };
        let outcome = match found {
            Some(found) => Outcome::Found(Target::Block(found, block.name)),
            None if !whole => Outcome::Unknown,
            None => missing_block(names, &chains.chain(file), parent, block.name),
        };
        refs.refer(names.ground, Link::BlockToBlock, Place { file, at: block.at }, block.name, outcome);
    }
}

fn missing_block(names: Names<'_>, chain: &[FileId], parent: FileId, name: Name) -> Outcome {
    let taken: Vec<Name> = blocks_of(names, chain[0]).collect();
    let known: Vec<(FileId, Name)> = chain[1..]
        .iter()
        .flat_map(|file| blocks_of(names, *file).map(|block| (*file, block)))
        .filter(|(_, block)| !taken.contains(block))
        .collect();
    let words = || known.iter().map(|(_, block)| block.as_str());
    let near = crate::names::nearest(&name, words());
    let certain = crate::names::certain(&name, words()).is_some();
    // The only one that it does not fill may have been renamed.
    let only = || known.first().filter(|_| known.len() == 1);
    let found = near.and_then(|near| known.iter().find(|(_, block)| *block == *near)).or_else(only);
    let meant = found
        .map(|(file, block)| Meant::from(Meaning { written: *block, target: Target::Block(*file, *block), certain }));
    Outcome::Missing { wanted: Wanted::Block(parent, name), meant }
}

fn blocks_of<'n>(names: Names<'n>, file: FileId) -> impl Iterator<Item = Name> + 'n {
    let sections = names.ground.template(file).map_or(&[][..], |template| &template.sections);
    sections.iter().filter_map(|section| match section.kind {
        SectionKind::Block(name) => Some(name),
        _ => None,
    })
}

fn missing_template(names: Names<'_>, target: Name, asking: FileId) -> Outcome {
    if names.ground.blind.declarations {
        return Outcome::Unknown;
    }
    let (prefix, name) = Prefix::split(&target);
    let meant = meant_template(names.ground, &target, asking).map(|(written, file)| {
        let certain = prefix == Prefix::None && near_template(names.ground, name).is_some_and(|near| near.certain);
        Meant::from(Meaning { written, target: Target::File(file), certain })
    });
    Outcome::Missing { wanted: Wanted::Template(target), meant }
}

fn macro_in(names: Names<'_>, file: FileId, name: Name) -> Outcome {
    let Some(template) = names.ground.template(file).filter(|template| !template.broken) else {
        return Outcome::Unknown;
    };
    let macros = template.sections.iter().filter_map(|section| match section.kind {
        SectionKind::Macro(name) => Some(name),
        _ => None,
    });
    let known: Vec<Name> = macros.chain(template.assigned.iter().copied()).collect();
    if known.contains(&name) {
        return Outcome::Found(Target::Macro(file, name));
    }
    let near = crate::names::nearest(&name, known.iter().map(|name| name.as_str()));
    let certain = crate::names::certain(&name, known.iter().map(|name| name.as_str())).is_some();
    let meant = near
        .map(|near| Meant::from(Meaning { written: near.into(), target: Target::Macro(file, near.into()), certain }));
    Outcome::Missing { wanted: Wanted::Macro(file, name), meant }
}

fn missing_original(names: Names<'_>, copy: &Adopted) -> Outcome {
    let layer = names.ground.project.layer_named(&copy.from.name);
    let known: Vec<&str> = layer
        .into_iter()
        .flat_map(|layer| names.ground.project.files_of(layer))
        .filter(|(_, file)| file.kind == FileKind::Template)
        .map(|(_, file)| file.name())
        .collect();
    let near = crate::names::nearest(&copy.template.name, known.iter().copied());
    let meant = near.and_then(|near| {
        let file = names.ground.resolve(
            FileKind::Template,
            Prefix::Layer(copy.from.name),
            near,
            names.ground.project.top(),
            false,
        )?;
        Some(Meant::from(Meaning { written: near.into(), target: Target::File(file), certain: false }))
    });
    Outcome::Missing { wanted: Wanted::Template(copy.template.name), meant }
}
