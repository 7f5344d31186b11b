//! Arguments: what a use of a point passes on, and what it lacks.

use super::names::Names;
use super::point::Input;
use super::reference::{Link, Meaning, Meant, Outcome, Target, Wanted};
use super::refs::Refs;
use crate::address::{Address, Kind};
use crate::name::Name;
use crate::names;
use crate::scan::Named;
use crate::source::Place;

/// What the placement of a menu spot can say.
pub const MENU_ARGUMENTS: [&str; 3] = ["class", "bare", "with"];

/// An input or argument that a use has to pass on and doesn't.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct MissingArgument {
    /// The point.
    pub point: Address,
    /// The input or argument.
    pub name: Name,
    /// The use.
    pub from: Place,
    /// Where it is declared.
    pub declared: Place,
}

/// What uses pass on.
#[derive(Default)]
pub(super) struct Passed {
    pub missing: Vec<MissingArgument>,
    pub refs: Refs,
}

impl Names<'_> {
    /// Resolves the named arguments of one use, and notes those that it lacks.
    pub fn link_arguments(
        &self,
        out: &mut Passed,
        link: Link,
        address: Address,
        from: Place,
        given: &[Named],
        open: bool,
    ) {
        let point = &self.declared.points[&address];
        let is_menu = address.kind == Kind::Menu && !point.declared.is_empty();
        let (own, of_menu): (&[Input], &[&str]) = if is_menu { (&[], &MENU_ARGUMENTS) } else { (point.passed(), &[]) };
        let known = || own.iter().map(|input| input.field.name).chain(of_menu.iter().map(Name::from));
        let asking = self.ground.layer_of(from);
        let mut meant_names = Vec::new();
        for named in given {
            let place = Place { file: from.file, at: named.at };
            let outcome = if known().any(|name| name == named.name) {
                Outcome::Found(Target::Input(address, named.name))
            } else {
                let words = || known().map(Name::as_str);
                let habit = super::habits::input(&named.name, &words().collect::<Vec<_>>());
                let meant = habit.or_else(|| names::nearest(&named.name, words())).map(|near| {
                    Meant::from(Meaning {
                        written: near.into(),
                        target: Target::Input(address, near.into()),
                        certain: names::certain(&named.name, words()).is_some(),
                    })
                });
                meant_names.extend(meant.map(|meant| meant.written));
                match meant.is_none() && self.ground.blind.declarations {
                    // What can't be read may declare more of it.
                    true => Outcome::Unknown,
                    false => Outcome::Missing { wanted: Wanted::Input(address, named.name), meant },
                }
            };
            out.refs.refer(self.ground, link, place, named.name, outcome);
        }
        // An argument with a wrong name is reported under that name; then it is not missing, too.
        let wrong = given.iter().any(|named| known().all(|name| name != named.name));
        if open || wrong {
            return;
        }
        // The arguments of menus have defaults.
        for Input { field, place } in own {
            let passed = given.iter().any(|named| named.name == field.name) || meant_names.contains(&field.name);
            // What a higher layer added, a lower one can't know of.
            let known_there = self.ground.layer_of(*place) <= asking;
            if !passed && known_there && field.default().is_none() {
                out.missing.push(MissingArgument { point: address, name: field.name, from, declared: *place });
            }
        }
    }
}
