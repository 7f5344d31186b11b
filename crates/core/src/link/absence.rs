//! Absence: points that somebody needs, and that no page shows. Each has one reason, so that it is
//! reported once.

use super::*;
use crate::scan::Verb;

/// Why a point does not show.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Lack {
    /// Nothing places it.
    Unplaced,
    /// A layer's copy of a template lacks the placement that the original has.
    Lost {
        /// The copy.
        copy: FileId,
        /// The placement in the original.
        original: UseId,
    },
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
}

impl Registry {
    pub(super) fn find_absences(&mut self) {
        if self.blind.placements {
            return;
        }
        let mut absences: Vec<Absence> = self.points.values().filter_map(|point| self.absence(point)).collect();
        absences.extend(self.partial_losses());
        self.absences = absences;
    }

    fn absence(&self, point: &Point) -> Option<Absence> {
        let kind = point.address.kind;
        let meant = self.is_meant_to_be_placed(point.address);
        let misnamed = !crate::names::is_kebab(&point.address.name);
        if misnamed
            || meant
            || point.moment
            || point.dropped.is_some()
            || !(kind.needs_placement() || kind == Kind::Filter && !point.slots.is_empty())
        {
            return None;
        }
        let lack = |lack, layer| Some(Absence { point: point.address, lack, layer, partial: false });
        let top = self.project.top();
        if point.required {
            let types = self.templated_types().without(point.reached);
            if types.is_empty() {
                return None;
            }
            return match self.lost(point) {
                Some((copy, original)) => lack(Lack::Lost { copy, original }, self.project.file(copy).layer),
                None if self.hidden_in_reported(point) => None,
                None => match self.unreached_template(point) {
                    Some(file) => lack(Lack::Unreached { template: Some(file) }, top),
                    None => lack(Lack::Required { types }, top),
                },
            };
        }
        if !point.reached.is_empty() || self.is_fired(point) {
            return None;
        }
        let layer = self.needed_by(point)?;
        if let Some((copy, original)) = self.lost(point) {
            let copy_layer = self.project.file(copy).layer;
            let depends = !point.slots.is_empty() || !point.fills.is_empty() || layer >= copy_layer;
            return if depends { lack(Lack::Lost { copy, original }, layer.max(copy_layer)) } else { None };
        }
        if point.uses.is_empty() {
            return lack(Lack::Unplaced, layer);
        }
        if self.hidden_in_reported(point) {
            return None;
        }
        lack(Lack::Unreached { template: self.unreached_template(point) }, layer)
    }

    /// Does the host itself fire this: a moment, or a filter of its own that nothing is sent through?
    pub fn is_fired(&self, point: &Point) -> bool {
        let hosts = point.declared.first().is_some_and(|declared| declared.layer.index() == 0);
        hosts && (point.moment || point.address.kind == Kind::Filter && point.uses.is_empty())
    }

    /// The highest layer above the host that declares, attaches to or fills a point.
    fn needed_by(&self, point: &Point) -> Option<LayerId> {
        let declared = point.declared.iter().map(|declared| declared.layer);
        let declared = declared.filter(|_| point.address.kind.needs_placement());
        let attached = point.slots.iter().map(|slot| slot.layer);
        let filled = point.fills.iter().map(|(file, _)| self.project.file(*file).layer);
        declared.chain(attached).chain(filled).max().filter(|layer| layer.index() > 0)
    }

    /// The copy of a template that lacks a placement which the original has.
    fn lost(&self, point: &Point) -> Option<(FileId, UseId)> {
        point.uses.iter().rev().find_map(|id| {
            let original = self.project.file(id.file);
            let copies = self.files_named(original.kind, original.name());
            let copy = copies.iter().rev().find(|copy| self.project.file(**copy).layer > original.layer)?;
            let keeps = self.chain(*copy).contains(&id.file)
                || self
                    .uses_in(*copy)
                    .iter()
                    .any(|found| found.verb != Verb::Filled && found.point.address == Some(point.address));
            let shows = self.template(*copy).is_some() && !self.template_types(*copy).is_empty();
            (shows && !keeps).then_some((*copy, *id))
        })
    }

    /// The template that is the reason why no placement is reached: nothing reaches it at all.
    fn unreached_template(&self, point: &Point) -> Option<FileId> {
        point
            .uses
            .iter()
            .map(|id| id.file)
            .find(|file| self.template(*file).is_some() && self.template_types(*file).is_empty())
    }

    /// Does every placement stand in something that is reported by itself, so that more words would
    /// be about the same cause?
    fn hidden_in_reported(&self, point: &Point) -> bool {
        !point.uses.is_empty() && point.uses.iter().all(|id| self.is_excused(*id, &mut Vec::new()))
    }

