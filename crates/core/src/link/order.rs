//! The running order of the attachments of one point.

use super::attach::Attaching;
use super::point::{Runs, Slot};
use super::reference::{Link, Meant, Outcome, Reference, Target, Wanted};
use super::sort::{Edge, sort};
use crate::address::{Address, Kind};
use crate::names;
use crate::scan::{Attached, Attachment, CallRef, Named, Prefix};
use crate::source::{LayerId, Place};

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

impl Attaching<'_> {
    /// Puts the slots of a point into running order.
    pub(super) fn put_in_order(
        &mut self,
        address: Address,
        slots: Vec<(Slot, Attachment)>,
        detached: &[Slot],
    ) -> Vec<Slot> {
        let mut edges = Vec::new();
        for (at, (slot, attachment)) in slots.iter().enumerate() {
            for (named, before) in attachment
                .before
                .iter()
                .map(|named| (named, true))
                .chain(attachment.after.iter().map(|named| (named, false)))
            {
                let constraint = Place { file: slot.place.file, at: named.at };
                let others = self.slots_named(&slots, slot.layer, named);
                // A constraint that names what was detached binds nothing.
                let gone = detached.iter().find(|other| self.answers_to(other, slot.layer, named));
                let outcome = match others.first() {
                    Some(other) => Outcome::Found(Target::Slot(slots[*other].0.place)),
                    None if gone.is_some() => Outcome::Found(Target::Slot(gone.map_or(slot.place, |slot| slot.place))),
                    None if self.names.ground.blind.declarations
                        || self.has_strayed(Some(address), slot.layer, named) =>
                    {
                        Outcome::Unknown
                    }
                    None => Outcome::Missing {
                        wanted: Wanted::Slot(address, named.name),
                        meant: self.meant_slot(
                            &slots.iter().map(|(slot, _)| slot).chain(detached).collect::<Vec<_>>(),
                            slot.layer,
                            named,
                        ),
                    },
                };
                self.out.refs.refer(self.names.ground, Link::OrderToSlot, constraint, named.name, outcome);
                for other in others {
                    let (first, second) = if before { (at, other) } else { (other, at) };
                    edges.push(Edge { first, second, constraint });
                }
            }
        }
        let keys: Vec<_> = slots.iter().map(|(slot, _)| (slot.priority, slot.layer, slot.position)).collect();
        self.note_conflicts(address, &slots, &edges);
        let order = match sort(&keys, &edges) {
            Ok(order) => order,
            Err(cycle) => {
                let steps = cycle.iter().map(|edge| (slots[edge.first].0.place, edge.constraint)).collect();
                self.out.order_troubles.push(OrderTrouble::Cycle { point: address, steps });
                // No order can do justice to a circle, so the numbers alone decide.
                let mut order: Vec<usize> = (0..slots.len()).collect();
                order.sort_by_key(|at| keys[*at]);
                order
            }
        };
        let mut slots: Vec<Option<Slot>> = slots.into_iter().map(|(slot, _)| Some(slot)).collect();
        order.into_iter().filter_map(|at| slots[at].take()).collect()
    }

    fn slots_named(&self, slots: &[(Slot, Attachment)], from: LayerId, named: &Named) -> Vec<usize> {
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
            Some((first, by, _)) => {
                self.is_name_of(first, slot.layer, from, named) || self.is_name_of(&slot.runs, *by, from, named)
            }
            None => self.is_name_of(&slot.runs, slot.layer, from, named),
        }
    }

    fn is_name_of(&self, runs: &Runs, layer: LayerId, from: LayerId, named: &Named) -> bool {
        let call = match runs {
            Runs::Partial(address, _) => return address.to_string() == named.name.as_str(),
            Runs::Callback(call, _) => call,
        };
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
                Attached::Call(call) => Runs::Callback(call, None),
                Attached::Use(point) => {
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
            .map(|slot| match slot.replaced.map_or(slot.runs, |(first, _, _)| first) {
                Runs::Partial(address, _) => address.to_string(),
                Runs::Callback(call, _) if slot.layer == from || call.prefix != Prefix::None => call.raw.to_string(),
                Runs::Callback(call, _) => format!("{}:{}", self.names.ground.project.layer(slot.layer).name, call.raw),
            })
            .collect();
        let words = || written.iter().map(String::as_str);
        let near = names::nearest(&named.name, words())?;
        let at = written.iter().position(|word| word == near)?;
        let certain = names::certain(&named.name, words()).is_some();
        let target = Target::Slot(slots[at].place);
        Some(Meant { written: near.into(), target, certain })
    }

    fn note_conflicts(&mut self, point: Address, slots: &[(Slot, Attachment)], edges: &[Edge]) {
        for edge in edges {
            let (first, second) = (&slots[edge.first].0, &slots[edge.second].0);
            if first.priority > second.priority {
                let (first, second) = (first.place, second.place);
                let constraint = edge.constraint;
                self.out.order_troubles.push(OrderTrouble::Conflict { point, constraint, first, second });
            }
        }
    }
}
