//! The third step: the facts of all files become one [`Registry`], in which every reference has
//! been resolved once and every point has its slots in running order, its placements and its fills.

mod absence;
mod attach;
mod declare;
mod fill;
mod misses;
mod order;
mod points;
mod reach;
mod reference;
mod templates;
mod uses;
mod variables;

use std::sync::Arc;

use crate::name::Name;
use rustc_hash::{FxBuildHasher, FxHashMap, FxHashSet as HashSet};

use crate::address::{Address, Kind};
use crate::parallel;
use crate::read::Project;
use crate::scan::{
    Attachment, CallRef, Condition, Export, Facts, Field, Fill, Limits, ManifestShape, ModuleShape, Offer, PageShape,
    PointRef, Shape, SiteShape, TemplateShape, Use, scan_file,
};
use crate::source::{At, FileId, LayerId, Place, Span};

pub use absence::{Absence, Lack};
pub use attach::Ambiguous;
pub use declare::{Breach, BreachKind, component_template};
pub use fill::{ItemUse, PlacedItem};
pub use misses::Miss;
pub use order::OrderTrouble;
pub use reach::{Cycle, Types};
pub use reach::{body_partial, body_region, menu_partial};
pub use reference::{Link, Meant, Outcome, Reference, Target, Wanted};
pub use uses::{MENU_ARGUMENTS, join_import, relative};
pub use variables::{PAGE_KEYS, SITE_KEYS, THEME_KEYS};

/// The beginning of a file, as a place.
pub const START: At = At(u32::MAX);

/// One declaration of a point, in one layer.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Declared {
    /// The layer that declares it.
    pub layer: LayerId,
    /// Where.
    pub place: Place,
}

/// An input or argument, after all layers were merged.
#[derive(Clone, Debug)]
pub struct Input {
    /// The declaration that counts.
    pub field: Field,
    /// Where it stands.
    pub place: Place,
}

/// A function that a module exports.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub struct Callback {
    /// The module.
    pub file: FileId,
    /// The exported name.
    pub export: Name,
}

/// What a slot runs.
#[derive(Clone, Copy, Debug)]
pub enum Runs {
    /// A callback; nothing is found where the module or its export is missing.
    Callback(CallRef, Option<Callback>),
    /// A partial; false where it isn't there.
    Partial(Address, bool),
}

/// One attachment, at its place in a point's running order.
#[derive(Clone, Debug)]
pub struct Slot {
    /// The layer that attaches.
    pub layer: LayerId,
    /// Where.
    pub place: Place,
    /// The position among the layer's attachments.
    pub position: u32,
    /// Lower runs earlier.
    pub priority: u8,
    /// What runs.
    pub runs: Runs,
    /// What it has to run before, as written.
    pub before: Vec<Name>,
    /// What it has to run after, as written.
    pub after: Vec<Name>,
    /// Runs only where this holds.
    pub when: Option<Condition>,
    /// Can't run, because its condition is broken.
    pub switched_off: bool,
    /// Can layers above neither detach nor replace it?
    pub sealed: bool,
    /// What it ran at first, and who put something else in its place.
    pub replaced: Option<(Runs, LayerId, Place)>,
    /// Who detached it.
    pub detached: Option<(LayerId, Place)>,
}

/// What renders a component or page.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Renderer {
    /// A template.
    Template(FileId),
    /// A callback.
    Callback(Callback),
}

/// One use of a point, as a position among the uses of a file.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub struct UseId {
    /// The template or module.
    pub file: FileId,
    /// The position among its uses.
    pub index: u32,
}

