//! The third step: the facts of all files become one [`Registry`], in which every reference has
//! been resolved once and every point has its slots in running order, its placements and its fills.

mod absence;
mod ask;
mod assets;
mod attach;
mod declare;
mod feature;
mod features;
mod fill;
mod messages;
mod misses;
mod order;
mod parts;
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
use crate::read::{Files, Project};
use crate::scan::{
    Attachment, CallRef, Condition, Export, Facts, Field, Fill, Limits, ManifestShape, ModuleShape, Offer, PageShape,
    PointRef, ScriptShape, Shape, SiteShape, StyleShape, TemplateShape, Use, scan_file,
};
use crate::source::{At, FileId, LayerId, Place, Span};

pub use absence::{Absence, Lack};
pub use assets::{Asset, NeedCycle, relative_path};
pub use attach::Ambiguous;
pub use declare::{Breach, BreachKind, component_template};
pub use feature::{Fed, Feature, Feed, Given, OFFERED, extent_steps};
pub use fill::{ItemUse, PlacedItem};
pub use messages::MessageUse;
pub use misses::Miss;
pub use order::OrderTrouble;
pub use parts::*;
pub use reach::{Cycle, Types};
pub use reach::{body_partial, body_region, menu_partial};
pub use reference::{Link, Meant, Outcome, Reference, Target, Wanted};
pub use uses::{MENU_ARGUMENTS, join_import, relative};
pub use variables::{PAGE_KEYS, SITE_KEYS, THEME_KEYS};

/// The beginning of a file, as a place.
pub const START: At = At(u32::MAX);

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
    /// Where each thing that is missing is in that list.
    missed: Index<Wanted, usize>,
    /// What was most likely meant by what leads nowhere; true where a placement or a filter meant it.
    meant: Index<Target, bool>,
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
    /// All assets in the order in which they come on a page.
    pub asset_order: Vec<Address>,
    /// Assets that need each other in a circle.
    pub need_cycles: Vec<NeedCycle>,
    /// The assets that a component needs, directly or through others.
    demanded: HashSet<Address>,
    /// Were parts of the preview's pages left out?
    pub partly: bool,
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

    /// As [`new`](Registry::new), for rendering many pages: what a page of the preview says beyond its
    /// path and type is not kept. Checking such a registry says less.
    pub fn for_rendering(project: Project, files: &dyn Files) -> Registry {
        parallel::alone(|| {
            let scanned = |at: usize| {
                let id = FileId(at as u32);
                let early = project.early.get(&id).cloned();
                early.unwrap_or_else(|| scan_file(&project.with_text(files, id)).without_contents())
            };
            let facts = (0..project.files.len()).map(scanned).collect();
            Registry::link_facts(project, facts, true)
        })
    }

    /// The registry after some files have changed, and nothing else: neither new files, nor what layers
    /// there are. Where more may have changed, the registry comes back as it was.
    ///
    /// # Errors
    /// The registry itself, where it has to be made from the disk.
    pub fn edited(mut self, files: &dyn Files, changed: &[camino::Utf8PathBuf]) -> Result<Registry, Box<Registry>> {
        let mut known = Vec::new();
        for path in changed {
            match self.project.file_at(path) {
                // A manifest may ask for other layers.
                Some(file) if self.project.file(file).path != "truehook.toml" => known.push(file),
                _ => return Err(Box::new(self)),
            }
        }
        let mut facts = match Arc::try_unwrap(std::mem::take(&mut self.facts)) {
            Ok(facts) => facts,
            Err(shared) => (*shared).clone(),
        };
        let empty = Project {
            layers: Vec::new(),
            files: Vec::new(),
            troubles: Vec::new(),
            links: Vec::new(),
            early: Default::default(),
        };
        let mut project = std::mem::replace(&mut self.project, empty);
        // Taking the old registry apart takes as long as some of the steps that follow.
        std::thread::spawn(move || drop(self));
        for file in known {
            project.read_again(files, file);
            facts[file.index()] = scan_file(project.file(file));
        }
        Ok(Registry::link(project, facts))
    }

    /// As [`new`](Registry::new), with the facts of all files that are as they were kept from before.
    pub fn again(known: Registry, project: Project) -> Registry {
        let before = &known.project;
        let places = before.files.iter().enumerate().map(|(at, file)| {
            let root = before.layer(file.layer).root.as_str();
            ((root, file.path.as_str()), at)
        });
        let places: FxHashMap<(&str, &str), usize> = places.collect();
        let kept: Vec<Option<usize>> = project
            .files
            .iter()
            .map(|file| {
                let at = *places.get(&(project.layer(file.layer).root.as_str(), file.path.as_str()))?;
                let old = &before.files[at];
                let same = old.kind == file.kind && old.content.is_text() && old.content == file.content;
                same.then_some(at)
            })
            .collect();
        let facts = Arc::try_unwrap(known.facts).unwrap_or_else(|shared| (*shared).clone());
        let mut facts: Vec<Option<Facts>> = facts.into_iter().map(Some).collect();
        let anew = parallel::map(project.files.len(), |at| {
            let id = FileId(at as u32);
            kept[at].is_none().then(|| scan_file(project.file(id)))
        });
        let all = anew.into_iter().zip(kept).enumerate().map(|(at, (new, kept))| {
            let known = kept.and_then(|kept| facts.get_mut(kept)?.take());
            new.or(known).unwrap_or_else(|| scan_file(project.file(FileId(at as u32))))
        });
        let all = all.collect();
        Registry::link(project, all)
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
        Registry::link_facts(project, facts, false)
    }

    fn link_facts(project: Project, facts: Vec<Facts>, partly: bool) -> Registry {
        let mut registry = Registry {
            project,
            facts: Arc::new(facts),
            points: IndexMap::default(),
            types: Vec::new(),
            limits: Limits::default(),
            references: Vec::new(),
            misses: Vec::new(),
            missed: Index::default(),
            meant: Index::default(),
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
            asset_order: Vec::new(),
            need_cycles: Vec::new(),
            demanded: HashSet::default(),
            partly,
            templates: templates::Templates::default(),
            reach: reach::Reach::default(),
            referred: HashSet::default(),
            meant_templates: Index::default(),
            meant_macros: HashSet::default(),
            strayed: Vec::new(),
            known: std::sync::OnceLock::new(),
        };
        registry.look_for_blind_spots();
        registry.blind.site |= partly;
        registry.templates = templates::Templates::index(&registry.project);
        registry.declare();
        registry.link_layers();
        registry.link_templates();
        registry.link_copies();
        registry.link_holds();
        registry.attach();
        registry.link_uses();
        registry.link_modules();
        registry.fill();
        registry.link_offers();
        registry.link_assets();
        registry.link_features();
        registry.link_messages();
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
                Shape::Style(_) | Shape::Script(_) | Shape::Words(_) | Shape::Opaque => {}
            }
        }
    }

    /// A place that no scanner noted: a part of something larger.
    fn add_span(&mut self, file: FileId, span: Span) -> At {
        let facts = &mut Arc::make_mut(&mut self.facts)[file.index()];
        facts.spans.push(span);
        At((facts.spans.len() - 1) as u32)
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
