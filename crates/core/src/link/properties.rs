//! Properties: is everything there that callbacks read of what they are given, and give back?

use indexmap::IndexMap;
use rustc_hash::FxBuildHasher;

use super::conditions::Conditions;
use super::known::{given, joined, missing, named_at, stray};
use super::point::{Callback, Input, Renderer, Runs, Said};
use super::reference::{Link, Meaning, Meant, Outcome, Target, Wanted};
use super::refs::Refs;
use super::slots::Attached;
use crate::address::{Address, Kind, Role};
use crate::name::Name;
use crate::names::{GLOBALS, certain, nearest};
use crate::scan::{Export, ModuleShape, Named, Returned, Shape, Step, Taken};
use crate::source::{At, FileId, Place};

/// What the context of every callback holds.
pub const CONTEXT: [&str; 6] = ["page", "site", "options", "theme", "args", "point"];

/// A callback at a point where it runs.
struct Run<'r> {
    point: &'r Said,
    file: FileId,
    module: &'r ModuleShape,
    export: &'r Export,
    /// Nothing for the callback that renders a component.
    role: Option<Role>,
}

/// Resolves the properties that callbacks read, and the keys of what preparers return.
pub(super) fn read_properties(conditions: Conditions<'_>, attached: &Attached) -> Refs {
    let reading = Reading { conditions };
    // One place is one reference, at however many points the callback runs; what is missing at one of them is.
    let mut found: IndexMap<(Place, Link), (Name, Outcome), FxBuildHasher> = IndexMap::default();
    for run in runs(conditions, attached) {
        let mut note = |link, place, written, outcome: Outcome| {
            let known = found.entry((place, link)).or_insert((written, outcome));
            if matches!(outcome, Outcome::Missing { .. }) && !matches!(known.1, Outcome::Missing { .. }) {
                *known = (written, outcome);
            }
        };
        for taken in &run.export.takes {
            if let Some((at, written, outcome)) = reading.resolve(&run, taken) {
                note(Link::PropertyToName, Place { file: run.file, at }, written, outcome);
            }
        }
        if run.role == Some(Role::Preparer) {
            let tables = run.export.returns.iter().filter_map(|returned| match returned {
                Returned::Table(keys, ..) => Some(keys),
                Returned::Text(..) | Returned::Value(..) | Returned::List(_) => None,
            });
            for key in tables.flatten() {
                let outcome = reading.input(&run, &run.point.inputs, Step { named: *key, short: false });
                note(Link::ReturnToInput, Place { file: run.file, at: key.at }, key.name, outcome);
            }
        }
    }
    let mut refs = Refs::default();
    for ((place, link), (written, outcome)) in found {
        refs.refer(conditions.names.ground, link, place, written, outcome);
    }
    refs
}

/// All callbacks, at all points where they run.
fn runs<'r>(conditions: Conditions<'r>, attached: &Attached) -> Vec<Run<'r>> {
    let names = conditions.names;
    let mut found = Vec::new();
    for point in names.declared.all() {
        let slots = attached.slots.get(&point.address).into_iter().flat_map(|slots| slots.on.iter());
        let called = slots.filter_map(|slot| match slot.runs {
            Runs::Callback(_, callback) => callback,
            Runs::Partial(..) => None,
        });
        let renders = match attached.renderers.get(&point.address) {
            Some(Renderer::Callback(callback)) if point.address.kind.is_component() => Some(*callback),
            _ => None,
        };
        let all = called.map(|callback| (callback, point.address.kind.role()));
        for (Callback { file, export }, role) in all.chain(renders.map(|callback| (callback, None))) {
            let Some(module) = names.ground.module(file) else { continue };
            let export = names.ground.export(Callback { file, export });
            found.extend(export.map(|export| Run { point, file, module, export, role }));
        }
    }
    found
}

struct Reading<'r> {
    conditions: Conditions<'r>,
}

