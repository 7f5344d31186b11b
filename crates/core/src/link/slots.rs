//! The attachments of points while layers have their say, and by which names they are known.

use indexmap::IndexMap;
use rustc_hash::{FxBuildHasher, FxHashMap};

use super::conditions::Conditions;
use super::names::Names;
use super::point::{By, Renderer, Replaced, Runs, Slot};
use super::reference::{Meant, Outcome, Reference, Target};
use super::refs::Refs;
use crate::address::{Address, Kind};
use crate::name::Name;
use crate::names;
use crate::scan::{Attached as What, Attachment, CallRef, Named, Prefix};
use crate::source::{LayerId, Place};

/// An attachment of a kind that its point does not take.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct WrongKind {
    /// The point.
    pub point: Address,
    /// The attachment.
    pub place: Place,
}

/// An attempt to detach or replace what is sealed.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct SealedHit {
    /// The point.
    pub point: Address,
    /// The attempt.
    pub attempt: Place,
    /// The attachment that stays.
    pub slot: Place,
}

/// A replacement that could mean several attachments, because it does not say in which point.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Ambiguous {
    /// The replacement.
    pub place: Place,
    /// What it replaces, as written.
    pub name: Name,
    /// The attachments, each with its point.
    pub slots: Vec<(Address, Place)>,
}

/// Why the attachments of a point don't run as their numbers and constraints say.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum OrderTrouble {
    /// Each of these has to run before the next, and the last before the first.
    Cycle {
        /// The point.
        point: Address,
        /// The attachments, with the constraint that binds each to the next.
        steps: Vec<(Place, Place)>,
    },
    /// A constraint goes against different priorities; it wins.
    Conflict {
        /// The point.
        point: Address,
        /// The constraint.
        constraint: Place,
        /// What runs first, because of it.
        first: Place,
        /// What runs after that.
        second: Place,
    },
}

/// The attachments of one point.
#[derive(Default)]
pub(super) struct Slots {
    /// In running order.
    pub on: Vec<Slot>,
    /// Those that a higher layer took away.
    pub detached: Vec<Slot>,
}

/// What is attached to points, and renders them, once all layers have had their say.
#[derive(Default)]
pub(super) struct Attached {
    pub slots: FxHashMap<Address, Slots>,
    pub renderers: FxHashMap<Address, Renderer>,
    /// Who put another callback in the place of the one that rendered a component.
    pub render_replaced: FxHashMap<Address, By>,
    /// Points whose order can't be as asked.
    pub order_troubles: Vec<OrderTrouble>,
    /// Attachments of a kind that their point does not take.
    pub wrong_kinds: Vec<WrongKind>,
    /// Attempts to detach or replace what is sealed.
    pub sealed_hits: Vec<SealedHit>,
    /// Replacements that could mean several attachments.
    pub ambiguous: Vec<Ambiguous>,
    /// Attachments to points that are not there, with what was most likely meant.
    pub strayed: Vec<(Option<Target>, LayerId, Attachment)>,
    pub refs: Refs,
}

/// The slots of all points, before they are put in order.
pub(super) type Waiting = IndexMap<Address, Vec<(Slot, Attachment)>, FxBuildHasher>;

pub(super) struct Attaching<'n> {
    pub names: Names<'n>,
    pub conditions: Conditions<'n>,
    pub out: Attached,
}

