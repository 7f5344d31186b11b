//! References that lead nowhere, grouped: one thing that is missing is one finding, however many
//! places ask for it.

use std::cell::{OnceCell, RefCell};

use indexmap::IndexMap;
use rustc_hash::{FxBuildHasher, FxHashMap, FxHashSet};

use super::likely::{Likely, only};
use super::missed::{Miss, Missed, Unheard};
use super::names::Names;
use super::point::Renderer;
use super::reference::{Link, Meaning, Meant, Outcome, Reference, Target, Wanted};
use crate::address::Address;
use crate::name::Name;
use crate::source::Place;

/// Groups what is missing. What was most likely meant counts as referred to.
pub(super) fn miss(
    names: Names<'_>,
    renderers: &FxHashMap<Address, Renderer>,
    references: &[Reference],
    referred: FxHashSet<Target>,
    unheard: Unheard,
) -> Missed {
    let out = Missed { referred, blind: names.ground.blind, unheard, ..Missed::default() };
    let mut grouping = Likely { names, renderers, references, out, filed: OnceCell::new(), free: RefCell::default() };
    grouping.group();
    grouping.join_renamed_components();
    grouping.join_renamed_features();
    grouping.excuse_orders();
    let mut missed = grouping.out;
    for (at, miss) in missed.misses.iter().enumerate() {
        missed.places.insert(miss.wanted, at);
        if let Some(meant) = miss.meant {
            let placed = matches!(miss.link, Link::PlaceToPoint | Link::ThroughToFilter);
            *missed.meant.entry(meant.target).or_default() |= placed;
        }
    }
    missed
}

