//! The registry: what all steps have found out, put together.

use std::sync::Arc;

use indexmap::IndexMap;
use rustc_hash::{FxBuildHasher, FxHashMap, FxHashSet};

use super::absence::{Absence, absent};
use super::arguments::MissingArgument;
use super::assets::{Carried, carry};
use super::attach::attach;
use super::chains::Chains;
use super::conditions::Conditions;
use super::declare::{Declared, declare};
use super::feeds::link_feeds;
use super::fill::fill;
use super::globals::{link_addresses, link_globals};
use super::ground::Ground;
use super::holds::hold;
use super::inline::link_inline;
use super::known::Known;
use super::layers::link_layers;
use super::messages::translate;
use super::missed::{Missed, Unheard};
use super::misses::miss;
use super::modules::import;
use super::names::Names;
use super::offers::offer;
use super::point::{ItemUse, Point, Said, UseId};
use super::properties::{named_components, read_properties};
use super::reach::{Reached, reach};
use super::reference::{Outcome, Reference, Target};
use super::refs::Refs;
use super::render::{TwoRenderers, render};
use super::slots::{Ambiguous, Attached, OrderTrouble, SealedHit, WrongKind};
use super::templates::include;
use super::ties::Ties;
use super::uses::use_points;
use super::values::name_values;
use super::variables::read;
use crate::address::Address;
use crate::parallel;
use crate::read::{Files, Project};
use crate::scan::{Facts, scan_file};
use crate::source::FileId;

/// All layers merged: read-only, behind the questions that are asked of it.
pub struct Registry {
    pub(super) ground: Ground,
    pub(super) declared: Declared,
    pub(super) points: IndexMap<Address, Point, FxBuildHasher>,
    pub(super) references: Vec<Reference>,
    pub(super) missed: Missed,
    pub(super) carried: Carried,
    pub(super) reached: Reached,
    pub(super) absences: Vec<Absence>,
    pub(super) troubles: Troubles,
    pub(super) page_sections: Vec<ItemUse>,
}

/// What is wrong with declarations and attachments, beside references that lead nowhere.
#[derive(Default)]
pub(super) struct Troubles {
    pub two_renderers: Vec<TwoRenderers>,
    pub order: Vec<OrderTrouble>,
    pub wrong_kinds: Vec<WrongKind>,
    pub sealed_hits: Vec<SealedHit>,
    pub ambiguous: Vec<Ambiguous>,
    pub missing_arguments: Vec<MissingArgument>,
}

impl Registry {
    /// Scans all files of a project and links them.
    pub fn new(project: Project) -> Registry {
        let facts = Registry::scan(&project);
        Registry::link(project, facts)
    }

    /// The same theme, linked as if nobody were told of some things.
    pub fn unhearing(&self, unheard: Unheard) -> Registry {
        link_facts(self.ground.project.clone(), self.ground.facts.to_vec(), self.ground.partly, unheard)
    }

    /// As [`new`](Registry::new), for rendering many pages: what a page of the preview says beyond its
    /// path and type is not kept. Checking such a registry says less.
    pub fn for_rendering(project: Project, files: &dyn Files) -> Registry {
        parallel::alone(|| {
            let scanned = |at: usize| {
                let id = FileId(at as u32);
                let early = project.kept_facts(id);
                early.unwrap_or_else(|| scan_file(&project.with_text(files, id)).without_contents())
            };
            let facts = (0..project.files.len()).map(scanned).collect();
            link_facts(project, facts, true, Unheard::default())
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
            match self.ground.project.file_at(path) {
                // A manifest may ask for other layers.
                Some(file) if self.ground.project.file(file).path != "truehook.toml" => known.push(file),
                _ => return Err(Box::new(self)),
            }
        }
        let mut facts = match Arc::try_unwrap(std::mem::take(&mut self.ground.facts)) {
            Ok(facts) => facts,
            Err(shared) => (*shared).clone(),
        };
        let empty = Project {
            layers: Vec::new(),
            files: Vec::new(),
            troubles: Vec::new(),
            links: Vec::new(),
            kept: Default::default(),
        };
        let mut project = std::mem::replace(&mut self.ground.project, empty);
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
        let before = &known.ground.project;
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
        let facts = Arc::try_unwrap(known.ground.facts).unwrap_or_else(|shared| (*shared).clone());
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
            project.kept_facts(id).unwrap_or_else(|| scan_file(project.file(id)))
        })
    }

    /// Links facts that are known already.
    pub fn link(project: Project, facts: Vec<Facts>) -> Registry {
        link_facts(project, facts, false, Unheard::default())
    }
}