impl Attaching<'_> {
    pub(super) fn slots_named(&self, slots: &[(Slot, Attachment)], from: LayerId, named: &Named) -> Vec<usize> {
        let those = |matches: &dyn Fn(&Slot) -> bool| -> Vec<usize> {
            slots.iter().enumerate().filter(|(_, (slot, _))| matches(slot)).map(|(at, _)| at).collect()
        };
        let named_so = those(&|slot| self.answers_to(slot, from, named));
        if !named_so.is_empty() {
            return named_so;
        }
        those(&|slot| self.meant_to_run(slot, from, named))
    }

    /// Is this the name of a slot, seen from a layer? A slot answers to what it ran at first and to what
    /// it runs now.
    pub(super) fn answers_to(&self, slot: &Slot, from: LayerId, named: &Named) -> bool {
        match &slot.replaced {
            Some(Replaced { first, by }) => {
                self.is_name_of(first, slot.layer, from, named) || self.is_name_of(&slot.runs, by.layer, from, named)
            }
            None => self.is_name_of(&slot.runs, slot.layer, from, named),
        }
    }

    fn is_name_of(&self, runs: &Runs, layer: LayerId, from: LayerId, named: &Named) -> bool {
        let call = match runs {
            Runs::Partial(address, _) => return address.to_string() == named.name.as_str(),
            Runs::Callback(call, _) => call,
        };
        // Both end with the name of the function; that is soon seen, and most differ in it.
        if function_of(call.raw) != function_of(named.name) {
            return false;
        }
        let (prefix, rest) = Prefix::split(&named.name);
        let same_layer = match prefix {
            Prefix::None => layer == from,
            Prefix::Below => layer < from,
            Prefix::Layer(name) => self.names.ground.project.layer(layer).name == name,
        };
        let (_, written) = Prefix::split(&call.raw);
        // A callback of another layer may be attached here; then its full name counts.
        let full = call.raw == named.name && (call.prefix != Prefix::None || layer == from);
        full || same_layer && call.prefix == Prefix::None && written == rest
    }

    /// Does this attachment misspell a callback that is called by its right name here?
    fn meant_to_run(&self, slot: &Slot, from: LayerId, named: &Named) -> bool {
        let Runs::Callback(call, _) = slot.runs else { return false };
        let at = Place { file: slot.place.file, at: call.at };
        let asked = self.out.refs.all.iter().rev().find(|reference| reference.from == at);
        let Some(Reference { outcome: Outcome::Missing { meant: Some(meant), .. }, .. }) = asked else { return false };
        let Some(meant) = CallRef::parse(&meant.written, call.at) else { return false };
        self.is_name_of(&Runs::Callback(meant, None), slot.layer, from, named)
    }

    /// Is what is named here attached to another point, which is not there, by mistake? Without an
    /// address, whichever point was meant.
    pub(super) fn has_strayed(&self, address: Option<Address>, from: LayerId, named: &Named) -> bool {
        self.out.strayed.iter().any(|(meant, layer, attachment)| {
            let runs = match attachment.what {
                What::Call(call) => Runs::Callback(call, None),
                What::Use(point) => {
                    Runs::Partial(point.address.unwrap_or(Address::new(Kind::Partial, point.raw)), false)
                }
            };
            let there = address.is_none_or(|address| *meant == Some(Target::Point(address)));
            there && self.is_name_of(&runs, *layer, from, named)
        })
    }

    /// What a name that no slot answers to was most likely meant to be.
    pub(super) fn meant_slot(&self, slots: &[&Slot], from: LayerId, named: &Named) -> Option<Meant> {
        let written: Vec<String> = slots
            .iter()
            .map(|slot| match slot.replaced.map_or(slot.runs, |replaced| replaced.first) {
                Runs::Partial(address, _) => address.to_string(),
                Runs::Callback(call, _) if slot.layer == from || call.prefix != Prefix::None => call.raw.to_string(),
                Runs::Callback(call, _) => format!("{}:{}", self.names.ground.project.layer(slot.layer).name, call.raw),
            })
            .collect();
        let words = || written.iter().map(String::as_str);
        // The right callback, of another layer than is said.
        let (_, own) = Prefix::split(&named.name);
        let mut elsewhere = written.iter().enumerate().filter(|(_, word)| Prefix::split(word).1 == own);
        if let (Some((at, word)), None) = (elsewhere.next(), elsewhere.next()) {
            let target = Target::Slot(slots[at].place);
            return Some(Meant { written: word.as_str().into(), target, certain: true });
        }
        let near = names::nearest(&named.name, words())?;
        let at = written.iter().position(|word| word == near)?;
        let certain = names::certain(&named.name, words()).is_some();
        let target = Target::Slot(slots[at].place);
        Some(Meant { written: near.into(), target, certain })
    }
}

/// The function in the name of a callback.
fn function_of(name: Name) -> &'static str {
    let text = name.as_str();
    text.rfind('#').map_or(text, |at| &text[at + 1..])
}