    fn is_excused(&self, id: UseId, seen: &mut Vec<FileId>) -> bool {
        if seen.contains(&id.file) {
            return true;
        }
        seen.push(id.file);
        let excused = match self.template(id.file) {
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
        let left = self.misses.iter().any(|miss| match miss.wanted {
            Wanted::Point(raw) => {
                raw.parse().is_ok_and(|address| component_template(address) == self.project.file(file).name())
            }
            _ => false,
        });
        if left {
            return true;
        }
        let component = self.points.values().find(|point| point.renderer == Some(Renderer::Template(file)));
        if let Some(component) = component {
            // An unused component is nobody's mistake; one that is used only where nothing shows is.
            let containers = self.containers(component.address);
            let misfilled = self.is_misfilled(component.address);
            let used = !component.uses.is_empty() || !containers.is_empty() || misfilled;
            return used
                && component.uses.iter().all(|id| self.is_excused(*id, seen))
                && containers.iter().all(|point| {
                    let told = point.address.kind.is_component() || self.needed_by(point).is_some();
                    point.reached.is_empty() && told
                });
        }
        let mut users =
            self.references.iter().filter(|reference| reference.outcome == Outcome::Found(Target::File(file)));
        users.any(|user| {
            !seen.contains(&user.from.file) && self.template(user.from.file).is_some() && {
                seen.push(user.from.file);
                self.template_excused(user.from.file, seen)
            }
        })
    }

    /// Is a component an item of something that is filled, but not there?
    fn is_misfilled(&self, component: Address) -> bool {
        let fills = self.site().map(|(_, site)| site.fills.as_slice()).unwrap_or_default();
        fills.iter().any(|fill| {
            let there = fill.to.address.is_some_and(|address| self.points.contains_key(&address));
            let mut items = fill.items().iter().flat_map(crate::scan::Item::all);
            !there && items.any(|(item, _)| item.component.address == Some(component))
        })
    }

    /// The points that hold a component as an item, or have it attached.
    fn containers(&self, component: Address) -> Vec<&Point> {
        let holds = |point: &&Point| {
            let attached =
                point.slots.iter().any(|slot| matches!(slot.runs, Runs::Partial(address, _) if address == component));
            attached || point.items.iter().any(|item| item.component == Some(component))
        };
        self.points.values().filter(holds).collect()
    }

    fn callback_excused(&self, id: UseId) -> bool {
        let Some(module) = self.module(id.file) else { return false };
        let owner = self.use_of(id).owner;
        let exports: Vec<Name> = match owner {
            Some(owner) => vec![owner],
            None => module.exports.iter().map(|export| export.name).collect(),
        };
        exports.iter().all(|export| {
            let callback = Callback { file: id.file, export: *export };
            if !self.is_referred(Target::Export(id.file, *export)) {
                return self.is_idle_reported(id.file);
            }
            self.points.values().any(|point| {
                let attached = point
                    .slots
                    .iter()
                    .any(|slot| matches!(slot.runs, Runs::Callback(_, Some(found)) if found == callback));
                attached && point.reached.is_empty() && self.needed_by(point).is_some()
            })
        })
    }

    /// Are exports of this module that nothing uses reported? They are the checked layer's, and it
    /// is no theme that others build on.
    pub fn is_idle_reported(&self, file: FileId) -> bool {
        let layer = self.project.file(file).layer;
        layer == self.project.top() && !self.project.layer(layer).open
    }

    /// Is this a template of the checked theme that nothing refers to, and that is reported as such?
    pub fn is_stray_template(&self, file: FileId) -> bool {
        let layer = self.project.file(file).layer;
        layer == self.project.top()
            && !self.project.layer(layer).open
            && self.template(file).is_some()
            && !self.is_referred(Target::File(file))
            && !self.is_page_template(file)
    }

    /// Placements that a copy of a template lost, though other pages still have them.
    fn partial_losses(&self) -> Vec<Absence> {
        let top = self.project.top();
        let mut losses = Vec::new();
        for point in self.points.values() {
            let used = !point.slots.is_empty() || !point.fills.is_empty();
            if !used
                || point.required
                || point.dropped.is_some()
                || point.reached.is_empty()
                || !point.address.kind.needs_placement()
            {
                continue;
            }
            let Some((copy, original)) = self.lost(point) else { continue };
            let shown = self.template_types(copy);
            if self.project.file(copy).layer == top && shown.and(point.reached).is_empty() {
                let lack = Lack::Lost { copy, original };
                losses.push(Absence { point: point.address, lack, layer: top, partial: true });
            }
        }
        losses
    }
}
