//! Absence: points that somebody needs, and that no page shows. Each has one reason, so that it is
//! reported once.

use super::chains::Chains;
use super::ground::Ground;
use super::looking::Looking;
use super::missed::Missed;
use super::paths::component_template;
use super::point::{Callback, Renderer, Runs, Said, UseId};
use super::reach::Reached;
use super::reference::{Outcome, Reference, Target, Wanted};
use super::taken::Taken;
use super::ties::Ties;
use super::types::Types;
use crate::address::{Address, Kind};
use crate::name::Name;
use crate::names;
use crate::scan::Item;
use crate::source::{FileId, LayerId, Place};

/// Why a point does not show.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Lack {
    /// Nothing places it.
    Unplaced,
    /// A layer's copy of a template lacks the placement that the original has.
    Lost {
        /// The copy.
        copy: FileId,
        /// The placement in the original, or what leads to it there.
        original: Place,
    },
    /// Editors are offered it, and a higher layer left it out of all pages.
    Unseen,
    /// There are placements, but no type of page gets to one.
    Unreached {
        /// The template that no type of page gets to, if that is the reason.
        template: Option<FileId>,
    },
    /// Every page has to have it, and these types of pages don't.
    Required {
        /// The types without it.
        types: Types,
    },
}

/// A point that somebody needs, and that does not show.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Absence {
    /// The point.
    pub point: Address,
    /// Why it does not show.
    pub lack: Lack,
    /// The highest layer that needs it, or that took it away.
    pub layer: LayerId,
    /// Is it missed only on some pages, which may be intended?
    pub partial: bool,
    /// What took it away from the pages that had it.
    pub taken: Option<Taken>,
}

/// Finds the points that somebody needs, and that no page shows.
pub(super) fn absent(ties: Ties<'_>, missed: &Missed, reached: &Reached, references: &[Reference]) -> Vec<Absence> {
    if missed.blind.placements {
        return Vec::new();
    }
    let chains = Chains { ground: ties.names.ground, meant: &missed.meant_templates, parents: Some(&missed.parents) };
    let looking = Looking { ties, chains, missed, reached, references };
    let mut absences: Vec<Absence> = looking.points().filter_map(|point| looking.absence(point)).collect();
    absences.extend(looking.partial_losses());
    absences
}

impl<'l> Looking<'l> {
    fn reached(&self, point: &Said) -> Types {
        let position = self.ties.names.declared.points.get_index_of(&point.address);
        position.map_or(Types::default(), |position| self.reached.point(position))
    }

    fn is_stray_template(&self, file: FileId) -> bool {
        let shown = self.missed.is_referred(Target::File(file)) || self.ties.names.is_page_template(file);
        !shown && !self.missed.unheard.templates && may_be_stray(self.ground(), file)
    }

    fn absence(&self, point: &Said) -> Option<Absence> {
        let kind = point.address.kind;
        let meant = self.missed.is_meant_to_be_placed(point.address);
        let misnamed = !names::is_kebab(&point.address.name);
        if misnamed
            || meant
            || point.moment
            || point.dropped.is_some()
            // Who still uses it is told of that.
            || self.ground().is_retired(point)
            || !(kind.needs_placement() || kind == Kind::Filter && !self.ties.slots(point.address).is_empty())
        {
            return None;
        }
        let top = self.ground().project.top();
        if point.required {
            let types = self.ties.names.declared.templated_types().without(self.reached(point));
            if types.is_empty() {
                return None;
            }
            let taken = self.taken(point);
            let lack = |lack, layer| self.lacking(point, taken, lack, layer);
            return match taken {
                Some(Taken::Copy { copy, original }) => {
                    lack(Lack::Lost { copy, original }, self.ground().project.file(copy).layer)
                }
                Some(Taken::Block { .. }) => lack(Lack::Required { types }, top),
                None if self.hidden_in_reported(point) => None,
                None => match self.unreached_template(point) {
                    Some(file) => lack(Lack::Unreached { template: Some(file) }, top),
                    None => lack(Lack::Required { types }, top),
                },
            };
        }
        if !self.reached(point).is_empty() || self.ties.is_fired(point) {
            return None;
        }
        let layer = self.needed_by(point)?;
        let taken = self.taken(point);
        let by = taken.map(|taken| self.ground().project.file(taken.file()).layer);
        let lack = |lack, layer| self.lacking(point, taken, lack, layer);
        if let Some(by) = by {
            let depends =
                !self.ties.slots(point.address).is_empty() || !self.ties.fills(point.address).is_empty() || layer >= by;
            let offered = point.address.kind != Kind::Hook && !point.reserved;
            return match taken {
                Some(Taken::Copy { copy, original }) if depends => lack(Lack::Lost { copy, original }, layer),
                Some(Taken::Block { .. }) if depends => lack(Lack::Unreached { template: None }, layer),
                _ if offered => lack(Lack::Unseen, layer),
                _ => None,
            };
        }
        if self.ties.uses(point.address).is_empty() {
            return lack(Lack::Unplaced, layer);
        }
        if self.hidden_in_reported(point) {
            return None;
        }
        lack(Lack::Unreached { template: self.unreached_template(point) }, layer)
    }