/// A point with everything that the layers say about it.
#[derive(Clone, Debug)]
pub struct Point {
    /// Its address.
    pub address: Address,
    /// Its declarations, the lowest layer first.
    pub declared: Vec<Declared>,
    /// For people.
    pub label: Option<Name>,
    /// One sentence.
    pub about: Option<Name>,
    /// Must every page have it?
    pub required: bool,
    /// Does the host fire it, so that it is never placed?
    pub moment: bool,
    /// The element that it has to be in, and whether it has to be the last thing there.
    pub inside: Option<(Name, bool)>,
    /// Renders, but site editors are not offered it.
    pub reserved: bool,
    /// The layer that took it out of use.
    pub dropped: Option<(LayerId, Place)>,
    /// From which version of its layer on it is there.
    pub since: Option<semver::Version>,
    /// From which version of which layer on it should not be used any more.
    pub retired: Option<(semver::Version, LayerId, Place)>,
    /// What to use in place of a retired one.
    pub instead: Option<PointRef>,
    /// How many levels of entries a menu spot shows.
    pub levels: Option<u64>,
    /// Markup around what an area or component shows.
    pub wrap: Option<Name>,
    /// Markup around an item's title.
    pub wrap_title: Option<Name>,
    /// What a section or piece may hold.
    pub holds: Vec<(PointRef, Place)>,
    /// What site editors can pick of it; nothing where that is not said.
    pub offers: Option<Vec<(FileId, Offer)>>,
    /// The inputs of a component or template.
    pub inputs: Vec<Input>,
    /// What a placement of a hook or filter passes on.
    pub args: Vec<Input>,
    /// What a filter's value, or an option, may be, in JSON Schema words, and where that is said.
    pub value: Option<(serde_json::Value, Place)>,
    /// The attachments in running order.
    pub slots: Vec<Slot>,
    /// Attachments that a higher layer took away.
    pub detached: Vec<Slot>,
    /// Where it is placed, or sent through.
    pub uses: Vec<UseId>,
    /// What the site puts into it, as (file, position among that file's fills).
    pub fills: Vec<(FileId, usize)>,
    /// The components that it holds somewhere: as a region or area, or as a component.
    pub items: Vec<ItemUse>,
    /// What renders it.
    pub renderer: Option<Renderer>,
    /// Who put another callback in the place of the one that rendered it.
    pub render_replaced: Option<(LayerId, Place)>,
    /// The types of pages that reach one of its placements.
    pub reached: Types,
}

impl Point {
    /// Can site editors pick it?
    pub fn is_offered(&self) -> bool {
        let offers = self.offers.as_ref().is_some_and(|offers| !offers.is_empty());
        offers && !self.reserved && self.dropped.is_none()
    }

    /// What is said of the type of a value or option.
    pub fn schema(&self) -> Option<&serde_json::Value> {
        self.value.as_ref().map(|(schema, _)| schema)
    }

    /// The inputs of a component, or the arguments of anything else.
    pub fn passed(&self) -> &[Input] {
        if self.address.kind.is_component() { &self.inputs } else { &self.args }
    }

    /// The highest layer that declares it.
    pub fn layer(&self) -> Option<LayerId> {
        self.declared.last().map(|declared| declared.layer)
    }
}

/// A type of page.
#[derive(Clone, Debug)]
pub struct TypeInfo {
    /// Its name.
    pub name: Name,
    /// Where it is declared.
    pub place: Place,
    /// The keys that `page` has on such pages beside the usual ones.
    pub keys: Vec<Field>,
    /// The template of such pages, with the lower layers' ones that it hides after it.
    pub templates: Vec<FileId>,
}

/// What could be hidden in something that is missing or can't be understood.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct Blind {
    /// Points, types and attachments may be declared where we can't see them.
    pub declarations: bool,
    /// Points may be placed where we can't see it.
    pub placements: bool,
    /// Callbacks may be imported where we can't see it.
    pub imports: bool,
    /// The site's data can't be seen.
    pub site: bool,
}

