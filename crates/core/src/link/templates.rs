//! Templates: which file a name means, what a chain of `extends` shows, and who is below whom.

use crate::name::Name;

use super::assets::format_media;
use super::reference::{Meant, Wanted};
use super::*;
use crate::names;
use crate::read::FileKind;
use crate::scan::{Adopted, Prefix, SectionId, TemplateVerb};

/// The files of one name, the lowest layer first.
#[derive(Default)]
pub(super) struct Templates {
    markup: Index<Name, Vec<FileId>>,
    code: Index<Name, Vec<FileId>>,
}

impl Templates {
    pub fn index(project: &Project) -> Templates {
        let mut templates = Templates::default();
        for (at, file) in project.files.iter().enumerate() {
            let by_name = match file.kind {
                FileKind::Template => &mut templates.markup,
                FileKind::Module => &mut templates.code,
                _ => continue,
            };
            by_name.entry(file.name().into()).or_default().push(FileId(at as u32));
        }
        templates
    }

    fn named(&self, kind: FileKind, name: &str) -> &[FileId] {
        let by_name = if kind == FileKind::Module { &self.code } else { &self.markup };
        // A name that was never interned is nobody's.
        let known = Name::known(name).and_then(|name| by_name.get(&name));
        known.map_or(&[], Vec::as_slice)
    }
}

impl Registry {
    /// The files of that name, the lowest layer first.
    pub fn files_named(&self, kind: FileKind, name: &str) -> &[FileId] {
        self.templates.named(kind, name)
    }

    /// The file that a reference means. `from` is the layer that says it; `own` is true where a
    /// reference without a prefix means that layer itself, and false where it starts at the top.
    pub fn resolve(&self, kind: FileKind, prefix: Prefix, name: &str, from: LayerId, own: bool) -> Option<FileId> {
        let files = self.files_named(kind, name);
        let layer = |file: &FileId| self.project.file(*file).layer;
        let found = match prefix {
            Prefix::None if own => files.iter().find(|file| layer(file) == from),
            Prefix::None => files.last(),
            Prefix::Below => files.iter().rev().find(|file| layer(file) < from),
            Prefix::Layer(name) => {
                let wanted = self.project.layer_named(&name)?;
                files.iter().find(|file| layer(file) == wanted)
            }
        };
        found.copied()
    }

    /// The template that a reference in a file means.
    pub fn resolve_template(&self, written: &str, from: LayerId) -> Option<FileId> {
        let (prefix, name) = Prefix::split(written);
        self.resolve(FileKind::Template, prefix, name, from, false)
    }

    /// The canonical name of a template, `layer:name`.
    pub fn template_name(&self, file: FileId) -> String {
        let file = self.project.file(file);
        format!("{}:{}", self.project.layer(file.layer).name, file.name())
    }

