//! The running order of the attachments of one point.

use super::lookups::SetOf;
use super::point::Slot;
use super::reference::{Link, Outcome, Target, Wanted};
use super::slots::{Attaching, Called, OrderTrouble, Placed};
use super::sort::{Edge, sort};
use crate::address::Address;
use crate::source::Place;

impl Attaching<'_> {
    /// Puts the slots of a point into running order.
    pub(super) fn put_in_order(&mut self, address: Address, slots: Vec<Placed<'_>>, detached: &[Slot]) -> Vec<Slot> {
        let mut edges = Vec::new();
        let called = Called::new(slots.iter().map(|(slot, _)| slot));
        let gone_called = Called::new(detached.iter());
        for (at, (slot, attachment)) in slots.iter().enumerate() {
            for (named, before) in attachment
                .before
                .iter()
                .map(|named| (named, true))
                .chain(attachment.after.iter().map(|named| (named, false)))
            {
                let constraint = Place { file: slot.place.file, at: named.at };
                let others = self.slots_named(&slots, &called, slot.layer, named);
                // A constraint that names what was detached binds nothing.
                let mut gone = gone_called.named(named).into_iter().map(|at| &detached[at]);
                let gone = gone.find(|other| self.answers_to(other, slot.layer, named));
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
                            SetOf::Attached(Some(address), slot.layer, false),
                            slot.layer,
                            named,
                            || slots.iter().map(|(slot, _)| slot).chain(detached).collect(),
                            |named| {
                                let on = called.named(named).into_iter().map(|at| &slots[at].0);
                                on.chain(gone_called.named(named).into_iter().map(|at| &detached[at])).collect()
                            },
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

    fn note_conflicts(&mut self, point: Address, slots: &[Placed<'_>], edges: &[Edge]) {
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