/// All layers merged.
pub struct Registry {
    /// The layers and files.
    pub project: Project,
    /// The facts of each file, in the order of [`Project::files`].
    pub facts: Arc<Vec<Facts>>,
    /// All points, by address.
    pub points: indexmap::IndexMap<Address, Point, FxBuildHasher>,
    /// The types of pages.
    pub types: Vec<TypeInfo>,
    /// The limits of the host contract.
    pub limits: Limits,
    /// Every reference from one place to another, resolved.
    pub references: Vec<Reference>,
    /// The references that lead nowhere, grouped by what they ask for.
    pub misses: Vec<Miss>,
    /// Points whose order can't be as asked.
    pub order_troubles: Vec<OrderTrouble>,
    /// Points declared twice in one layer: the second place, then the first.
    pub repeats: Vec<(Address, Place, Place)>,
    /// Attachments of a kind that their point does not take.
    pub wrong_kinds: Vec<(Address, Place)>,
    /// Components with two renderers in one layer: the `render` key, and the template.
    pub two_renderers: Vec<(Address, Place, FileId)>,
    /// Redeclarations that the layers below can't live with.
    pub breaches: Vec<Breach>,
    /// Attempts to detach or replace what is sealed: the point, the attempt, the attachment.
    pub sealed_hits: Vec<(Address, Place, Place)>,
    /// Replacements that could mean several attachments.
    pub ambiguous: Vec<Ambiguous>,
    /// The components that the preview's pages are composed of.
    pub page_sections: Vec<ItemUse>,
    /// Inputs and arguments that a use has to pass on and doesn't: the use, and the declaration.
    pub missing_arguments: Vec<(Address, Name, Place, Place)>,
    /// Templates and placements that lead back to themselves.
    pub cycles: Vec<Cycle>,
    /// Points that are needed and don't show.
    pub absences: Vec<Absence>,
    /// Where to be careful with what seems not to be there.
    pub blind: Blind,
    templates: templates::Templates,
    reach: reach::Reach,
    referred: HashSet<Target>,
    /// What templates that are asked for and not there were most likely meant to be.
    meant_templates: Index<Name, FileId>,
    /// Macros that a template was most likely meant to import, though it misspells them.
    meant_macros: HashSet<(FileId, Name)>,
    /// Attachments to points that are not there, with what was most likely meant.
    strayed: Vec<(Option<Target>, LayerId, Attachment)>,
    known: std::sync::OnceLock<variables::Known>,
}

impl Registry {
    /// Scans all files of a project and links them.
    pub fn new(project: Project) -> Registry {
        let facts = Registry::scan(&project);
        Registry::link(project, facts)
    }

    /// Scans all files of a project, several at a time.
    pub fn scan(project: &Project) -> Vec<Facts> {
        parallel::map(project.files.len(), |at| {
            let id = FileId(at as u32);
            project.early.get(&id).cloned().unwrap_or_else(|| scan_file(project.file(id)))
        })
    }

    /// Links facts that are known already.
    pub fn link(project: Project, facts: Vec<Facts>) -> Registry {
        let mut registry = Registry {
            project,
            facts: Arc::new(facts),
            points: IndexMap::default(),
            types: Vec::new(),
            limits: Limits::default(),
            references: Vec::new(),
            misses: Vec::new(),
            order_troubles: Vec::new(),
            repeats: Vec::new(),
            wrong_kinds: Vec::new(),
            two_renderers: Vec::new(),
            breaches: Vec::new(),
            sealed_hits: Vec::new(),
            ambiguous: Vec::new(),
            page_sections: Vec::new(),
            missing_arguments: Vec::new(),
            cycles: Vec::new(),
            absences: Vec::new(),
            blind: Blind::default(),
            templates: templates::Templates::default(),
            reach: reach::Reach::default(),
            referred: HashSet::default(),
            meant_templates: Index::default(),
            meant_macros: HashSet::default(),
            strayed: Vec::new(),
            known: std::sync::OnceLock::new(),
        };
        registry.look_for_blind_spots();
        registry.templates = templates::Templates::index(&registry.project);
        registry.declare();
        registry.link_layers();
        registry.link_templates();
        registry.link_holds();
        registry.attach();
        registry.link_uses();
        registry.link_modules();
        registry.fill();
        registry.link_offers();
        registry.link_variables();
        registry.group_misses();
        registry.find_reach();
        registry.find_absences();
        registry
    }

