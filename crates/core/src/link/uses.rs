//! Uses of points in templates and modules.

use rustc_hash::FxHashMap;

use super::arguments::{MissingArgument, Passed};
use super::names::Names;
use super::point::{Runs, UseId};
use super::reference::{Link, Outcome, Target, Wanted};
use super::slots::Attached;
use crate::address::{Address, Kind};
use crate::parallel;
use crate::scan::Verb;
use crate::source::{FileId, Place};

/// Where points are placed, sent through and asked for.
#[derive(Default)]
pub(super) struct Used {
    pub uses: FxHashMap<Address, Vec<UseId>>,
    pub passed: Passed,
    /// What partials lack that are attached.
    pub bare: Vec<MissingArgument>,
}

/// Resolves every `place`, `through` and `filled`.
pub(super) fn use_points(names: Names<'_>, attached: &Attached) -> Used {
    // Each file by itself, several at a time; what was found is noted in their order.
    let files = names.ground.facts.len();
    let pieces = parallel::map_many(files.div_ceil(PIECE), files, |at| {
        let mut piece = UsedHere::default();
        for file in at * PIECE..files.min((at + 1) * PIECE) {
            piece.use_in(names, FileId(file as u32));
            piece.passed.refs.end_file();
        }
        piece
    });
    let mut out = Used::default();
    out.passed.refs.make_room(pieces.iter().map(|piece| &piece.passed.refs));
    pieces.into_iter().for_each(|piece| out.add(piece));
    out.bare = attached_partials(names, attached);
    out
}

/// How many files are looked at in one go.
const PIECE: usize = 512;

/// What some files use.
#[derive(Default)]
struct UsedHere {
    uses: Vec<(Address, UseId)>,
    passed: Passed,
}

impl Used {
    /// The uses in one file alone.
    pub fn of(names: Names<'_>, file: FileId) -> Used {
        let mut piece = UsedHere::default();
        piece.use_in(names, file);
        let mut out = Used::default();
        out.add(piece);
        out
    }

    fn add(&mut self, piece: UsedHere) {
        piece.uses.into_iter().for_each(|(address, id)| self.uses.entry(address).or_default().push(id));
        self.passed.missing.extend(piece.passed.missing);
        self.passed.refs.append(piece.passed.refs);
    }
}

impl UsedHere {
    fn use_in(&mut self, names: Names<'_>, file: FileId) {
        for (index, found) in names.ground.uses_in(file).iter().enumerate() {
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
            self.passed.refs.refer(names.ground, link, from, found.point.raw, outcome);
            let Outcome::Found(Target::Point(address)) = outcome else { continue };
            if found.verb != Verb::Filled {
                self.uses.push((address, id));
                names.link_arguments(&mut self.passed, Link::ArgumentToInput, address, from, &found.args, found.open);
            }
        }
    }
}

/// A partial attached to a hook gets the hook's arguments as inputs.
fn attached_partials(names: Names<'_>, attached: &Attached) -> Vec<MissingArgument> {
    let mut bare = Vec::new();
    for (address, slots) in &attached.slots {
        let Some(point) = names.declared.point(*address) else { continue };
        for slot in slots.on.iter() {
            let Runs::Partial(address, true) = slot.runs else { continue };
            for input in &names.declared.points[&address].inputs {
                let given = point.args.iter().any(|arg| arg.field.name == input.field.name);
                if !given && input.field.default().is_none() {
                    let (name, declared) = (input.field.name, input.place);
                    bare.push(MissingArgument { point: address, name, from: slot.place, declared });
                }
            }
        }
    }
    bare
}
