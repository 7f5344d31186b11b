//! Attachments: tied to their points, layer by layer, with what the higher layers detach and replace.

use super::attached::AttachedHere;
use super::conditions::Conditions;
use super::lookups::SetOf;
use super::point::{By, Renderer, Runs, Slot};
use super::reference::{Link, Meaning, Meant, Outcome, Target, Wanted};
use super::render::Rendered;
use super::slots::{Ambiguous, Attached, Attaching, SealedHit, Slots, Waiting};
use crate::address::Address;
use crate::scan::{Detachment, Named, PointRef, Replacement};
use crate::source::{FileId, LayerId, Place};

/// What a replacement can act on.
#[derive(Clone, Copy)]
enum Spot {
    /// A slot, by point and position.
    Slot(Address, usize),
    /// A component's `render`.
    Render(Address),
}

/// Ties attachments to their points.
pub(super) fn attach(conditions: Conditions<'_>, rendered: &Rendered) -> Attached {
    let names = conditions.names;
    let out = Attached { renderers: rendered.renderers.clone(), ..Attached::default() };
    let mut attaching = Attaching { names, out };
    attaching.gather_rendered();
    let mut waiting = Waiting::default();
    let manifests = names.ground.manifests();
    let mut found = AttachedHere::of_all(conditions, &manifests).into_iter();
    for at in 0..names.ground.project.layers.len() {
        let layer = LayerId(at as u16);
        let own = manifests.iter().filter(|(of, _)| *of == layer).map(|(_, file)| *file);
        // The attachments of a layer are counted through all its manifests.
        let mut position = 0;
        for found in found.by_ref().take(own.clone().count()) {
            found.add_to(&mut attaching.out, &mut waiting, &mut position);
        }
        for file in own {
            let Some(manifest) = names.ground.manifest(file) else { continue };
            for detachment in &manifest.detachments {
                attaching.detach(layer, file, detachment, &mut waiting);
            }
            for replacement in &manifest.replacements {
                attaching.replace(layer, file, replacement, &mut waiting);
            }
        }
    }
    for (address, slots) in waiting.slots {
        let (gone, slots): (Vec<_>, Vec<_>) = slots.into_iter().partition(|(slot, _)| slot.detached.is_some());
        let detached: Vec<Slot> = gone.into_iter().map(|(slot, _)| slot).collect();
        let on = attaching.put_in_order(address, slots, &detached);
        attaching.out.slots.insert(address, Slots { on: on.into(), detached: detached.into() });
    }
    attaching.out
}

