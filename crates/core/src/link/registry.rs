//! The registry: what all steps have found out, put together.

use std::sync::Arc;

use indexmap::IndexMap;
use rustc_hash::{FxBuildHasher, FxHashMap};

use super::absence::{Absence, absent};
use super::chains::Chains;
use super::found::Found;
use super::ground::Ground;
use super::missed::{Missed, Unheard};
use super::misses::miss;
use super::point::{Point, Said, UseId};
use super::quiet::Quiet;
use super::reach::{Reached, reach};
use super::settled::Settled;
use super::ties::Ties;
use super::types::Types;
use crate::address::Address;
use crate::parallel;
use crate::read::{Files, Project};
use crate::scan::{Facts, scan_file};
use crate::source::FileId;

/// All layers merged: read-only, behind the questions that are asked of it.
pub struct Registry {
    pub(super) ground: Ground,
    pub(super) settled: Arc<Settled>,
    /// What files say; where points are used is told by the points.
    pub(super) found: Found,
    pub(super) points: Points,
    pub(super) missed: Missed,
    pub(super) reached: Reached,
    pub(super) absences: Vec<Absence>,
    pub(crate) quiet: Quiet,
}

/// All points, in the order in which they are declared.
pub(super) type Points = IndexMap<Address, Point, FxBuildHasher>;

/// What is known from before some templates changed that other files see as before.
pub(super) struct Before<'b> {
    pub points: Points,
    pub reached: Reached,
    pub files: &'b [FileId],
}

impl Registry {
    /// Scans all files of a project and links them.
    pub fn new(project: Project) -> Registry {
        parallel::inside(project.files.len(), || {
            let facts = Registry::scan(&project);
            Registry::link(project, facts)
        })
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
        let found = Found::of(&ground, &settled, None);
        Registry::with(ground, settled, found, unheard, None)
    }

    /// Takes the steps that look at all that files say together.
    pub(super) fn with(
        ground: Ground,
        settled: Arc<Settled>,
        mut found: Found,
        unheard: Unheard,
        before: Option<Before<'_>>,
    ) -> Registry {
        let names = settled.names(&ground);
        let Settled { attached, filled, carried, .. } = &*settled;
        let references = found.references.all();
        let mut missed = miss(names, &attached.renderers, references, std::mem::take(&mut found.referred), unheard);
        let chains = Chains { ground: &ground, meant: &missed.meant_templates, parents: None };
        missed.parents = chains.all_parents();
        let ties = Ties { names, attached, uses: &found.uses, filled, carried };
        let (known, points) = match before {
            Some(before) => (Some((before.reached, before.files)), Some(before.points)),
            None => (None, None),
        };
        let reached = reach(ties, &missed, references, known);
        let (absences, points) = parallel::both(
            settled.declared.points.len() / parallel::LIGHT,
            || absent(ties, &missed, &reached, references),
            || match points {
                Some(points) => tied_again(points, &found.uses, &reached),
                None => all_tied(&settled, &found.uses, &reached),
            },
        );
        found.uses = FxHashMap::default();
        Registry { ground, settled, found, points, missed, reached, absences, quiet: Quiet::default() }
    }
}

/// All points, each with all that is tied to it.
fn all_tied(settled: &Settled, uses: &FxHashMap<Address, Vec<UseId>>, reached: &Reached) -> Points {
    let point = |(position, (address, said)): (usize, (&Address, &Arc<Said>))| {
        let uses = uses.get(address).cloned().unwrap_or_default();
        (*address, tied(settled, *address, said, uses, reached.point(position)))
    };
    settled.declared.points.iter().enumerate().map(point).collect()
}

/// The same points, used elsewhere.
fn tied_again(mut points: Points, uses: &FxHashMap<Address, Vec<UseId>>, reached: &Reached) -> Points {
    for (position, (address, point)) in points.iter_mut().enumerate() {
        point.uses = uses.get(address).cloned().unwrap_or_default();
        point.reached = reached.point(position);
    }
    points
}

/// A point with all that is tied to it.
fn tied(settled: &Settled, address: Address, said: &Arc<Said>, uses: Vec<UseId>, reached: Types) -> Point {
    let Settled { attached, filled, .. } = settled;
    let slots = attached.slots.get(&address).cloned().unwrap_or_default();
    Point {
        said: said.clone(),
        slots: slots.on,
        detached: slots.detached,
        uses,
        fills: filled.fills.get(&address).cloned().unwrap_or_default(),
        items: filled.items.get(&address).cloned().unwrap_or_default(),
        renderer: attached.renderers.get(&address).copied(),
        render_replaced: attached.render_replaced.get(&address).copied(),
        reached,
    }
}