    /// What a point lacks. That belongs to the highest layer that contributes to it.
    fn lacking(&self, point: &Said, taken: Option<Taken>, lack: Lack, layer: LayerId) -> Option<Absence> {
        let by = taken.map(|taken| self.ground().project.file(taken.file()).layer);
        let layer = by.map_or(layer, |by| by.max(layer));
        Some(Absence { point: point.address, lack, layer, partial: false, taken })
    }

    /// The highest layer above the host that declares, attaches to or fills a point.
    fn needed_by(&self, point: &Said) -> Option<LayerId> {
        let declared = point.declared.iter().map(|declared| declared.layer);
        let declared = declared.filter(|_| point.address.kind.needs_placement());
        let attached = self.ties.slots(point.address).iter().map(|slot| slot.layer);
        let filled = self.ties.fills(point.address).iter().map(|(file, _)| self.ground().project.file(*file).layer);
        declared.chain(attached).chain(filled).max().filter(|layer| layer.index() > 0)
    }

    /// The template that is the reason why no placement is reached: nothing reaches it at all.
    fn unreached_template(&self, point: &Said) -> Option<FileId> {
        self.ties
            .uses(point.address)
            .iter()
            .map(|id| id.file)
            .find(|file| self.ground().template(*file).is_some() && self.template_types(*file).is_empty())
    }

    /// Does every placement stand in something that is reported by itself, so that more words would
    /// be about the same cause?
    fn hidden_in_reported(&self, point: &Said) -> bool {
        !self.ties.uses(point.address).is_empty()
            && self.ties.uses(point.address).iter().all(|id| self.is_excused(*id, &mut Vec::new()))
    }

    fn is_excused(&self, id: UseId, seen: &mut Vec<FileId>) -> bool {
        if seen.contains(&id.file) || self.reached.never_met(self.ground(), id).iter().any(|denied| denied.told) {
            return true;
        }
        seen.push(id.file);
        let excused = match self.ground().template(id.file) {
            Some(_) => self.template_excused(id.file, seen),
            None => self.callback_excused(id),
        };
        seen.pop();
        excused
    }

