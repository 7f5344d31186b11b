//! The ground on which everything is linked: the layers, their files, and what each file says.

use std::sync::Arc;

use camino::Utf8Path;

use super::blind::Blind;
use super::by_name::ByName;
use super::lookups::Looked;
use super::paths::join_import;
use super::point::{Callback, Said, UseId};
use super::reference::Target;
use crate::address::Address;
use crate::name::Name;
use crate::parallel;
use crate::read::{FileKind, Files, Project};
use crate::scan::{
    Adopted, Entry, Export, Facts, Fill, ManifestShape, Message, ModuleShape, PageShape, Prefix, ScriptShape,
    SectionId, Shape, StyleShape, TemplateShape, Use, WordsShape, scan_file,
};
use crate::source::{FileId, LayerId, LayerRole, LineIndex, Place, Span};

/// One use of a message.
#[derive(Clone, Copy, Debug)]
pub struct MessageUse<'r> {
    /// The template or module.
    pub file: FileId,
    /// The message.
    pub message: &'r Message,
}

/// The layers and files of a theme, with the facts of each file.
pub struct Ground {
    pub(super) project: Project,
    pub(super) facts: Arc<Vec<Facts>>,
    pub(super) blind: Blind,
    /// Were parts of the preview's pages left out?
    pub(super) partly: bool,
    by_name: ByName,
    /// What has been looked up.
    pub(super) looked: Looked,
}

impl Ground {
    pub(super) fn new(project: Project, facts: Vec<Facts>, partly: bool) -> Ground {
        let (by_name, (looked, mut blind)) = parallel::both(
            facts.len(),
            || ByName::index(&project),
            || (Looked::of(&project), Blind::of(&project, &facts)),
        );
        blind.site |= partly;
        Ground { by_name, looked, facts: Arc::new(facts), project, blind, partly }
    }

    /// No layers, and no files.
    pub(super) fn nothing() -> Ground {
        Ground::new(Project::nothing(), Vec::new(), false)
    }

    /// Reads and scans a file once more. Answers what it said before.
    pub(super) fn read_again(&mut self, files: &dyn Files, file: FileId) -> Facts {
        self.project.read_again(files, file);
        let facts = scan_file(self.project.file(file));
        self.looked.forget(file);
        std::mem::replace(&mut Arc::make_mut(&mut self.facts)[file.index()], facts)
    }

    /// The same ground, after files were read once more.
    pub(super) fn seen_again(mut self) -> Ground {
        self.blind = Blind::of(&self.project, &self.facts);
        self.blind.site |= self.partly;
        self
    }

    /// Forgets the names among which misspelt ones were looked for.
    pub(super) fn forget_names(&mut self) {
        self.looked.sets = Default::default();
    }

    /// The layers and files, what each file says, and whether parts of the preview's pages were left out.
    pub(super) fn into_parts(self) -> (Project, Vec<Facts>, bool) {
        let facts = Arc::try_unwrap(self.facts).unwrap_or_else(|shared| (*shared).clone());
        (self.project, facts, self.partly)
    }

    /// The layers and files.
    pub fn project(&self) -> &Project {
        &self.project
    }

    /// The facts of each file, in the order of [`Project::files`].
    pub fn all_facts(&self) -> &[Facts] {
        &self.facts
    }

    /// Were parts of the preview's pages left out?
    pub fn partly(&self) -> bool {
        self.partly
    }

    /// All files with what they say.
    pub(super) fn files(&self) -> impl Iterator<Item = (FileId, &Facts)> {
        self.facts.iter().enumerate().map(|(at, facts)| (FileId(at as u32), facts))
    }
}

impl Ground {
    /// The facts of a file.
    pub fn facts(&self, file: FileId) -> &Facts {
        &self.facts[file.index()]
    }

