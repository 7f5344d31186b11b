//! What can be asked of references, and of which pages get where.

use super::blind::Blind;
use super::known::PAGE_KEYS;
use super::missed::Miss;
use super::point::{Point, TypeInfo, UseId};
use super::reach::Twice;
use super::reference::{Link, Outcome, Reference, Target, Wanted};
use super::registry::Registry;
use super::types::Types;
use super::under::{ByType, Remaining};
use crate::address::{Address, Kind};
use crate::name::Name;
use crate::scan::{SectionId, Shape};
use crate::source::FileId;

/// References, and which pages get where.
impl Registry {
    /// Every reference from one place to another, resolved.
    pub fn references(&self) -> &[Reference] {
        self.found.references.all()
    }

    /// Does this feed on a feature by giving something for it (content of the preview, an offer), and not by
    /// showing it? Givers are no readers.
    pub fn is_given(&self, reference: &Reference) -> bool {
        reference.link == Link::FeedToFeature
            && match self.facts(reference.from.file).shape {
                Shape::Page(_) | Shape::Site(_) => true,
                // What a component offers of itself is content, too.
                Shape::Manifest(_) => reference.written == "extent",
                _ => false,
            }
    }

    /// The references that lead nowhere, grouped by what they ask for.
    pub fn misses(&self) -> &[Miss] {
        &self.missed.misses
    }

    /// What is missing of that sort, if it is.
    pub fn miss_of(&self, wanted: Wanted) -> Option<&Miss> {
        self.missed.miss_of(wanted)
    }

    /// Was this most likely meant by something that leads nowhere?
    pub fn is_meant(&self, target: Target) -> bool {
        self.missed.is_meant(target)
    }

    /// Is anything there that refers to this? What was most likely meant by a reference that leads
    /// nowhere counts as referred to.
    pub fn is_referred(&self, target: Target) -> bool {
        self.missed.is_referred(target)
    }

    /// Where to be careful with what seems not to be there.
    pub fn blind(&self) -> Blind {
        self.missed.blind
    }

    /// The types of pages that reach a use of a point.
    pub fn use_reached(&self, id: UseId) -> Types {
        self.reached.use_reached(&self.ground, id)
    }

    /// The types of pages on which a use of a point shows in any case.
    pub fn use_sure(&self, id: UseId) -> Types {
        self.reached.use_sure(&self.ground, id)
    }

    /// The types of pages that get to a point. An asset gets there where the hook is in which the host loads it.
    pub fn point_types(&self, point: &Point) -> Types {
        match self.loading_hook(point) {
            Some(hook) => point.reached.and(self.point(hook).map_or(Types::default(), |hook| hook.reached)),
            None => point.reached,
        }
    }

    /// The hook in which the host loads a style or a script, where it has one for that.
    pub fn loading_hook(&self, point: &Point) -> Option<Address> {
        match point.address.kind {
            Kind::Style => self.head_hook(),
            Kind::Script if self.comes_in_head(point) => self.head_hook(),
            Kind::Script => self.end_hook(),
            _ => None,
        }
    }

    /// The references to an option: those by which a site chooses its value, or those that read it.
    pub fn option_references(&self, option: Address, choices: bool) -> Vec<&Reference> {
        let leads = |reference: &&Reference| {
            reference.outcome == Outcome::Found(Target::Point(option))
                && (reference.link == Link::ChoiceToOption) == choices
        };
        self.references().iter().filter(leads).collect()
    }

    /// What has to be met for a use of a point to show, by the types of pages on which that is so.
    pub fn use_conditions(&self, id: UseId) -> ByType {
        self.reached.use_conditions(&self.ground, id)
    }

    /// The conditions around a use of a point that are never met, so that no page gets there.
    pub fn never_met(&self, id: UseId) -> Vec<Remaining> {
        self.reached.never_met(&self.ground, id)
    }

    /// Does a template ask whether a point is filled, around something else than that?
    pub fn has_other_guards(&self) -> bool {
        self.reached.has_other_guards()
    }

    /// All conditions that pages of a type may have to meet, each once.
    pub fn conditions_on(&self, page_type: usize) -> Vec<Remaining> {
        self.reached.all_conditions(page_type)
    }

    /// What has to be met for a point to be reached, by the types of pages on which that is so.
    pub fn conditions_of(&self, address: Address) -> ByType {
        self.points.get_index_of(&address).map_or(ByType::new(), |position| self.reached.point_conditions(position))
    }

    /// Why a point is on a page more than once, where it is.
    pub fn point_twice(&self, address: Address) -> Option<Twice> {
        self.reached.point_twice(self.points.get_index_of(&address)?)
    }

    /// Why a page's sections are on it more than once, where they are.
    pub fn sections_twice(&self) -> Option<Twice> {
        self.reached.sections_twice()
    }

    /// The types of pages that get to the outlet for their sections.
    pub fn sections_reached(&self) -> Types {
        self.reached.sections_reached()
    }

    /// The types of pages that would reach a part of a template if templates had no conditions.
    pub fn unguarded_types(&self, file: FileId, section: SectionId) -> Types {
        self.reached.unguarded_types(file, section)
    }

    /// The types of pages that have a key of `page`; nothing where all of them may have it.
    pub fn types_with(&self, key: Name) -> Option<Types> {
        if PAGE_KEYS.iter().any(|known| key == *known) || self.settled.declared.is_fed_key("page", key) {
            return None;
        }
        let has = |page_type: &TypeInfo| page_type.keys.iter().any(|field| field.name == key);
        let types: Types = self.types().iter().enumerate().filter(|(_, known)| has(known)).map(|(at, _)| at).collect();
        (!types.is_empty() && self.types().len() < 64).then_some(types)
    }

    /// The types of pages that reach any part of a template.
    pub fn template_types(&self, file: FileId) -> Types {
        self.reached.template_types(&self.ground, file)
    }
}
