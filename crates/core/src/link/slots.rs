//! The attachments of points while layers have their say, and by which names they are known.

use std::sync::Arc;

use indexmap::IndexMap;
use rustc_hash::{FxBuildHasher, FxHashMap};

use super::lookups::SetOf;
use super::names::Names;
use super::point::{By, Callback, Renderer, Replaced, Runs, Slot};
use super::reference::{Meaning, Meant, Target};
use super::refs::Refs;
use crate::address::{Address, Kind};
use crate::name::Name;
use crate::name_sets::NameSet;
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
#[derive(Clone, Default)]
pub(super) struct Slots {
    /// In running order.
    pub on: Arc<[Slot]>,
    /// Those that a higher layer took away.
    pub detached: Arc<[Slot]>,
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
    /// What callbacks were most likely meant to be that are not there, by where they are named.
    pub misspelt: FxHashMap<Place, Name>,
    /// What each callback renders.
    pub rendered_by: FxHashMap<Callback, Vec<Address>>,
    pub refs: Refs,
}

/// A slot, and the attachment that it comes from.
pub(super) type Placed<'n> = (Slot, &'n Attachment);

/// The slots of all points, before they are put in order.
#[derive(Default)]
pub(super) struct Waiting<'n> {
    pub slots: IndexMap<Address, Vec<Placed<'n>>, FxBuildHasher>,
    /// Where slots stand that run a function of that name, or did so at first.
    called: FxHashMap<&'static str, Vec<(Address, usize)>>,
}

impl<'n> Waiting<'n> {
    pub fn push(&mut self, address: Address, slot: Slot, attachment: &'n Attachment) {
        let slots = self.slots.entry(address).or_default();
        self.called.entry(function_of_slot(&slot.runs)).or_default().push((address, slots.len()));
        slots.push((slot, attachment));
    }

    pub fn of(&self, address: Address) -> &[Placed<'n>] {
        self.slots.get(&address).map_or(&[], Vec::as_slice)
    }

    /// Something else runs there from now on.
    pub fn replace(&mut self, address: Address, at: usize, runs: Runs, by: By) {
        let Some((slot, _)) = self.slots.get_mut(&address).and_then(|slots| slots.get_mut(at)) else { return };
        let first = slot.replaced.map_or(slot.runs, |replaced| replaced.first);
        slot.replaced = Some(Replaced { first, by });
        slot.runs = runs;
        self.called.entry(function_of_slot(&runs)).or_default().push((address, at));
    }

    /// Where slots stand that may answer to a name, point by point.
    pub fn called(&self, named: &Named) -> Vec<(Address, usize)> {
        let mut called = self.called.get(function_of(named.name)).cloned().unwrap_or_default();
        called.sort_by_key(|(address, at)| (self.slots.get_index_of(address), *at));
        called.dedup();
        called
    }
}

/// The slots of one point by the functions that they run, or ran at first.
pub(super) struct Called(FxHashMap<&'static str, Vec<usize>>);

impl Called {
    pub fn new<'s>(slots: impl Iterator<Item = &'s Slot>) -> Called {
        let mut called: FxHashMap<&'static str, Vec<usize>> = FxHashMap::default();
        for (at, slot) in slots.enumerate() {
            called.entry(function_of_slot(&slot.runs)).or_default().push(at);
            if let Some(replaced) = slot.replaced {
                called.entry(function_of_slot(&replaced.first)).or_default().push(at);
            }
        }
        Called(called)
    }

    /// Those that may answer to a name, in order.
    pub fn named(&self, named: &Named) -> Vec<usize> {
        let mut found = self.0.get(function_of(named.name)).cloned().unwrap_or_default();
        found.sort_unstable();
        found.dedup();
        found
    }
}

pub(super) struct Attaching<'n> {
    pub names: Names<'n>,
    pub out: Attached,
}

impl Attaching<'_> {
    pub(super) fn slots_named(
        &self,
        slots: &[Placed<'_>],
        called: &Called,
        from: LayerId,
        named: &Named,
    ) -> Vec<usize> {
        let mut named_so = called.named(named);
        named_so.retain(|at| self.answers_to(&slots[*at].0, from, named));
        if !named_so.is_empty() || self.out.misspelt.is_empty() {
            return named_so;
        }
        let meant = slots.iter().enumerate().filter(|(_, (slot, _))| self.meant_to_run(slot, from, named));
        meant.map(|(at, _)| at).collect()
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
        let Runs::Callback(call, None) = slot.runs else { return false };
        let at = Place { file: slot.place.file, at: call.at };
        let Some(meant) = self.out.misspelt.get(&at) else { return false };
        if function_of(*meant) != function_of(named.name) {
            return false;
        }
        let Some(meant) = CallRef::parse(meant, call.at) else { return false };
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

    /// What a name that no slot answers to was most likely meant to be: among all slots, and first among
    /// those that run a function of the same name.
    pub(super) fn meant_slot<'s>(
        &self,
        set: SetOf,
        from: LayerId,
        named: &Named,
        all: impl Fn() -> Vec<&'s Slot>,
        called: impl Fn(&Named) -> Vec<&'s Slot>,
    ) -> Option<Meant> {
        // The right callback, of another layer than is said.
        let (_, own) = Prefix::split(&named.name);
        let mut elsewhere = called(named).into_iter().filter_map(|slot| {
            let word = self.written(slot, from);
            (Prefix::split(&word).1 == own).then_some((slot, word))
        });
        if let (Some((slot, word)), None) = (elsewhere.next(), elsewhere.next()) {
            return Some(Meant::from(Meaning {
                written: word.as_str().into(),
                target: Target::Slot(slot.place),
                certain: true,
            }));
        }
        let standing = |written: &str| {
            let named = Named { name: written.into(), at: named.at };
            called(&named).into_iter().find(|slot| self.written(slot, from) == written)
        };
        let words = || all().into_iter().map(|slot| self.written(slot, from));
        let near = self.names.ground.looked.sets.of_owned(set, words).nearest(&named.name)?;
        let (near, slot) = match standing(&near.written) {
            Some(slot) => (near, slot),
            // What has been taken away since is not meant.
            None => {
                let near = NameSet::new(words().collect::<Vec<_>>().iter().map(String::as_str)).nearest(&named.name)?;
                let slot = standing(&near.written)?;
                (near, slot)
            }
        };
        let written = near.written.as_str().into();
        Some(Meant::from(Meaning { written, target: Target::Slot(slot.place), certain: near.certain }))
    }

    /// How what a slot ran at first is called in a layer.
    fn written(&self, slot: &Slot, from: LayerId) -> String {
        match slot.replaced.map_or(slot.runs, |replaced| replaced.first) {
            Runs::Partial(address, _) => address.to_string(),
            Runs::Callback(call, _) if slot.layer == from || call.prefix != Prefix::None => call.raw.to_string(),
            Runs::Callback(call, _) => format!("{}:{}", self.names.ground.project.layer(slot.layer).name, call.raw),
        }
    }
}

/// The function that is run, or the partial.
fn function_of_slot(runs: &Runs) -> &'static str {
    match runs {
        Runs::Partial(address, _) => Name::from(address.to_string().as_str()).as_str(),
        Runs::Callback(call, _) => function_of(call.raw),
    }
}

/// The function in the name of a callback.
fn function_of(name: Name) -> &'static str {
    let text = name.as_str();
    text.rfind('#').map_or(text, |at| &text[at + 1..])
}
