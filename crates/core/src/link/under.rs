//! Circumstances: on which types of pages a condition lets something through, and what remains to be met there.

use std::sync::Arc;

use super::of_type::{KnownOfType, Shows, mentions_type, of_type};
use super::ties::Ties;
use super::types::Types;
use crate::address::{Address, Kind};
use crate::name::Name;
use crate::scan::{Condition, GuardId, Predicate, Term, engine_value};
use crate::source::{At, FileId, Place};

/// A condition that remains: files don't say whether it is met.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Remaining {
    /// The condition, in the template language.
    pub text: Name,
    /// What it asks for.
    pub asks: Asks,
    /// Where it stands.
    pub place: Place,
    /// Is it told by itself that it is never met: it asks for a feature that is off, or for a value that isn't there?
    pub told: bool,
}

/// What a condition asks for.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Asks {
    /// Is a point filled?
    Filled(Address),
    /// Is a point not filled?
    NotFilled(Address),
    /// Is a section among those of the page?
    Section(Address),
    /// Has a loop turns?
    Turns,
    /// Anything else that can be worked out for a page.
    Page,
    /// Something that only the template knows in which it stands.
    Inside,
}

impl Remaining {
    fn new(predicate: &Predicate, place: Place) -> Remaining {
        let text = match predicate {
            Predicate::Unknown(text) => *text,
            other => Name::from(other.to_string().as_str()),
        };
        Remaining { text, asks: Asks::of(predicate), place, told: false }
    }

    /// It as the end of a sentence that begins with "where".
    pub fn said(&self) -> String {
        match self.asks {
            Asks::Filled(point) => format!("{point} is filled"),
            Asks::NotFilled(point) => format!("{point} is not filled"),
            Asks::Section(section) => format!("{section} is among the page's sections"),
            Asks::Turns => format!("`{}` isn't empty", self.text),
            Asks::Page | Asks::Inside => format!("`{}` holds", self.text),
        }
    }

    /// The opposite, as the end of a sentence that begins with "since".
    pub fn denied(&self) -> String {
        match self.asks {
            Asks::Filled(point) => format!("{point} is not filled"),
            Asks::NotFilled(point) => format!("{point} is filled"),
            Asks::Section(section) => format!("{section} is not among the page's sections"),
            Asks::Turns => format!("`{}` is empty", self.text),
            Asks::Page | Asks::Inside => format!("`{}` does not hold", self.text),
        }
    }
}

impl Asks {
    fn of(predicate: &Predicate) -> Asks {
        match predicate {
            Predicate::Filled(point) => Asks::Filled(*point),
            Predicate::Not(inner) if let Predicate::Filled(point) = **inner => Asks::NotFilled(point),
            predicate if predicate.is_open() => Asks::Inside,
            Predicate::Turns(_) => Asks::Turns,
            _ => Asks::Page,
        }
    }
}

/// Conditions that remain, each once. Most ways have none.
pub type Conditions = Option<Arc<[Remaining]>>;

/// What has to be met on some types of pages.
#[derive(Clone, Debug)]
pub struct Circumstance {
    /// The types of pages.
    pub types: Types,
    /// What has to be met on all ways. None stands for no condition, and for ways that have none in common.
    pub conditions: Conditions,
    /// Is that enough? It is not where ways differ in more than that, or where more is needed that files don't say.
    pub whole: bool,
}

impl Circumstance {
    /// The conditions.
    pub fn all(&self) -> impl Iterator<Item = &Remaining> {
        self.conditions.iter().flat_map(|all| all.iter())
    }
}

/// What has to be met, by types of pages; each type once.
pub type ByType = Vec<Circumstance>;

/// Under which circumstances something is carried out.
#[derive(Clone, Debug)]
pub(super) struct Under {
    /// The types of pages on which it may be.
    pub may: Types,
    /// Those on which it is in any case.
    pub sure: Types,
    /// What has to be met on the others; where there are no types, what is never met.
    pub conditions: Conditions,
    /// Are these all that has to be met?
    pub whole: bool,
}

