//! The registry: what all steps have found out, put together.

use std::sync::Arc;

use indexmap::IndexMap;
use rustc_hash::{FxBuildHasher, FxHashMap, FxHashSet};

use super::absence::{Absence, absent};
use super::arguments::MissingArgument;
use super::chains::Chains;
use super::feeds::link_feeds;
use super::globals::{link_addresses, link_globals};
use super::ground::Ground;
use super::inline::link_inline;
use super::messages::translate;
use super::missed::{Missed, Unheard};
use super::misses::miss;
use super::point::{Point, Said, UseId};
use super::reach::{Reached, reach};
use super::reference::{Outcome, Reference, Target};
use super::refs::Refs;
use super::settled::Settled;
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
    pub(super) settled: Arc<Settled>,
    pub(super) points: IndexMap<Address, Point, FxBuildHasher>,
    pub(super) references: Vec<Reference>,
    pub(super) missed: Missed,
    pub(super) reached: Reached,
    pub(super) absences: Vec<Absence>,
    /// Inputs and arguments that a use has to pass on and doesn't.
    pub(super) missing: Vec<MissingArgument>,
}

impl Registry {
    /// Scans all files of a project and links them.
    pub fn new(project: Project) -> Registry {
        let facts = Registry::scan(&project);
        Registry::link(project, facts)
    }

    /// The same theme, linked as if nobody were told of some things.
    pub fn unhearing(&self, unheard: Unheard) -> Registry {
        let ground = Ground::new(self.ground.project.clone(), self.ground.facts.to_vec(), self.ground.partly);
        Registry::on(ground, self.settled.clone(), unheard)
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
            Registry::from_facts(project, facts, true, Unheard::default())
        })
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
        Registry::from_facts(project, facts, false, Unheard::default())
    }

    pub(super) fn from_facts(project: Project, facts: Vec<Facts>, partly: bool, unheard: Unheard) -> Registry {
        let ground = Ground::new(project, facts, partly);
        let settled = Arc::new(Settled::of(&ground));
        Registry::on(ground, settled, unheard)
    }

    /// Takes the steps that look into templates, after those that don't: each from what it needs to a value of its
    /// own.
    pub(super) fn on(ground: Ground, settled: Arc<Settled>, unheard: Unheard) -> Registry {
        let names = settled.names(&ground);
        let conditions = settled.conditions(&ground);
        let Settled { declared, offered, rendered, attached, filled, carried, .. } = &*settled;
        // None of these needs another one, but for macros, which variables may mean.
        let templates = || {
            let included = include(names);
            let variables = read(conditions, &attached.renderers, &included.meant_macros);
            (included, variables)
        };
        let features = || {
            let (mut asked, mut fed) = (Refs::default(), Refs::default());
            link_globals(names, &mut asked);
            link_addresses(names, &mut asked);
            link_feeds(names, offered, &mut fed);
            translate(&ground, &mut fed);
            (asked, fed)
        };
        let placements = || (use_points(names, attached), name_values(names, attached));
        let files = ground.facts.len();
        let ((included, variables), ((asked, fed), (mut used, valued))) =
            parallel::both(files, templates, || parallel::both(files, features, placements));
        let inline = link_inline(names, attached, carried);
        let (references, referred) = joined([
            &rendered.refs,
            &settled.layers,
            &included.refs,
            &settled.held,
            &attached.refs,
            &used.passed.refs,
            &settled.imported,
            &filled.passed.refs,
            &carried.refs,
            &asked,
            &offered.refs,
            &fed,
            &variables,
            &settled.properties,
            &valued,
            &inline,
        ]);
        let mut missed = miss(names, &attached.renderers, &references, referred, unheard);
        let chains = Chains { ground: &ground, meant: &missed.meant_templates, parents: None };
        missed.parents = chains.all_parents();
        let ties = Ties { names, attached, used: &used, filled, carried };
        let reached = reach(ties, &missed, &references);
        let absences = absent(ties, &missed, &reached, &references);
        let missing = used.passed.missing.drain(..).chain(filled.passed.missing.iter().cloned()).collect();
        let point = |(position, (address, said)): (usize, (&Address, &Arc<Said>))| {
            let point = tied(&settled, *address, said, &mut used.uses, reached.point(position));
            (*address, point)
        };
        let points = declared.points.iter().enumerate().map(point).collect();
        Registry { ground, points, references, missed, reached, absences, missing, settled }
    }
}

/// All references in the order of the steps, and all that is referred to.
fn joined<const N: usize>(all: [&Refs; N]) -> (Vec<Reference>, FxHashSet<Target>) {
    let number = all.iter().map(|refs| refs.all.len()).sum();
    let references = || {
        let mut references = Vec::with_capacity(number);
        all.iter().for_each(|refs| references.extend_from_slice(&refs.all));
        references
    };
    let referred = || {
        let mut referred = FxHashSet::with_capacity_and_hasher(number / 2, FxBuildHasher);
        for refs in all {
            referred.extend(refs.referred.iter().copied());
            referred.extend(refs.all.iter().filter_map(|reference| match reference.outcome {
                Outcome::Found(target) => Some(target),
                _ => None,
            }));
        }
        referred
    };
    parallel::both(number, references, referred)
}

/// A point with all that is tied to it.
fn tied(
    settled: &Settled,
    address: Address,
    said: &Arc<Said>,
    uses: &mut FxHashMap<Address, Vec<UseId>>,
    reached: super::types::Types,
) -> Point {
    let Settled { attached, filled, .. } = settled;
    let slots = attached.slots.get(&address).cloned().unwrap_or_default();
    Point {
        said: said.clone(),
        slots: slots.on,
        detached: slots.detached,
        uses: uses.remove(&address).unwrap_or_default(),
        fills: filled.fills.get(&address).cloned().unwrap_or_default(),
        items: filled.items.get(&address).cloned().unwrap_or_default(),
        renderer: attached.renderers.get(&address).copied(),
        render_replaced: attached.render_replaced.get(&address).copied(),
        reached,
    }
}