    /// The template that a file extends.
    pub fn parent_of(&self, file: FileId) -> Option<FileId> {
        let target = self.template(file)?.extends()?.target?;
        let layer = self.project.file(file).layer;
        let meant = || self.meant_template(&target, file).map(|(_, file)| file);
        self.resolve_template(&target, layer).or_else(|| self.meant_templates.get(&target).copied()).or_else(meant)
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
    pub(super) fn chain_is_whole(&self, chain: &[FileId]) -> bool {
        let last = chain[chain.len() - 1];
        self.template(last).is_some_and(|template| !template.broken && template.extends().is_none())
    }

    /// The parts that are shown when a template is rendered, with all that it extends.
    pub(super) fn shown_sections(&self, file: FileId) -> Vec<(FileId, SectionId)> {
        let chain = self.chain(file);
        let mut shown = Vec::new();
        if !self.chain_is_whole(&chain) {
            // What the missing end would show of these blocks can't be known, so all of them count.
            for file in chain {
                let sections = self.template(file).map_or(0, |template| template.sections.len());
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
            let Some(template) = self.template(chain[level]) else { continue };
            let Some(part) = template.sections.get(usize::from(section.0)) else { continue };
            for block in &part.blocks {
                open.extend(self.block_from(&chain, 0, *block));
            }
            if let (true, crate::scan::SectionKind::Block(block)) = (part.calls_super, part.kind) {
                open.extend(self.block_from(&chain, level + 1, block));
            }
        }
        shown
    }

    /// The first template of a chain, from a level on, that has the block.
    fn block_from(&self, chain: &[FileId], level: usize, block: Name) -> Option<(usize, SectionId)> {
        let mut levels = chain.iter().enumerate().skip(level);
        levels.find_map(|(level, file)| Some((level, self.template(*file)?.block(block)?)))
    }

    /// What a template's name that leads nowhere was most likely meant to be.
    pub(super) fn meant_template(&self, written: &str, asking: FileId) -> Option<(Name, FileId)> {
        let from = self.project.file(asking).layer;
        let (prefix, name) = Prefix::split(written);
        if matches!(prefix, Prefix::Layer(_)) {
            return None;
        }
        let own = self.project.file(asking).name();
        let known = self.project.files.iter().filter(|file| file.kind == FileKind::Template);
        let near =
            names::nearest(name, known.map(|file| file.name()).filter(|name| prefix == Prefix::Below || *name != own))?;
        let near = if prefix == Prefix::Below { format!("below:{near}") } else { near.to_string() };
        Some((near.as_str().into(), self.resolve_template(&near, from)?))
    }

    /// Resolves what templates extend, include and import.
    pub(super) fn link_templates(&mut self) {
        let all = self.facts.clone();
        for (at, facts) in all.iter().enumerate() {
            let file = FileId(at as u32);
            let Shape::Template(shape) = &facts.shape else { continue };
            let layer = self.project.file(file).layer;
            for reference in &shape.refs {
                let Some(target) = reference.target else { continue };
                let from = Place { file, at: reference.at };
                let found = self.resolve_template(&target, layer);
                let outcome = match found {
                    Some(found) => Outcome::Found(Target::File(found)),
                    None if reference.optional => continue,
                    None => self.missing_template(target, file),
                };
                self.refer(Link::TemplateToTemplate, from, target, outcome);
                let imported = found.filter(|_| reference.verb == TemplateVerb::Import);
                for (_, name) in &reference.aliases {
                    if let (Some(imported), Some(name)) = (imported, name) {
                        let outcome = self.macro_in(imported, name.name);
                        if let Outcome::Missing { meant: Some(meant), .. } = outcome {
                            self.meant_macros.insert((file, meant.written));
                        }
                        self.refer(Link::ImportToMacro, Place { file, at: name.at }, name.name, outcome);
                    }
                }
            }
            for asset in &shape.assets {
                self.link_asset(Place { file, at: asset.at }, asset.name, layer);
            }
        }
    }

    fn missing_template(&self, target: Name, asking: FileId) -> Outcome {
        if self.blind.declarations {
            return Outcome::Unknown;
        }
        let (prefix, name) = Prefix::split(&target);
        let meant = self.meant_template(&target, asking).map(|(written, file)| {
            let known = self.project.files.iter().filter(|file| file.kind == FileKind::Template);
            let certain = prefix == Prefix::None && names::certain(name, known.map(|file| file.name())).is_some();
            Meant { written, target: Target::File(file), certain }
        });
        Outcome::Missing { wanted: Wanted::Template(target), meant }
    }

    fn macro_in(&self, file: FileId, name: Name) -> Outcome {
        let Some(template) = self.template(file).filter(|template| !template.broken) else { return Outcome::Unknown };
        let macros = template.sections.iter().filter_map(|section| match section.kind {
            crate::scan::SectionKind::Macro(name) => Some(name),
            _ => None,
        });
        let known: Vec<Name> = macros.chain(template.assigned.iter().copied()).collect();
        if known.contains(&name) {
            return Outcome::Found(Target::Macro(file, name));
        }
        let near = names::nearest(&name, known.iter().map(|name| name.as_str()));
        let certain = names::certain(&name, known.iter().map(|name| name.as_str())).is_some();
        let meant = near.map(|near| Meant { written: near.into(), target: Target::Macro(file, near.into()), certain });
        Outcome::Missing { wanted: Wanted::Macro(file, name), meant }
    }

    /// Ties templates that were taken over to their originals.
    pub(super) fn link_copies(&mut self) {
        for (_, file) in self.manifests() {
            let adopted = self.manifest(file).map(|manifest| manifest.adopted.clone()).unwrap_or_default();
            for copy in adopted {
                let outcome = match self.original(&copy) {
                    Some(original) => Outcome::Found(Target::File(original)),
                    None if self.blind.declarations => Outcome::Unknown,
                    None => self.missing_original(&copy),
                };
                self.refer(Link::CopyToOriginal, Place { file, at: copy.template.at }, copy.template.name, outcome);
            }
        }
    }

    /// The template that another one was taken from.
    pub fn original(&self, copy: &Adopted) -> Option<FileId> {
        let top = self.project.top();
        self.resolve(FileKind::Template, Prefix::Layer(copy.from.name), &copy.template.name, top, false)
    }

    fn missing_original(&self, copy: &Adopted) -> Outcome {
        let layer = self.project.layer_named(&copy.from.name);
        let known: Vec<&str> = layer
            .into_iter()
            .flat_map(|layer| self.project.files_of(layer))
            .filter(|(_, file)| file.kind == FileKind::Template)
            .map(|(_, file)| file.name())
            .collect();
        let near = names::nearest(&copy.template.name, known.iter().copied());
        let meant = near.and_then(|near| {
            let file =
                self.resolve(FileKind::Template, Prefix::Layer(copy.from.name), near, self.project.top(), false)?;
            Some(Meant { written: near.into(), target: Target::File(file), certain: false })
        });
        Outcome::Missing { wanted: Wanted::Template(copy.template.name), meant }
    }

    /// Resolves a file, or an asset, whose address is asked for.
    pub(super) fn link_asset(&mut self, from: Place, written: Name, layer: LayerId) {
        let point = PointRef::new(&written, from.at);
        if point.address.is_some() {
            let outcome = self.find_point(point, |kind| matches!(kind, Kind::Style | Kind::Script));
            return self.refer(Link::NeedToAsset, from, written, outcome);
        }
        self.link_file(from, written, layer, "");
    }

    /// Resolves a file that is named relative to a folder of a layer.
    pub(super) fn link_file(&mut self, from: Place, written: Name, layer: LayerId, folder: &str) {
        let outcome = match self.find_media_file(&format_media(&written, folder), layer) {
            Some((layer, path)) => Outcome::Found(self.media_target(layer, &path)),
            None => {
                let known = || {
                    let all = self.project.layers.iter().flat_map(|layer| &layer.media);
                    all.filter_map(|path| path.as_str().strip_prefix(folder))
                };
                let certain = names::certain(&written, known()).is_some();
                let meant = names::nearest(&written, known()).map(|near| {
                    let found = self.find_media_file(&format_media(near, folder), self.project.top());
                    let target = found.map(|(layer, path)| self.media_target(layer, &path));
                    Meant { written: near.into(), target: target.unwrap_or(Target::Media(near.into())), certain }
                });
                Outcome::Missing { wanted: Wanted::File(layer, written), meant }
            }
        };
        self.refer(Link::AssetToFile, from, written, outcome);
    }

    /// The file that `asset("media/…")` means: its layer, and its path below that layer's folder.
    pub fn find_media_file(&self, written: &str, from: LayerId) -> Option<(LayerId, String)> {
        let (prefix, path) = Prefix::split(written);
        let mut layers: Vec<LayerId> = (0..self.project.layers.len()).map(|at| LayerId(at as u16)).collect();
        match prefix {
            Prefix::None => {}
            Prefix::Below => layers.retain(|layer| *layer < from),
            Prefix::Layer(name) => layers.retain(|layer| self.project.layer(*layer).name == name),
        }
        let found = layers
            .into_iter()
            .rev()
            .find(|layer| self.project.layer(*layer).media.contains(camino::Utf8Path::new(path)));
        found.map(|layer| (layer, path.to_string()))
    }
}