impl Likely<'_> {
    /// Gathers what asks for the same thing.
    fn group(&mut self) {
        let mut groups: IndexMap<Wanted, Vec<usize>, FxBuildHasher> = IndexMap::default();
        for (at, reference) in self.references.iter().enumerate() {
            if let Outcome::Missing { wanted, .. } = reference.outcome
                && !self.out.unheard.links.contains(&reference.link)
            {
                groups.entry(wanted).or_default().push(at);
            }
        }
        // The same callback is asked for, whether it is said at which point or not.
        let mut at_point: FxHashMap<Name, Wanted> = FxHashMap::default();
        for wanted in groups.keys() {
            if let Wanted::Slot(_, name) = wanted {
                at_point.entry(*name).or_insert(*wanted);
            }
        }
        let same = |wanted: &Wanted| match wanted {
            Wanted::AnySlot(name) => at_point.get(name).copied(),
            _ => None,
        };
        let moved: Vec<(Wanted, Vec<usize>)> =
            groups.iter().filter_map(|(wanted, references)| Some((same(wanted)?, references.clone()))).collect();
        groups.retain(|wanted, _| same(wanted).is_none());
        for (same, references) in moved {
            groups[&same].extend(references);
        }
        for (wanted, mut references) in groups {
            references.sort_by_key(|at| {
                let reference = &self.references[*at];
                // Who declares or shows something knows more of it than who takes it away.
                let overrides = matches!(reference.link, Link::DetachToSlot | Link::ReplaceToSlot);
                (std::cmp::Reverse(reference.layer), overrides, reference.link, reference.from)
            });
            let first = self.references[references[0]];
            // One that asks with more words may know what was meant. A variable may mean what is no input.
            let may_know =
                |at: &&usize| !matches!(wanted, Wanted::Input(..)) || self.references[**at].link == first.link;
            let meant = references.iter().filter(may_know).find_map(|at| match self.references[*at].outcome {
                Outcome::Missing { meant, .. } => meant,
                _ => None,
            });
            // What nothing else asks for is a better guess than what is asked for elsewhere.
            let meant = match meant {
                Some(near) if !self.out.is_referred(near.target) => Some(near),
                // A callback is seldom attached twice: one that nothing uses is a better guess.
                Some(near) if near.certain && !matches!(wanted, Wanted::Export(..)) => Some(near),
                Some(near) if matches!(wanted, Wanted::Input(..)) && is_habit(first.written, near) => Some(near),
                near => self.orphan(wanted, first.written).or(near),
            };
            self.spare_what_was_left(wanted, meant);
            if let Some(meant) = meant {
                self.out.spared.insert(meant.target);
                if let (Wanted::Template(written), Target::File(file)) = (wanted, meant.target) {
                    self.out.meant_templates.insert(written, file);
                }
            } else {
                // What is missing could have placed anything.
                let holds = matches!(
                    wanted,
                    Wanted::Export(..)
                        | Wanted::Module(..)
                        | Wanted::Template(_)
                        | Wanted::Markup(_)
                        | Wanted::Macro(..)
                );
                self.out.blind.placements |= holds;
                self.out.blind.imports |= matches!(wanted, Wanted::Module(..));
            }
            self.out.misses.push(Miss { wanted, link: first.link, references, meant, layer: first.layer });
        }
    }

    /// A feature that is switched on under a name which the host does not know, and one that is missed
    /// wherever something feeds on it: one mistake.
    fn join_renamed_features(&mut self) {
        let is_unknown = |miss: &&mut Miss| {
            matches!(miss.wanted, Wanted::Point(_)) && miss.link == Link::FeatureToOffer && miss.meant.is_none()
        };
        let missed = only(self.out.misses.iter().filter(|miss| matches!(miss.wanted, Wanted::Feature(_))).cloned());
        let Some(Miss { wanted: Wanted::Feature(asked), references, .. }) = missed else { return };
        let Some(unknown) = only(self.out.misses.iter_mut().filter(is_unknown)) else { return };
        let feature = asked.whole();
        let written = feature.name;
        if let Wanted::Point(raw) = unknown.wanted
            && references.iter().any(|at| self.references[*at].layer > unknown.layer)
        {
            // Who misses it sees where it is switched on under another name.
            let target = raw.parse().ok().map(Target::Point);
            let missed = self.out.misses.iter_mut().find(|miss| miss.wanted == Wanted::Feature(asked));
            if let (Some(target), Some(missed)) = (target, missed) {
                missed.meant = Some(Meant::from(Meaning { written: raw, target, certain: false }));
            }
            return;
        }
        unknown.meant = Some(Meant::from(Meaning { written, target: Target::Point(feature), certain: false }));
        unknown.references.extend(references);
        self.out.misses.retain(|miss| miss.wanted != Wanted::Feature(asked));
    }

    /// An order that names what a replacement would have put there, where that replacement leads nowhere.
    fn excuse_orders(&mut self) {
        if self.out.misses.iter().all(|miss| miss.link != Link::OrderToSlot) {
            return;
        }
        let mut failed: FxHashMap<Place, Vec<Name>> = FxHashMap::default();
        for reference in self.references {
            if let Outcome::Missing { meant, .. } = reference.outcome {
                failed.entry(reference.from).or_default().extend(meant.map(|meant| meant.written));
            }
        }
        let mut lost: FxHashSet<Name> = FxHashSet::default();
        for (_, file) in self.names.ground.manifests() {
            let replacements = self.names.ground.manifest(file).map(|manifest| manifest.replacements.as_slice());
            for replacement in replacements.unwrap_or_default() {
                let (old, new) = (Place { file, at: replacement.call.at }, Place { file, at: replacement.with.at });
                if failed.contains_key(&old) || failed.contains_key(&new) {
                    lost.extend(failed.get(&new).into_iter().flatten());
                    lost.insert(replacement.with.raw);
                }
            }
        }
        let excused = |miss: &Miss| {
            miss.link == Link::OrderToSlot
                && matches!(miss.wanted, Wanted::Slot(_, name) | Wanted::AnySlot(name) if lost.contains(&name))
        };
        self.out.misses.retain(|miss| !excused(miss));
    }

    /// A component that was renamed lacks a template, and its old name is asked for: one mistake.
    fn join_renamed_components(&mut self) {
        let renamed: FxHashSet<Address> = self
            .out
            .misses
            .iter()
            .filter(|miss| matches!(miss.wanted, Wanted::Point(_)))
            .filter_map(|miss| match miss.meant?.target {
                Target::Point(address) => Some(address),
                _ => None,
            })
            .collect();
        self.out.misses.retain(|miss| !matches!(miss.wanted, Wanted::Markup(address) if renamed.contains(&address)));
    }
}

/// Is an input called so elsewhere that is called otherwise here?
fn is_habit(written: Name, near: Meant) -> bool {
    super::habits::input(&written, &[near.written.as_str()]).is_some()
}