impl Under {
    /// In any case.
    pub const ALWAYS: Under = Under { may: Types::ALL, sure: Types::ALL, conditions: None, whole: true };

    /// As it happens.
    pub const PERHAPS: Under = Under { may: Types::ALL, sure: Types(0), conditions: None, whole: false };

    /// On no more than these types of pages.
    pub fn on(mut self, types: Types) -> Under {
        (self.may, self.sure) = (self.may.and(types), self.sure.and(types));
        self
    }

    /// Under both.
    pub fn and(self, other: Under) -> Under {
        let conditions = joined(&self.conditions, &other.conditions);
        let whole = self.whole && other.whole;
        Under { may: self.may.and(other.may), sure: self.sure.and(other.sure), conditions, whole }
    }
}

/// The conditions of both.
pub(super) fn joined(one: &Conditions, other: &Conditions) -> Conditions {
    match (one, other) {
        (None, other) => other.clone(),
        (one, None) => one.clone(),
        (Some(one), Some(other)) => {
            let is_new = |new: &&Remaining| one.iter().all(|known| known.text != new.text);
            let mut all = one.to_vec();
            all.extend(other.iter().filter(is_new));
            Some(all.into())
        }
    }
}

/// The conditions that are in both.
pub(super) fn common(one: &Conditions, other: &Conditions) -> Conditions {
    let (Some(one), Some(other)) = (one, other) else { return None };
    let all: Vec<Remaining> =
        one.iter().filter(|known| other.iter().any(|also| also.text == known.text)).copied().collect();
    if all.len() == one.len() { Some(one.clone()) } else { (!all.is_empty()).then(|| all.into()) }
}

impl<'t> Ties<'t> {
    /// Under which circumstances a part of a template is carried out, where something is shown in it.
    pub fn under_guard(&self, file: FileId, guard: Option<GuardId>, shows: Shows) -> Under {
        let Some(template) = self.names.ground.template(file).filter(|_| guard.is_some()) else { return Under::ALWAYS };
        let guards = || template.guards_from(guard);
        let under =
            guards().fold(Under::ALWAYS, |under, guard| under.and(self.under(&guard.predicate, file, guard.at, shows)));
        if !under.may.is_empty() {
            return under;
        }
        // What is never met says why.
        let parts = guards().flat_map(|guard| guard.predicate.conjuncts().into_iter().map(|part| (part, guard.at)));
        let parts: Vec<(Types, Remaining)> = parts
            .map(|(part, at)| {
                let remaining = Remaining { told: self.is_told(&part), ..Remaining::new(&part, Place { file, at }) };
                (self.types_of(&part, shows).0, remaining)
            })
            .collect();
        let alone = parts.iter().filter(|(may, _)| may.is_empty()).take(1);
        let together = parts.iter().filter(|(may, _)| *may != Types::ALL);
        let denied: Vec<Remaining> = match alone.clone().count() {
            0 => together.map(|(_, remaining)| *remaining).collect(),
            _ => alone.map(|(_, remaining)| *remaining).collect(),
        };
        Under { conditions: Some(denied.into()), ..under }
    }

    /// Under which circumstances something runs that has a `when`.
    pub fn under_when(&self, file: FileId, when: Option<&Condition>) -> Under {
        let Some(when) = when else { return Under::ALWAYS };
        // One that can never hold is told by itself, and counts as if it could.
        let types = self.names.declared.types_where(Some(when));
        let under = self.under(&when.predicate, file, when.at, Shows::Other);
        Under { may: types, sure: under.sure.and(types), ..under }
    }

