//! What files say of all pages of a type: what conditions are worked out by.

use minijinja::Value;

use super::point::{Slot, TypeInfo};
use super::ties::Ties;
use super::types::Types;
use crate::address::{Address, Kind};
use crate::name::Name;
use crate::scan::{Context, OutletKind, Predicate, Relation, Term};

/// What is shown behind a condition. Where it shows at all, it is filled.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Shows {
    Point(Address),
    Outlet(OutletKind),
    Other,
}

/// The types of pages on which a comparison holds that asks for the type alone; nothing of any other condition.
pub(super) fn of_type(predicate: &Predicate, types: &[TypeInfo]) -> Option<Types> {
    let Predicate::Compare(left, relation, right) = predicate else { return None };
    let (value, turned) = match (&**left, &**right) {
        (Term::Path(path), Term::Literal(value)) if *path == "page.type" => (value, false),
        (Term::Literal(value), Term::Path(path)) if *path == "page.type" => (value, true),
        _ => return None,
    };
    let is_it = |name: &str| match (relation, value, turned) {
        (Relation::Equal, value, _) => Some(value == name),
        (Relation::Unequal, value, _) => Some(value != name),
        (Relation::In, serde_json::Value::Array(all), false) => Some(all.iter().any(|value| value == name)),
        (Relation::NotIn, serde_json::Value::Array(all), false) => Some(all.iter().all(|value| value != name)),
        _ => None,
    };
    let mut found = Types::default();
    for (at, page_type) in types.iter().enumerate() {
        if is_it(&page_type.name)? {
            found = found.or(Types::one(at));
        }
    }
    Some(found)
}

pub(super) fn mentions_type(predicate: &Predicate) -> bool {
    predicate.paths().iter().any(|path| *path == "page.type")
}

/// What files say of all pages of a type, or of all pages.
pub(super) struct KnownOfType<'t> {
    pub ties: Ties<'t>,
    pub page_type: Option<Name>,
    /// What is shown where the condition holds, so that it is filled.
    pub shows: Shows,
}

impl Context for KnownOfType<'_> {
    fn value(&self, path: &str) -> Option<Value> {
        (path == "page.type").then_some(self.page_type).flatten().map(|name| Value::from(name.as_str()))
    }

    fn filled(&self, point: Address) -> Option<bool> {
        if self.shows == Shows::Point(point) {
            return Some(true);
        }
        let said = self.ties.names.declared.point(point)?;
        if said.dropped.is_some() {
            return Some(false);
        }
        // The host puts assets into a hook that it requires.
        if point.kind != Kind::Hook || said.required || self.is_open() {
            return None;
        }
        let on = |slot: &Slot| match &slot.when {
            _ if slot.switched_off => Some(false),
            Some(when) => when.predicate.truth(self),
            None => Some(true),
        };
        let mut known = Some(false);
        for slot in self.ties.slots(point) {
            match on(slot) {
                Some(true) => return Some(true),
                None => known = None,
                Some(false) => {}
            }
        }
        known
    }

    fn outlet(&self, outlet: OutletKind) -> Option<bool> {
        (self.shows == Shows::Outlet(outlet)).then_some(true)
    }

    fn enabled(&self, feature: Address) -> Option<bool> {
        let declared = self.ties.names.declared;
        if declared.is_on(feature) {
            return Some(true);
        }
        (declared.offers(feature) && !self.is_open()).then_some(false)
    }
}

impl KnownOfType<'_> {
    /// May layers that can't be seen here say more?
    fn is_open(&self) -> bool {
        let ground = self.ties.names.ground;
        ground.project.layer(ground.project.top()).open || ground.blind.declarations || ground.blind.placements
    }
}