    /// What can't be understood could hold anything.
    fn look_for_blind_spots(&mut self) {
        self.blind.declarations = self
            .project
            .troubles
            .iter()
            .any(|trouble| !matches!(trouble.trouble, crate::read::Trouble::Version { .. }));
        self.blind.placements = self.blind.declarations;
        for facts in self.facts.iter() {
            match &facts.shape {
                Shape::Manifest(manifest) => self.blind.declarations |= manifest.broken,
                Shape::Template(template) => self.blind.placements |= template.broken || template.dynamic,
                Shape::Module(module) => {
                    self.blind.placements |= module.broken || module.dynamic;
                    self.blind.imports |= module.broken;
                }
                Shape::Site(site) => self.blind.site |= site.broken,
                Shape::Page(page) => self.blind.site |= page.broken,
                Shape::Opaque => {}
            }
        }
    }

    /// The point at an address.
    pub fn point(&self, address: Address) -> Option<&Point> {
        self.points.get(&address)
    }

    /// The facts of a file.
    pub fn facts(&self, file: FileId) -> &Facts {
        &self.facts[file.index()]
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
        self.module(callback.file)?.exports.iter().find(|export| export.name == callback.export)
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

    /// What a slot is called: its callback's name, or its partial's address.
    pub fn slot_name(&self, slot: &Slot) -> String {
        self.runs_name(&slot.runs)
    }

    /// What a slot was called before a higher layer put another callback in its place.
    pub fn first_name(&self, slot: &Slot) -> String {
        self.runs_name(slot.replaced.as_ref().map_or(&slot.runs, |(first, _, _)| first))
    }

    fn runs_name(&self, runs: &Runs) -> String {
        match *runs {
            Runs::Callback(_, Some(callback)) => self.callback_name(callback),
            Runs::Callback(written, None) => written.raw.to_string(),
            Runs::Partial(address, _) => address.to_string(),
        }
    }

    /// The layer of a place.
    pub fn layer_of(&self, place: Place) -> LayerId {
        self.project.file(place.file).layer
    }

    /// The span of a place.
    pub fn span(&self, place: Place) -> Span {
        self.facts(place.file).span(place.at)
    }

    /// The place of a use.
    pub fn use_place(&self, id: UseId) -> Place {
        Place { file: id.file, at: self.use_of(id).point.at }
    }

    /// Is anything there that refers to this? What was most likely meant by a reference that leads
    /// nowhere counts as referred to.
    pub fn is_referred(&self, target: Target) -> bool {
        self.referred.contains(&target)
    }

    /// The preview's site, if the checked theme has one.
    pub fn site(&self) -> Option<(FileId, &SiteShape)> {
        self.project.files_of(self.project.top()).find_map(|(id, _)| match &self.facts(id).shape {
            Shape::Site(site) => Some((id, &**site)),
            _ => None,
        })
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
        let is_theme = |layer: &LayerId| self.project.layer(*layer).role == crate::source::LayerRole::Theme;
        (0..self.project.layers.len()).rev().map(|at| LayerId(at as u16)).filter(is_theme).collect()
    }

    /// The preview's pages, in the order of their files.
    pub fn pages(&self) -> impl Iterator<Item = (FileId, &PageShape)> {
        self.project.files_of(self.project.top()).filter_map(|(id, _)| match &self.facts(id).shape {
            Shape::Page(page) => Some((id, &**page)),
            _ => None,
        })
    }

    /// All manifests, in the order in which they apply.
    fn manifests(&self) -> Vec<(LayerId, FileId)> {
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

    /// All names of points of one kind.
    pub fn names(&self, kind: Kind) -> impl Iterator<Item = &'static str> {
        self.points.keys().filter(move |address| address.kind == kind).map(|address| address.name.as_str())
    }

    fn refer(&mut self, link: Link, from: Place, written: Name, outcome: Outcome) {
        if let Outcome::Found(target) = outcome {
            self.referred.insert(target);
        }
        let layer = self.layer_of(from);
        self.references.push(Reference { link, from, layer, written, outcome });
    }
}

/// A table that keeps its order.
type IndexMap<K, V> = indexmap::IndexMap<K, V, FxBuildHasher>;

/// Positions of what has a name, for resolving without searching.
type Index<K, V> = FxHashMap<K, V>;