    fn under(&self, predicate: &Predicate, file: FileId, at: At, shows: Shows) -> Under {
        // Most ask for the type of the page, or for the point that they guard.
        if let Some(types) = of_type(predicate, &self.names.declared.types) {
            return Under { may: types, sure: types, ..Under::ALWAYS };
        }
        if matches!((predicate, shows), (Predicate::Filled(point), Shows::Point(shown)) if *point == shown) {
            return Under::ALWAYS;
        }
        if let Predicate::Unknown(_) = predicate {
            let remaining = Remaining::new(predicate, Place { file, at });
            return Under { conditions: Some([remaining].into()), whole: true, ..Under::PERHAPS };
        }
        let mut under = Under::ALWAYS;
        let mut remaining = Vec::new();
        for part in predicate.conjuncts() {
            let (may, sure) = self.types_of(&part, shows);
            under.may = under.may.and(may);
            under.sure = under.sure.and(sure);
            if may.without(sure).is_empty() {
                continue;
            }
            if self.is_told_elsewhere(&part) {
                under.whole = false;
            } else {
                remaining.push(Remaining::new(&part, Place { file, at }));
            }
        }
        under.conditions = (!remaining.is_empty()).then(|| remaining.into());
        under
    }

    /// Does a condition ask for a feature that is off, or for a value that isn't among those there are?
    fn is_told(&self, predicate: &Predicate) -> bool {
        let mut told = false;
        predicate.visit(&mut |part| {
            told |= match part {
                Predicate::Enabled(feature) => !self.names.declared.is_on(*feature),
                Predicate::Compare(left, _, right) => match (&**left, &**right) {
                    (Term::Path(path), Term::Literal(value)) | (Term::Literal(value), Term::Path(path)) => {
                        self.names.declared.closed_values(path).is_some_and(|known| !known.contains(value))
                    }
                    _ => false,
                },
                _ => false,
            }
        });
        told
    }

    /// Does it ask for a point that isn't there? That is told by itself.
    fn is_told_elsewhere(&self, predicate: &Predicate) -> bool {
        matches!(predicate, Predicate::Filled(point) if !self.names.declared.has(*point))
    }

    /// The types of pages on which a condition may hold, and those on which it does in any case.
    fn types_of(&self, predicate: &Predicate, shows: Shows) -> (Types, Types) {
        // Most ask whether that is filled which they guard.
        match (predicate, shows) {
            (Predicate::Filled(point), Shows::Point(shown)) if *point == shown => return (Types::ALL, Types::ALL),
            (Predicate::Outlet(outlet), Shows::Outlet(shown)) if *outlet == shown => return (Types::ALL, Types::ALL),
            _ => {}
        }
        let declared = self.names.declared;
        if let Some(types) = of_type(predicate, &declared.types) {
            return (types, types);
        }
        let not = predicate.negated();
        let holds = |page_type: Option<Name>| {
            let known = KnownOfType { ties: *self, page_type, shows };
            let closed = |name: &str| match (name, page_type) {
                ("page.type", Some(_)) => None,
                _ => Some(declared.closed_values(name)?.iter().map(engine_value).collect()),
            };
            (predicate.can_hold(&known, closed), !not.can_hold(&known, closed))
        };
        if !mentions_type(predicate) && !self.asks_by_type(predicate) {
            let (may, sure) = holds(None);
            let all = |on: bool| if on { Types::ALL } else { Types::default() };
            return (all(may), all(sure));
        }
        let (mut may, mut sure) = (Types::default(), Types::default());
        for (at, page_type) in declared.types.iter().enumerate() {
            let (can, does) = holds(Some(page_type.name));
            may = if can { may.or(Types::one(at)) } else { may };
            sure = if does { sure.or(Types::one(at)) } else { sure };
        }
        (may, sure)
    }

    /// Does it ask whether a hook is filled? What is attached to it may be so for some types of pages.
    fn asks_by_type(&self, predicate: &Predicate) -> bool {
        let mut asks = false;
        predicate.visit(&mut |part| {
            asks |= matches!(part, Predicate::Filled(point)
                if point.kind == Kind::Hook && self.slots(*point).iter().any(|slot| slot.when.is_some()));
        });
        asks
    }
}