    fn template_excused(&self, file: FileId, seen: &mut Vec<FileId>) -> bool {
        if !self.template_types(file).is_empty() {
            return false;
        }
        if self.is_stray_template(file) {
            return true;
        }
        // What a component that is asked for and not declared left behind.
        let left = self.missed.misses.iter().any(|miss| match miss.wanted {
            Wanted::Point(raw) => {
                raw.parse().is_ok_and(|address| component_template(address) == self.ground().project.file(file).name())
            }
            _ => false,
        });
        if left {
            return true;
        }
        let component = self.points().find(|point| self.ties.renderer(point.address) == Some(Renderer::Template(file)));
        if let Some(component) = component {
            // An unused component is nobody's mistake; one that is used only where nothing shows is.
            let containers = self.containers(component.address);
            let misfilled = self.is_misfilled(component.address);
            let used = !self.ties.uses(component.address).is_empty() || !containers.is_empty() || misfilled;
            return used
                && self.ties.uses(component.address).iter().all(|id| self.is_excused(*id, seen))
                && containers.iter().all(|point| {
                    let told = point.address.kind.is_component() || self.needed_by(point).is_some();
                    self.reached(point).is_empty() && told
                });
        }
        let mut users =
            self.references.iter().filter(|reference| reference.outcome == Outcome::Found(Target::File(file)));
        users.any(|user| {
            !seen.contains(&user.from.file) && self.ground().template(user.from.file).is_some() && {
                seen.push(user.from.file);
                self.template_excused(user.from.file, seen)
            }
        })
    }

    /// Is a component an item of something that is filled, but not there?
    fn is_misfilled(&self, component: Address) -> bool {
        self.ground().fills().into_iter().any(|(_, _, fill)| {
            let there = fill.to.address.is_some_and(|address| self.ties.names.declared.has(address));
            let mut items = fill.items().iter().flat_map(Item::all);
            !there && items.any(|(item, _)| item.component.address == Some(component))
        })
    }

    /// The points that hold a component as an item, or have it attached.
    fn containers(&self, component: Address) -> Vec<&Said> {
        let holds = |point: &&Said| {
            let attached = self
                .ties
                .slots(point.address)
                .iter()
                .any(|slot| matches!(slot.runs, Runs::Partial(address, _) if address == component));
            attached || self.ties.items(point.address).iter().any(|item| item.component == Some(component))
        };
        self.points().filter(holds).collect()
    }

    fn callback_excused(&self, id: UseId) -> bool {
        let Some(module) = self.ground().module(id.file) else { return false };
        let owner = self.ground().use_of(id).owner;
        let exports: Vec<Name> = match owner {
            Some(owner) => vec![owner],
            None => module.exports.iter().map(|export| export.name).collect(),
        };
        exports.iter().all(|export| {
            let callback = Callback { file: id.file, export: *export };
            if !self.missed.is_referred(Target::Export(id.file, *export)) {
                return !self.missed.unheard.exports && is_idle_reported(self.ground(), id.file);
            }
            self.points().any(|point| {
                let attached = self
                    .ties
                    .slots(point.address)
                    .iter()
                    .any(|slot| matches!(slot.runs, Runs::Callback(_, Some(found)) if found == callback));
                attached && self.reached(point).is_empty() && self.needed_by(point).is_some()
            })
        })
    }

    /// Placements that a copy of a template lost, though other pages still have them.
    fn partial_losses(&self) -> Vec<Absence> {
        let top = self.ground().project.top();
        let mut losses = Vec::new();
        for point in self.points() {
            let used = !self.ties.slots(point.address).is_empty() || !self.ties.fills(point.address).is_empty();
            if !used
                || point.required
                || point.dropped.is_some()
                || self.reached(point).is_empty()
                || !point.address.kind.needs_placement()
            {
                continue;
            }
            let Some((copy, original)) = self.lost(point) else { continue };
            let shown = self.template_types(copy);
            if self.ground().project.file(copy).layer == top && shown.and(self.reached(point)).is_empty() {
                let lack = Lack::Lost { copy, original };
                let taken = Some(Taken::Copy { copy, original });
                losses.push(Absence { point: point.address, lack, layer: top, partial: true, taken });
            }
        }
        losses
    }
}

/// Are exports of this module that nothing uses reported? They are the checked layer's, and it
/// is no theme that others build on.
pub(super) fn is_idle_reported(ground: &Ground, file: FileId) -> bool {
    let layer = ground.project.file(file).layer;
    layer == ground.project.top() && !ground.project.layer(layer).open
}

/// Is this a template of the checked theme that is reported where nothing refers to it?
pub(super) fn may_be_stray(ground: &Ground, file: FileId) -> bool {
    is_idle_reported(ground, file) && ground.template(file).is_some()
}
