//! What is attached in one manifest, read by itself: several manifests are read at a time.

use super::conditions::Conditions;
use super::point::{Runs, Slot};
use super::reference::{Link, Outcome, Target};
use super::refs::Refs;
use super::slots::{Attached, Placed, Waiting, WrongKind};
use crate::address::{Address, Kind};
use crate::name::Name;
use crate::parallel;
use crate::scan::{Attached as What, Attachment};
use crate::source::{FileId, LayerId, Place};

/// What is attached in one manifest.
pub(super) struct AttachedHere<'n> {
    conditions: Conditions<'n>,
    /// Slots, by their points, with the position in the manifest for that in the layer.
    slots: Vec<(Address, Placed<'n>)>,
    /// How many attachments there are, with those that have no point.
    number: u32,
    misspelt: Vec<(Place, Name)>,
    strayed: Vec<(Option<Target>, LayerId, Attachment)>,
    wrong_kinds: Vec<WrongKind>,
    refs: Refs,
}

impl<'n> AttachedHere<'n> {
    /// Reads all manifests, in order.
    pub fn of_all(conditions: Conditions<'n>, manifests: &[(LayerId, FileId)]) -> Vec<AttachedHere<'n>> {
        // So many attachments are as much work as a file: the functions of a module are gathered for the first of them.
        const LIGHT: usize = 4;
        let attachments = |file| {
            let manifest = conditions.names.ground.manifest(file);
            manifest.map_or(&[][..], |manifest| &manifest.attachments)
        };
        let things: usize = manifests.iter().map(|(_, file)| attachments(*file).len()).sum();
        parallel::map_many(manifests.len(), things / LIGHT, |at| {
            let (layer, file) = manifests[at];
            let mut found = AttachedHere {
                conditions,
                slots: Vec::new(),
                number: 0,
                misspelt: Vec::new(),
                strayed: Vec::new(),
                wrong_kinds: Vec::new(),
                refs: Refs::default(),
            };
            attachments(file).iter().for_each(|attachment| found.read(layer, file, attachment));
            found
        })
    }

    /// Adds what was found to that of the manifests before; `position` counts the attachments of the layer.
    pub fn add_to(self, out: &mut Attached, waiting: &mut Waiting<'n>, position: &mut u32) {
        out.refs.append(self.refs);
        out.misspelt.extend(self.misspelt);
        out.strayed.extend(self.strayed);
        out.wrong_kinds.extend(self.wrong_kinds);
        for (address, (mut slot, attachment)) in self.slots {
            slot.position += *position;
            waiting.push(address, slot, attachment);
        }
        *position += self.number;
    }

    fn read(&mut self, layer: LayerId, file: FileId, attachment: &'n Attachment) {
        let names = self.conditions.names;
        self.number += 1;
        let slot = self.slot(layer, file, attachment);
        let outcome = names.find_point(attachment.to, |_| true);
        let from = Place { file, at: attachment.to.at };
        self.refs.refer(names.ground, Link::AttachmentToPoint, from, attachment.to.raw, outcome);
        if let Outcome::Missing { meant, .. } = outcome {
            self.strayed.push((meant.map(|meant| meant.target), layer, attachment.clone()));
        }
        let Outcome::Found(Target::Point(address)) = outcome else { return };
        let partial = matches!(attachment.what, What::Use(_));
        if address.kind.role().is_none() || partial && !address.kind.takes_partials() {
            return self.wrong_kinds.push(WrongKind { point: address, place: slot.place });
        }
        self.slots.push((address, (slot, attachment)));
    }

    fn slot(&mut self, layer: LayerId, file: FileId, attachment: &Attachment) -> Slot {
        let names = self.conditions.names;
        let here = |at| Place { file, at };
        let runs = match attachment.what {
            What::Call(call) => {
                let (outcome, callback) = names.find_callback(&call, layer);
                self.refs.refer(names.ground, Link::AttachmentToCallback, here(call.at), call.raw, outcome);
                if let Outcome::Missing { meant: Some(meant), .. } = outcome {
                    self.misspelt.push((here(call.at), meant.written));
                }
                Runs::Callback(call, callback)
            }
            What::Use(point) => {
                let outcome = names.find_point(point, |kind| kind == Kind::Partial);
                self.refs.refer(names.ground, Link::AttachmentToPartial, here(point.at), point.raw, outcome);
                let address = point.address.unwrap_or(Address::new(Kind::Partial, point.raw));
                Runs::Partial(address, matches!(outcome, Outcome::Found(_)))
            }
        };
        let mut switched_off = attachment.when_broken;
        if let Some(when) = &attachment.when {
            switched_off |= !self.conditions.link(&mut self.refs, file, when);
        }
        Slot {
            layer,
            place: here(attachment.at),
            position: self.number,
            priority: attachment.priority,
            runs,
            before: attachment.before.iter().map(|named| named.name).collect(),
            after: attachment.after.iter().map(|named| named.name).collect(),
            when: attachment.when.clone(),
            switched_off,
            sealed: attachment.sealed,
            replaced: None,
            detached: None,
        }
    }
}
