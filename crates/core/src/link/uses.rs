//! Uses of points in templates and modules.

use rustc_hash::FxHashMap;

use super::arguments::{MissingArgument, Passed};
use super::names::Names;
use super::point::{Runs, UseId};
use super::reference::{Link, Outcome, Target, Wanted};
use super::slots::Attached;
use crate::address::{Address, Kind};
use crate::scan::Verb;
use crate::source::Place;

/// Where points are placed, sent through and asked for.
#[derive(Default)]
pub(super) struct Used {
    pub uses: FxHashMap<Address, Vec<UseId>>,
    pub passed: Passed,
}

/// Resolves every `place`, `through` and `filled`.
pub(super) fn use_points(names: Names<'_>, attached: &Attached) -> Used {
    let mut out = Used::default();
    for (file, facts) in names.ground.files() {
        for (index, found) in facts.shape.uses().iter().enumerate() {
            let id = UseId { file, index: index as u32 };
            let from = Place { file, at: found.point.at };
            let moment = || {
                found.point.address.and_then(|address| names.declared.point(address)).is_some_and(|point| point.moment)
            };
            let outcome = match found.verb {
                Verb::Place if moment() => Outcome::Missing { wanted: Wanted::Point(found.point.raw), meant: None },
                Verb::Place => names.find_point(found.point, Kind::is_placed),
                Verb::With => names.find_point(found.point, |kind| kind == Kind::Partial),
                Verb::Through => names.find_point(found.point, |kind| kind == Kind::Filter),
                Verb::Filled => names.find_point(found.point, Kind::needs_placement),
            };
            let component = found.point.address.is_some_and(|address| address.kind.is_component());
            let link = match found.verb {
                Verb::Through => Link::ThroughToFilter,
                Verb::Place if component => Link::PlaceToComponent,
                Verb::With => Link::PlaceToComponent,
                _ => Link::PlaceToPoint,
            };
            out.passed.refs.refer(names.ground, link, from, found.point.raw, outcome);
            let Outcome::Found(Target::Point(address)) = outcome else { continue };
            if found.verb != Verb::Filled {
                out.uses.entry(address).or_default().push(id);
                names.link_arguments(&mut out.passed, Link::ArgumentToInput, address, from, &found.args, found.open);
            }
        }
    }
    attached_partials(names, attached, &mut out);
    out
}

/// A partial attached to a hook gets the hook's arguments as inputs.
fn attached_partials(names: Names<'_>, attached: &Attached, out: &mut Used) {
    for (address, slots) in &attached.slots {
        let Some(point) = names.declared.point(*address) else { continue };
        for slot in slots.on.iter() {
            let Runs::Partial(address, true) = slot.runs else { continue };
            for input in &names.declared.points[&address].inputs {
                let given = point.args.iter().any(|arg| arg.field.name == input.field.name);
                if !given && input.field.default().is_none() {
                    let (name, declared) = (input.field.name, input.place);
                    out.passed.missing.push(MissingArgument { point: address, name, from: slot.place, declared });
                }
            }
        }
    }
}