/// Links facts, step by step: each from what it needs to a value of its own.
fn link_facts(project: Project, facts: Vec<Facts>, partly: bool, unheard: Unheard) -> Registry {
    let ground = Ground::new(project, facts, partly);
    let declared = declare(&ground);
    let names = Names { ground: &ground, declared: &declared };
    let offered = offer(names);
    let known = Known::learn(names);
    let conditions = Conditions { names, known: &known, offered: &offered };
    let mut rendered = render(names);
    let layers = link_layers(names);
    let included = include(names);
    let held = hold(names);
    let mut attached = attach(conditions, &rendered);
    let mut used = use_points(names, &attached);
    let imported = import(names);
    let mut filled = fill(conditions);
    let mut carried = carry(conditions);
    link_globals(names, &mut carried.refs);
    link_addresses(names, &mut carried.refs);
    let mut fed = Refs::default();
    link_feeds(names, &offered, &mut fed);
    translate(&ground, &mut fed);
    let variables = read(conditions, &attached.renderers, &included.meant_macros);
    let mut properties = read_properties(conditions, &attached);
    named_components(conditions, &mut properties);
    let valued = name_values(names, &attached);
    let inline = link_inline(names, &attached, &carried);
    let take = std::mem::take::<Refs>;
    let all = [
        take(&mut rendered.refs),
        layers,
        included.refs,
        held,
        take(&mut attached.refs),
        take(&mut used.passed.refs),
        imported,
        take(&mut filled.passed.refs),
        take(&mut carried.refs),
        offered.refs,
        fed,
        variables,
        properties,
        valued,
        inline,
    ];
    let (references, referred) = joined(all);
    let mut missed = miss(names, &attached.renderers, &references, referred, unheard);
    let chains = Chains { ground: &ground, meant: &missed.meant_templates, parents: None };
    missed.parents = chains.all_parents();
    let ties = Ties { names, attached: &attached, used: &used, filled: &filled, carried: &carried };
    let reached = reach(ties, &missed, &references);
    let absences = absent(ties, &missed, &reached, &references);
    let missing = used.passed.missing.drain(..).chain(filled.passed.missing.drain(..)).collect();
    let points = tied(&declared, &mut attached, used.uses, filled.fills, filled.items, &reached);
    let troubles = Troubles {
        two_renderers: rendered.two_renderers,
        order: attached.order_troubles,
        wrong_kinds: attached.wrong_kinds,
        sealed_hits: attached.sealed_hits,
        ambiguous: attached.ambiguous,
        missing_arguments: missing,
    };
    let page_sections = filled.page_sections;
    Registry { ground, declared, points, references, missed, carried, reached, absences, troubles, page_sections }
}

/// All references in the order of the steps, and all that is referred to.
fn joined<const N: usize>(all: [Refs; N]) -> (Vec<Reference>, FxHashSet<Target>) {
    let mut references = Vec::with_capacity(all.iter().map(|refs| refs.all.len()).sum());
    let mut referred = FxHashSet::default();
    for refs in all {
        referred.extend(refs.referred);
        referred.extend(refs.all.iter().filter_map(|reference| match reference.outcome {
            Outcome::Found(target) => Some(target),
            _ => None,
        }));
        references.extend(refs.all);
    }
    (references, referred)
}

/// The points with all that is tied to them.
fn tied(
    declared: &Declared,
    attached: &mut Attached,
    mut uses: FxHashMap<Address, Vec<UseId>>,
    mut fills: FxHashMap<Address, Vec<(FileId, usize)>>,
    mut items: FxHashMap<Address, Vec<ItemUse>>,
    reached: &Reached,
) -> IndexMap<Address, Point, FxBuildHasher> {
    let point = |(position, (address, said)): (usize, (&Address, &Arc<Said>))| {
        let slots = attached.slots.remove(address).unwrap_or_default();
        let point = Point {
            said: said.clone(),
            slots: slots.on,
            detached: slots.detached,
            uses: uses.remove(address).unwrap_or_default(),
            fills: fills.remove(address).unwrap_or_default(),
            items: items.remove(address).unwrap_or_default(),
            renderer: attached.renderers.get(address).copied(),
            render_replaced: attached.render_replaced.get(address).copied(),
            reached: reached.point(position),
        };
        (*address, point)
    };
    declared.points.iter().enumerate().map(point).collect()
}