impl Attaching<'_> {
    /// Takes away what a lower layer attached.
    fn detach(&mut self, layer: LayerId, file: FileId, detachment: &Detachment, waiting: &mut Waiting<'_>) {
        let here = |at| Place { file, at };
        let named = detachment.what;
        let Some(address) = self.point_of(Link::DetachToSlot, detachment.from, named, layer, file, waiting) else {
            return;
        };
        let found = self.below(Some(address), layer, &named, waiting);
        let found: Vec<usize> = found.into_iter().map(|(_, at)| at).collect();
        let outcome = self.slot_outcome(&found, Some(address), layer, &named, waiting);
        self.out.refs.refer(self.names.ground, Link::DetachToSlot, here(named.at), named.name, outcome);
        for at in found {
            let Some(slots) = waiting.slots.get_mut(&address) else { continue };
            match slots[at].0.sealed {
                true => self.out.sealed_hits.push(SealedHit {
                    point: address,
                    attempt: here(detachment.at),
                    slot: slots[at].0.place,
                }),
                false => slots[at].0.detached = Some(By { layer, place: here(detachment.at) }),
            }
        }
    }

    /// Puts another callback in the place of one that a lower layer attached, or that renders a
    /// component there.
    fn replace(&mut self, layer: LayerId, file: FileId, replacement: &Replacement, waiting: &mut Waiting<'_>) {
        let here = |at| Place { file, at };
        let named = replacement.call;
        let (outcome, callback) = self.names.find_callback(&replacement.with, layer);
        self.out.refs.refer(
            self.names.ground,
            Link::ReplaceToCallback,
            here(replacement.with.at),
            replacement.with.raw,
            outcome,
        );
        let within = match replacement.within {
            None => None,
            Some(point) => match self.point_of(Link::ReplaceToSlot, point, named, layer, file, waiting) {
                Some(address) => Some(address),
                None => return,
            },
        };
        let spots = self.spots(within, layer, &named, waiting);
        let found: Vec<usize> = (0..spots.len()).collect();
        let outcome = match spots.first() {
            Some(Spot::Render(address)) => Outcome::Found(self.render_target(*address)),
            Some(Spot::Slot(address, at)) => Outcome::Found(Target::Slot(waiting.of(*address)[*at].0.place)),
            None => self.slot_outcome(&found, within, layer, &named, waiting),
        };
        self.out.refs.refer(self.names.ground, Link::ReplaceToSlot, here(named.at), named.name, outcome);
        if spots.len() > 1 {
            let slots = spots.iter().map(|spot| match spot {
                Spot::Slot(address, at) => (*address, waiting.of(*address)[*at].0.place),
                Spot::Render(address) => (*address, self.names.declared.points[address].declared[0].place),
            });
            let slots = slots.collect();
            return self.out.ambiguous.push(Ambiguous { place: here(named.at), name: named.name, slots });
        }
        let with = Runs::Callback(replacement.with, callback);
        match spots.first() {
            Some(Spot::Slot(address, at)) => {
                let (slot, _) = &waiting.of(*address)[*at];
                if slot.sealed {
                    return self.out.sealed_hits.push(SealedHit {
                        point: *address,
                        attempt: here(replacement.at),
                        slot: slot.place,
                    });
                }
                waiting.replace(*address, *at, with, By { layer, place: here(replacement.at) });
            }
            Some(Spot::Render(address)) => {
                match callback {
                    Some(callback) => {
                        self.out.rendered_by.entry(callback).or_default().push(*address);
                        self.out.renderers.insert(*address, Renderer::Callback(callback))
                    }
                    None => self.out.renderers.remove(address),
                };
                self.out.render_replaced.insert(*address, By { layer, place: here(replacement.at) });
            }
            None => {}
        }
    }

    /// What a replacement may mean: slots of lower layers, and what renders components there.
    fn spots(&self, within: Option<Address>, layer: LayerId, named: &Named, waiting: &Waiting<'_>) -> Vec<Spot> {
        let slots = self.below(within, layer, named, waiting).into_iter();
        let mut spots: Vec<Spot> = slots.map(|(address, at)| Spot::Slot(address, at)).collect();
        let Some(callback) = self.names.callback_named(&named.name, layer) else { return spots };
        let below = self.names.ground.project.file(callback.file).layer < layer;
        let renders = |address: &Address| self.out.renderers.get(address) == Some(&Renderer::Callback(callback));
        let mut all = self.out.rendered_by.get(&callback).cloned().unwrap_or_default();
        all.retain(|address| below && renders(address) && within.is_none_or(|within| within == *address));
        all.sort_by_key(|address| self.names.declared.points.get_index_of(address));
        all.dedup();
        spots.extend(all.into_iter().map(Spot::Render));
        spots
    }

    /// The slots of lower layers that answer to a name, at one point or at any, and are still there.
    fn below(
        &self,
        within: Option<Address>,
        layer: LayerId,
        named: &Named,
        waiting: &Waiting<'_>,
    ) -> Vec<(Address, usize)> {
        let mut found = waiting.called(named);
        found.retain(|(address, at)| {
            let (slot, _) = &waiting.of(*address)[*at];
            let there = within.is_none_or(|within| within == *address) && slot.detached.is_none();
            there && slot.layer < layer && self.answers_to(slot, layer, named)
        });
        found
    }

    fn gather_rendered(&mut self) {
        for (address, renderer) in &self.out.renderers {
            if let Renderer::Callback(callback) = renderer {
                self.out.rendered_by.entry(*callback).or_default().push(*address);
            }
        }
    }

    fn render_target(&self, address: Address) -> Target {
        match self.out.renderers.get(&address) {
            Some(Renderer::Callback(callback)) => Target::Export(callback.file, callback.export),
            _ => Target::Point(address),
        }
    }

    /// The point that a detachment or replacement names. Where there is none, what it asks for is not
    /// there, either.
    fn point_of(
        &mut self,
        link: Link,
        point: PointRef,
        named: Named,
        layer: LayerId,
        file: FileId,
        waiting: &Waiting<'_>,
    ) -> Option<Address> {
        let outcome = match self.names.find_point(point, |_| true) {
            Outcome::Found(Target::Point(address)) => return Some(address),
            Outcome::Missing { meant, .. } => {
                // Where the attachment meant stands elsewhere, that place is what was meant.
                let found = self.anywhere(layer, &named, waiting);
                self.out.refs.referred.extend(found.map(|(_, place)| Target::Slot(place)));
                let elsewhere = found.map(|(address, _)| address);
                let written = |address: Address| {
                    Meant::from(Meaning {
                        written: address.to_string().as_str().into(),
                        target: Target::Point(address),
                        certain: false,
                    })
                };
                let meant = meant.or_else(|| elsewhere.map(written));
                Outcome::Missing { wanted: Wanted::Point(point.raw), meant }
            }
            other => other,
        };
        self.out.refs.refer(self.names.ground, link, Place { file, at: point.at }, point.raw, outcome);
        None
    }

    fn slot_outcome(
        &self,
        found: &[usize],
        within: Option<Address>,
        layer: LayerId,
        named: &Named,
        waiting: &Waiting<'_>,
    ) -> Outcome {
        if let (Some(first), Some(address)) = (found.first(), within) {
            return Outcome::Found(Target::Slot(waiting.of(address)[*first].0.place));
        }
        if self.names.ground.blind.declarations || self.has_strayed(within, layer, named) {
            return Outcome::Unknown;
        }
        let lower = |slot: &&Slot| slot.layer < layer && slot.detached.is_none();
        let here = |address: &Address| within.is_none_or(|within| within == *address);
        let all = || -> Vec<&Slot> {
            let slots = waiting.slots.iter().filter(|(address, _)| here(address)).flat_map(|(_, slots)| slots);
            slots.map(|(slot, _)| slot).filter(lower).collect()
        };
        let called = |named: &Named| -> Vec<&Slot> {
            let called = waiting.called(named).into_iter().filter(|(address, _)| here(address));
            called.map(|(address, at)| &waiting.of(address)[at].0).filter(lower).collect()
        };
        let meant = self.meant_slot(SetOf::Attached(within, layer, true), layer, named, all, called);
        let wanted = match within {
            Some(address) => Wanted::Slot(address, named.name),
            None => Wanted::AnySlot(named.name),
        };
        Outcome::Missing { wanted, meant }
    }

    /// An attachment of a lower layer that answers to a name, whichever point it is at.
    fn anywhere(&self, layer: LayerId, named: &Named, waiting: &Waiting<'_>) -> Option<(Address, Place)> {
        waiting.called(named).into_iter().find_map(|(address, at)| {
            let (slot, _) = &waiting.of(address)[at];
            (slot.layer < layer && self.answers_to(slot, layer, named)).then_some((address, slot.place))
        })
    }
}