impl Reading<'_> {
    /// A property that is read: where, as what, and where it leads. Nothing where what is read is no table that
    /// is known.
    fn resolve(&self, run: &Run<'_>, taken: &Taken) -> Option<(At, Name, Outcome)> {
        let context = if run.role == Some(Role::Listener) { 0 } else { 1 };
        let first = taken.path.first()?;
        if taken.param != context {
            let has_inputs = matches!(run.role, None | Some(Role::Preparer)) && taken.param == 0;
            let outcome = || self.input(run, &run.point.inputs, *first);
            return has_inputs.then(|| (first.named.at, first.named.name, outcome()));
        }
        if !CONTEXT.contains(&first.named.name.as_str()) {
            return Some((first.named.at, first.named.name, self.no_context(run, *first)));
        }
        let path: Vec<Named> = taken.path.iter().map(|step| step.named).collect();
        let second = taken.path.get(1)?;
        if first.named.name == "args" {
            let outcome = self.input(run, &run.point.args, *second);
            return Some((second.named.at, second.named.name, outcome));
        }
        let store = run.point.moment && first.named.name == "site" && second.named.name == "store";
        if store || !GLOBALS.contains(&first.named.name.as_str()) {
            return None;
        }
        let project = &self.conditions.names.ground.project;
        let top = project.file(run.file).layer == project.top();
        let (at, outcome) = match stray(self.conditions.names, self.conditions.known, &path, top) {
            None => (named_at(&path), Outcome::Found(given(&path))),
            Some(stray) if self.conditions.hidden(&path, &stray) => (path[0].at, Outcome::Unknown),
            Some(stray) => {
                let step = taken.path[stray.step];
                let wanted = Wanted::Variable(run.file, joined(&path[..=stray.step]));
                (step.named.at, renamed(run.module, missing(&path, stray, wanted), step))
            }
        };
        Some((at, joined(&path), outcome))
    }

    /// An input or argument, by its name.
    fn input(&self, run: &Run<'_>, known: &[Input], step: Step) -> Outcome {
        let (point, named) = (run.point, step.named);
        if known.iter().any(|input| input.field.name == named.name) {
            return Outcome::Found(Target::Input(point.address, named.name));
        }
        if self.conditions.names.ground.blind.declarations {
            return Outcome::Unknown;
        }
        let words = || known.iter().map(|input| input.field.name.as_str());
        let meant = nearest(&named.name, words()).map(|near| {
            Meant::from(Meaning {
                written: near.into(),
                target: Target::Input(point.address, near.into()),
                certain: certain(&named.name, words()).is_some(),
            })
        });
        let missing = Outcome::Missing { wanted: Wanted::Input(point.address, named.name), meant };
        renamed(run.module, missing, step)
    }

    /// A key that no context holds.
    fn no_context(&self, run: &Run<'_>, step: Step) -> Outcome {
        let name = step.named.name;
        let meant = nearest(&name, CONTEXT).map(|near| {
            Meant::from(Meaning {
                written: near.into(),
                target: Target::Given,
                certain: certain(&name, CONTEXT).is_some(),
            })
        });
        renamed(run.module, Outcome::Missing { wanted: Wanted::Variable(run.file, name), meant }, step)
    }
}

/// What was meant by a name that a variable stands for: the variable keeps its name, unless what is used is the
/// right one.
fn renamed(module: &ModuleShape, outcome: Outcome, step: Step) -> Outcome {
    match outcome {
        Outcome::Missing { wanted, meant: Some(meant) }
            if step.short && module.undeclared.iter().all(|used| used.name != meant.written) =>
        {
            let written = format!("{}: {}", meant.written, step.named.name).as_str().into();
            Outcome::Missing { wanted, meant: Some(Meant::from(Meaning { written, ..*meant })) }
        }
        outcome => outcome,
    }
}

/// The components that callbacks name in items.
pub(super) fn named_components(conditions: Conditions<'_>, refs: &mut Refs) {
    let names = conditions.names;
    let own_pieces: Vec<&str> =
        names.declared.points.keys().filter_map(|address| address.inner()).map(|(_, own)| own).collect();
    for (file, facts) in names.ground.files() {
        let Shape::Module(module) = &facts.shape else { continue };
        for named in &module.named {
            let Some((word, name)) = named.raw.as_str().split_once(':') else { continue };
            let kinds = [Kind::Partial, Kind::Section, Kind::Piece].map(Kind::word);
            if Kind::from_word(word).is_none() && nearest(word, kinds).is_none() {
                continue;
            }
            let outcome = match named.address {
                Some(Address { kind: Kind::Piece, .. }) if own_pieces.contains(&name) => Outcome::Found(Target::Given),
                _ => names.find_point(*named, Kind::is_component),
            };
            refs.refer(names.ground, Link::ItemToComponent, Place { file, at: named.at }, named.raw, outcome);
        }
    }
}
