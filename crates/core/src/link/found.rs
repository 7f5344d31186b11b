//! What is found in templates, modules and style sheets on settled ground: references, and where points are used.

use rustc_hash::{FxBuildHasher, FxHashMap, FxHashSet};

use super::arguments::MissingArgument;
use super::feeds::{Feeds, link_feeds};
use super::globals::{link_addresses, link_globals};
use super::ground::Ground;
use super::inline::link_inline;
use super::messages::translate;
use super::point::UseId;
use super::reference::{Outcome, Reference, Target};
use super::refs::{References, Refs, Step};
use super::settled::Settled;
use super::templates::{Included, include};
use super::uses::{Used, use_points};
use super::values::{name_values, values_in};
use super::variables::{Reading, Users, users};
use crate::address::Address;
use crate::name::Name;
use crate::parallel;
use crate::scan::Shape;
use crate::source::FileId;

/// What all files say of points and of each other.
#[derive(Default)]
pub(super) struct Found {
    pub references: References,
    /// All that is referred to.
    pub referred: FxHashSet<Target>,
    /// Where points are placed, sent through and asked for.
    pub uses: FxHashMap<Address, Vec<UseId>>,
    /// Inputs and arguments that uses have to pass on and don't, in the order of the files.
    pub lacking: Vec<MissingArgument>,
    /// The same of all else.
    pub missing: Vec<MissingArgument>,
    /// Who includes or extends each template.
    pub users: Users,
}

impl Found {
    /// Looks into all files. The variables of all templates may be known from before.
    pub fn of(ground: &Ground, settled: &Settled, variables: Option<Refs>) -> Found {
        let names = settled.names(ground);
        let Settled { offered, rendered, attached, filled, carried, .. } = settled;
        let files = ground.facts.len();
        // None of these needs another one, but for macros, which variables may mean.
        let templates = || {
            let (included, users) = (include(names), users(ground));
            let read = || reading(ground, settled, &users, &included.meant_macros).read();
            let variables = variables.unwrap_or_else(read);
            (included.refs, users, variables)
        };
        let features = || (asked(ground, settled), link_feeds(names, offered), translate(ground));
        let placements = || (use_points(names, attached), name_values(names, attached));
        let ((included, users, variables), ((asked, feeds, translated), (used, (given, named)))) =
            parallel::both(files, templates, || parallel::both(files, features, placements));
        let inline = link_inline(names, attached, carried);
        let steps = [
            (Step::Rendered, &rendered.refs),
            (Step::Layers, &settled.layers),
            (Step::Included, &included),
            (Step::Adopted, &settled.adopted),
            (Step::Held, &settled.held),
            (Step::Attached, &attached.refs),
            (Step::Used, &used.passed.refs),
            (Step::Imported, &settled.imported),
            (Step::Filled, &filled.passed.refs),
            (Step::Carried, &carried.refs),
            (Step::Asked, &asked),
            (Step::Offered, &offered.refs),
            (Step::Questions, &feeds.questions),
            (Step::Fed, &feeds.fed),
            (Step::FedItems, &feeds.items),
            (Step::Translated, &translated),
            (Step::Variables, &variables),
            (Step::Properties, &settled.properties),
            (Step::Given, &given),
            (Step::Named, &named),
            (Step::Inline, &inline),
        ];
        let number = steps.iter().map(|(_, refs)| refs.all.len()).sum();
        let (references, referred) =
            parallel::both(number / parallel::LIGHT, || References::joined(&steps), || referred(&steps, number));
        let missing = used.bare.into_iter().chain(filled.passed.missing.iter().copied()).collect();
        Found { references, referred, uses: used.uses, lacking: used.passed.missing, missing, users }
    }

    /// Looks into one template again, of which other files see what they saw before.
    pub fn look_again(&mut self, ground: &Ground, settled: &Settled, file: FileId, before: &Shape) {
        let names = settled.names(ground);
        let Settled { offered, attached, carried, .. } = settled;
        let included = Included::of(names, file);
        let mut used = Used::of(names, file);
        let feeds = Feeds::of(names, offered, file);
        let mut variables = Vec::new();
        reading(ground, settled, &self.users, &included.meant_macros).read_in(file, &mut variables);
        let mut steps = vec![
            (Step::Included, Some(file), included.refs.all),
            (Step::Used, Some(file), std::mem::take(&mut used.passed.refs.all)),
            (Step::Questions, Some(file), feeds.questions.all),
            (Step::Fed, Some(file), feeds.fed.all),
            (Step::Variables, Some(file), variables),
            (Step::Given, Some(file), values_in(names, file).all),
        ];
        // These look at several files at once, and few have to do with them.
        let either = |has: fn(&Shape) -> bool| has(before) || has(&ground.facts(file).shape);
        if either(|shape| !shape.messages().is_empty()) {
            steps.push((Step::Translated, None, translate(ground).all));
        }
        if either(|shape| matches!(shape, Shape::Template(template) if !template.scripts.is_empty())) {
            steps.push((Step::Asked, None, asked(ground, settled).all));
        }
        steps.push((Step::Inline, None, link_inline(names, attached, carried).all));
        let mut gone = FxHashSet::default();
        for (step, file, with) in steps {
            gone.extend(targets(self.references.found(step, file)));
            self.referred.extend(targets(&with));
            self.references.replace(step, file, with);
        }
        self.forget(settled, gone);
        self.use_again(file, used);
    }

    /// Of what was referred to, what nothing refers to any more is forgotten.
    fn forget(&mut self, settled: &Settled, mut gone: FxHashSet<Target>) {
        for target in targets(self.references.all()).chain(settled.referred()) {
            gone.remove(&target);
            if gone.is_empty() {
                return;
            }
        }
        gone.iter().for_each(|target| {
            self.referred.remove(target);
        });
    }

    /// Puts the uses of points in a file in the place of those that were there.
    fn use_again(&mut self, file: FileId, used: Used) {
        self.uses.retain(|_, uses| {
            uses.retain(|id| id.file != file);
            !uses.is_empty()
        });
        for (address, new) in used.uses {
            let uses = self.uses.entry(address).or_default();
            let at = uses.partition_point(|id| id.file < file);
            uses.splice(at..at, new);
        }
        self.lacking.retain(|lacking| lacking.from.file != file);
        let at = self.lacking.partition_point(|lacking| lacking.from.file < file);
        self.lacking.splice(at..at, used.passed.missing);
    }
}

fn reading<'r>(
    ground: &'r Ground,
    settled: &'r Settled,
    users: &'r Users,
    meant_macros: &'r FxHashSet<(FileId, Name)>,
) -> Reading<'r> {
    let (names, conditions) = (settled.names(ground), settled.conditions(ground));
    Reading { names, conditions, users, shown_by: &settled.shown_by, meant_macros }
}

/// What scripts and style sheets ask of each other.
fn asked(ground: &Ground, settled: &Settled) -> Refs {
    let mut refs = Refs::default();
    link_globals(settled.names(ground), &mut refs);
    link_addresses(settled.names(ground), &mut refs);
    refs
}

fn targets(references: &[Reference]) -> impl Iterator<Item = Target> {
    references.iter().filter_map(|reference| match reference.outcome {
        Outcome::Found(target) => Some(target),
        _ => None,
    })
}

/// All that is referred to.
fn referred(steps: &[(Step, &Refs)], number: usize) -> FxHashSet<Target> {
    let mut referred = FxHashSet::with_capacity_and_hasher(number / 2, FxBuildHasher);
    for (_, refs) in steps {
        referred.extend(refs.referred.iter().copied());
        referred.extend(targets(&refs.all));
    }
    referred
}