    /// The lines of a file.
    pub fn lines(&self, file: FileId) -> LineIndex<'_> {
        let text = self.project.file(file).text();
        LineIndex::with(text, self.looked.lines(file, text))
    }

    /// What a template says.
    pub fn template(&self, file: FileId) -> Option<&TemplateShape> {
        match &self.facts(file).shape {
            Shape::Template(shape) => Some(shape),
            _ => None,
        }
    }

    /// What a module says.
    pub fn module(&self, file: FileId) -> Option<&ModuleShape> {
        match &self.facts(file).shape {
            Shape::Module(shape) => Some(shape),
            _ => None,
        }
    }

    /// What a manifest says.
    pub fn manifest(&self, file: FileId) -> Option<&ManifestShape> {
        match &self.facts(file).shape {
            Shape::Manifest(shape) => Some(shape),
            _ => None,
        }
    }

    /// What the checked theme's own manifest says.
    pub fn top_manifest(&self) -> Option<&ManifestShape> {
        self.manifest(self.project.layer(self.project.top()).manifest)
    }

    /// The uses of points in a file.
    pub fn uses_in(&self, file: FileId) -> &[Use] {
        self.facts(file).shape.uses()
    }

    /// One use of a point.
    pub fn use_of(&self, id: UseId) -> &Use {
        &self.uses_in(id.file)[id.index as usize]
    }

    /// One fill.
    pub fn fill_of(&self, file: FileId, index: usize) -> Option<&Fill> {
        match &self.facts(file).shape {
            Shape::Site(site) => site.fills.get(index),
            _ => None,
        }
    }

    /// The export that a callback names.
    pub fn export(&self, callback: Callback) -> Option<&Export> {
        Some(&self.module(callback.file)?.exports[self.export_at(callback.file, callback.export)?])
    }

    /// The position of an export among those of a module.
    pub fn export_at(&self, file: FileId, name: Name) -> Option<usize> {
        self.module(file)?;
        self.looked.parts(file, &self.facts(file).shape).get(&name).copied()
    }

    /// The part of a template with a block.
    pub fn block_in(&self, file: FileId, block: Name) -> Option<SectionId> {
        self.template(file)?;
        self.looked.parts(file, &self.facts(file).shape).get(&block).map(|at| SectionId(*at as u16))
    }

    /// How a callback is written from the checked theme: with the layer's name where it is another's.
    pub fn callback_name(&self, callback: Callback) -> String {
        let file = self.project.file(callback.file);
        let name = format!("{}#{}", file.name(), callback.export);
        if file.layer == self.project.top() {
            return name;
        }
        format!("{}:{name}", self.project.layer(file.layer).name)
    }

    /// The layer of a place.
    pub fn layer_of(&self, place: Place) -> LayerId {
        self.project.file(place.file).layer
    }

    /// The span of a place.
    pub fn span(&self, place: Place) -> Span {
        self.facts(place.file).span(place.at)
    }

    /// Has the layer that retires a point reached the version from which that holds?
    pub fn is_retired(&self, point: &Said) -> bool {
        point.retired.as_ref().is_some_and(|retired| {
            let manifest = self.manifest(self.project.layer(retired.by.layer).manifest);
            let present = manifest.and_then(|manifest| manifest.identity.as_ref()?.version.as_ref());
            present.is_none_or(|present| *present >= retired.since)
        })
    }

    /// The place of a use.
    pub fn use_place(&self, id: UseId) -> Place {
        Place { file: id.file, at: self.use_of(id).point.at }
    }

    /// One page of the preview.
    pub fn page(&self, file: FileId) -> Option<&PageShape> {
        match &self.facts(file).shape {
            Shape::Page(page) => Some(page),
            _ => None,
        }
    }

    /// The checked theme and the themes that it builds on, the nearest first.
    pub fn bases(&self) -> Vec<LayerId> {
        let is_theme = |layer: &LayerId| self.project.layer(*layer).role == LayerRole::Theme;
        (0..self.project.layers.len()).rev().map(|at| LayerId(at as u16)).filter(is_theme).collect()
    }

    /// The points of which the checked theme accepts that nothing uses them.
    pub fn accepted(&self) -> Vec<Address> {
        let top = self.project.files_of(self.project.top()).filter_map(|(file, _)| self.manifest(file));
        let ignores = top.flat_map(|manifest| &manifest.check.ignores);
        let unused = ignores.filter(|ignore| ["unplaced-point", "idle-component"].contains(&ignore.rule.name.as_str()));
        unused.filter_map(|ignore| ignore.point?.address).collect()
    }

    /// All manifests, in the order in which they apply.
    pub fn manifests(&self) -> Vec<(LayerId, FileId)> {
        let mut found = Vec::new();
        for (at, layer) in self.project.layers.iter().enumerate() {
            let id = LayerId(at as u16);
            found.push((id, layer.manifest));
            let further = self.project.files_of(id).map(|(file, _)| file);
            let further = further.filter(|file| *file != layer.manifest && self.manifest(*file).is_some());
            found.extend(further.map(|file| (id, file)));
        }
        found
    }

    /// What a translation says.
    pub fn words(&self, file: FileId) -> Option<&WordsShape> {
        match &self.facts(file).shape {
            Shape::Words(words) => Some(words),
            _ => None,
        }
    }

    /// All translations: their files and languages, the lowest layer first.
    pub fn translations(&self) -> Vec<(FileId, &str)> {
        let files = self.project.files.iter().enumerate().filter(|(_, file)| file.kind == FileKind::Words);
        files.map(|(at, file)| (FileId(at as u32), file.path.file_stem().unwrap_or_default())).collect()
    }

    /// The languages that there are translations for.
    pub fn languages(&self) -> Vec<&str> {
        let mut found: Vec<&str> = self.translations().into_iter().map(|(_, language)| language).collect();
        found.sort_unstable();
        found.dedup();
        found
    }

    /// All messages in the order of the files.
    pub fn messages(&self) -> impl Iterator<Item = MessageUse<'_>> {
        self.facts.iter().enumerate().flat_map(|(at, facts)| {
            let file = FileId(at as u32);
            facts.shape.messages().iter().map(move |message| MessageUse { file, message })
        })
    }

    /// The translation of a message that counts: that of the highest layer that has one.
    pub fn entry(&self, language: &str, id: &str) -> Option<(FileId, &Entry)> {
        let known = Name::known(id)?;
        let files = self.translations().into_iter().rev().filter(|(_, own)| *own == language);
        files.into_iter().find_map(|(file, _)| {
            let entries = self.words(file)?.entries.iter();
            entries.into_iter().find(|entry| entry.id == known && entry.is_translated()).map(|entry| (file, entry))
        })
    }

    /// What a script says.
    pub fn script(&self, file: FileId) -> Option<&ScriptShape> {
        match &self.facts(file).shape {
            Shape::Script(script) => Some(script),
            _ => None,
        }
    }

    /// What a style sheet says.
    pub fn style(&self, file: FileId) -> Option<&StyleShape> {
        match &self.facts(file).shape {
            Shape::Style(style) => Some(style),
            _ => None,
        }
    }

    /// The files of that name, the lowest layer first.
    pub fn files_named(&self, kind: FileKind, name: &str) -> &[FileId] {
        self.by_name.named(kind, name)
    }

    /// The templates that have the name of one in a layer below, in the order of the files.
    pub fn overrides(&self) -> impl Iterator<Item = FileId> {
        self.by_name.above().iter().copied()
    }

    /// Has a template the name of one in a layer below?
    pub fn is_override(&self, file: FileId) -> bool {
        self.by_name.above().contains(&file)
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

    /// The template that another one was taken from.
    pub fn original(&self, copy: &Adopted) -> Option<FileId> {
        let top = self.project.top();
        self.resolve(FileKind::Template, Prefix::Layer(copy.from.name), &copy.template.name, top, false)
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
        let found =
            layers.into_iter().rev().find(|layer| self.project.layer(*layer).media.contains(Utf8Path::new(path)));
        found.map(|layer| (layer, path.to_string()))
    }

    /// The file of a page's body, which lies beside the page.
    pub fn body_file(&self, page: FileId, name: &str) -> Option<FileId> {
        let page = self.project.file(page);
        let path = page.path.parent()?.join(name);
        let found = self.project.find(page.layer, path.as_str())?;
        (self.project.file(found).kind == FileKind::Body).then_some(found)
    }

    /// The module that a relative import means; it stays inside the layer's `code/`.
    pub fn resolve_import(&self, from: FileId, written: &str) -> Option<FileId> {
        let file = self.project.file(from);
        let path = join_import(file.name(), written)?;
        self.resolve(FileKind::Module, Prefix::None, path.as_str(), file.layer, true)
    }

    /// A file in `media/` as something that can be referred to.
    pub(super) fn media_target(&self, layer: LayerId, path: &str) -> Target {
        match self.project.find(layer, path) {
            Some(file) => Target::File(file),
            None => Target::Media(self.project.layer(layer).root.join(path).as_str().into()),
        }
    }
}
