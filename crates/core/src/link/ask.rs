//! What can be asked of the registry.

use std::ops::Deref;

use serde_json::Value;

use super::absence::{is_idle_reported, may_be_stray};
use super::chains::Chains;
use super::feature::Feed;
use super::ground::Ground;
use super::items::PlacedItem;
use super::names::Names;
use super::point::{Callback, ItemUse, Point, Runs, Said, Slot, TypeInfo};
use super::reference::Target;
use super::registry::Registry;
use super::ties::is_fired;
use super::types::Types;
use crate::address::{Address, Kind};
use crate::name::Name;
use crate::scan::{CallRef, Condition, Limits};
use crate::source::{At, FileId, LayerId};

/// The registry can be asked whatever can be asked of the files on the ground.
impl Deref for Registry {
    type Target = Ground;

    fn deref(&self) -> &Ground {
        &self.ground
    }
}

/// Points, and the types of pages.
impl Registry {
    /// The point at an address; of an argument, the feature.
    pub fn point(&self, address: Address) -> Option<&Point> {
        self.points.get(&address.whole())
    }

    /// All points, in the order in which they are declared.
    pub fn points(&self) -> impl Iterator<Item = &Point> {
        self.points.values()
    }

    /// The addresses of all points.
    pub fn addresses(&self) -> impl Iterator<Item = &Address> {
        self.points.keys()
    }

    /// How many points there are.
    pub fn point_count(&self) -> usize {
        self.points.len()
    }

    /// All names of points of one kind.
    pub fn names(&self, kind: Kind) -> impl Iterator<Item = &'static str> {
        self.settled.declared.names(kind)
    }

    /// The types of pages.
    pub fn types(&self) -> &[TypeInfo] {
        &self.settled.declared.types
    }

    /// The keys that types of pages add to `page`.
    pub fn type_keys(&self) -> impl Iterator<Item = Name> {
        self.settled.declared.types.iter().flat_map(|page_type| &page_type.keys).map(|field| field.name)
    }

    /// The names of a set of types.
    pub fn type_names(&self, types: Types) -> Vec<&'static str> {
        self.settled.declared.type_names(types)
    }

    /// All types that have a template.
    pub fn templated_types(&self) -> Types {
        self.settled.declared.templated_types()
    }

    /// The types of pages on which a condition may hold. One that can never hold is told by itself, and
    /// counts as if it could.
    pub fn types_where(&self, when: Option<&Condition>) -> Types {
        self.settled.declared.types_where(when)
    }

    /// Can a condition ever hold, as far as options and types of pages are closed sets of values?
    pub fn can_hold(&self, when: &Condition) -> bool {
        self.settled.declared.can_hold(when)
    }

    /// All values that a name of a condition can have, where they are a closed set.
    pub fn closed_values(&self, name: &str) -> Option<Vec<Value>> {
        self.settled.declared.closed_values(name)
    }

    /// The limits of the host contract.
    pub fn limits(&self) -> &Limits {
        &self.settled.declared.limits
    }

    /// Does the host itself fire this: a moment, or a filter of its own that nothing is sent through?
    pub fn is_fired(&self, point: &Point) -> bool {
        is_fired(point, &point.uses)
    }

    /// The components that the preview's pages are composed of.
    pub fn page_sections(&self) -> &[ItemUse] {
        &self.settled.filled.page_sections
    }

    /// The host's hook inside the head element.
    pub fn head_hook(&self) -> Option<Address> {
        self.hook_inside("head", false)
    }

    /// The host's hook at the page's end: the last thing in the body.
    pub fn end_hook(&self) -> Option<Address> {
        self.hook_inside("body", true)
    }

    fn hook_inside(&self, element: &str, last: bool) -> Option<Address> {
        let hooks = self.points().filter(|point| point.address.kind == Kind::Hook);
        let found = hooks.filter(|point| point.inside.is_some_and(|(name, at_end)| name == *element && at_end == last));
        found.map(|point| point.address).next()
    }
}

/// Names.
impl Registry {
    fn by_name(&self) -> Names<'_> {
        Names { ground: &self.ground, declared: &self.settled.declared }
    }

    /// The callback of that name, seen from a layer.
    pub fn callback_named(&self, name: &str, layer: LayerId) -> Option<Callback> {
        self.by_name().callback_named(name, layer)
    }

    /// The module that a callback's name leads to where that module does not parse, so that its exports are not known.
    pub fn unparsed_module(&self, name: &str, layer: LayerId) -> Option<FileId> {
        let call = CallRef::parse(name, At::default())?;
        let file = self.by_name().module_of(&call, layer)?;
        self.facts(file).shape.is_broken().then_some(file)
    }

    /// The component that an item uses, seen from what holds it: a section's own pieces come before
    /// shared ones.
    pub fn item_component(&self, written: &str, holder: Option<Address>) -> Option<Address> {
        self.by_name().item_component(written, holder)
    }

    /// May a component be an item of that holder? Regions and areas hold whatever is no inner piece.
    pub fn may_hold(&self, holder: Address, held: Address) -> bool {
        self.by_name().may_hold(holder, held)
    }

    /// All items of the preview and of offers.
    pub fn items(&self) -> Vec<PlacedItem<'_>> {
        self.by_name().items()
    }

    /// What a slot is called: its callback's name, or its partial's address.
    pub fn slot_name(&self, slot: &Slot) -> String {
        self.runs_name(&slot.runs)
    }

    /// What a slot was called before a higher layer put another callback in its place.
    pub fn first_name(&self, slot: &Slot) -> String {
        self.runs_name(slot.replaced.as_ref().map_or(&slot.runs, |replaced| &replaced.first))
    }

    fn runs_name(&self, runs: &Runs) -> String {
        match *runs {
            Runs::Callback(_, Some(callback)) => self.callback_name(callback),
            Runs::Callback(written, None) => written.raw.to_string(),
            Runs::Partial(address, _) => address.to_string(),
        }
    }
}

/// Templates.
impl Registry {
    fn chains(&self) -> Chains<'_> {
        Chains { ground: &self.ground, meant: &self.missed.meant_templates, parents: Some(&self.missed.parents) }
    }

    /// The template that a file extends.
    pub fn parent_of(&self, file: FileId) -> Option<FileId> {
        self.chains().parent_of(file)
    }

    /// The template, and those that it extends in turn, each once.
    pub fn chain(&self, file: FileId) -> Vec<FileId> {
        self.chains().chain(file)
    }

    /// Is this the template of a type of page, in any layer?
    pub fn is_page_template(&self, file: FileId) -> bool {
        self.by_name().is_page_template(file)
    }

    /// Is this a template of the checked theme that nothing refers to, and that is reported as such?
    pub fn is_stray_template(&self, file: FileId) -> bool {
        may_be_stray(&self.ground, file) && !self.is_referred(Target::File(file)) && !self.is_page_template(file)
    }

    /// Are exports of this module that nothing uses reported? They are the checked layer's, and it
    /// is no theme that others build on.
    pub fn is_idle_reported(&self, file: FileId) -> bool {
        is_idle_reported(&self.ground, file)
    }
}

/// Features and assets.
impl Registry {
    /// Is a feature switched on, or the argument of one that is asked for?
    pub fn is_on(&self, address: Address) -> bool {
        self.settled.declared.is_on(address)
    }

    /// Does the host offer this feature?
    pub fn is_offered(&self, point: &Said) -> bool {
        self.settled.declared.is_offered(point)
    }

    /// Does the host offer a feature of that address, or one that takes this argument?
    pub fn offers(&self, address: Address) -> bool {
        self.settled.declared.offers(address)
    }

    /// Is a feature of that name switched on?
    pub fn is_enabled(&self, name: &str) -> bool {
        self.settled.declared.is_enabled(name)
    }

    /// The argument that a feature of that name is switched on with; nothing where it is not.
    pub fn argument(&self, feature: &str, argument: &str) -> Option<Value> {
        self.settled.declared.argument(feature, argument)
    }

    /// The names that a value of this format may have, and the argument of a feature that says them; nothing where any
    /// value is fine.
    pub fn entries_of_format(&self, format: &str) -> Option<(Address, Vec<Name>)> {
        self.settled.declared.entries_for(|feed| matches!(feed, Feed::Format(known) if *known == *format))
    }

    /// Does a feature read this input?
    pub fn is_fed(&self, component: Address, input: Name) -> bool {
        self.settled.declared.is_fed(component, input)
    }

    /// The keys that features add to `page` or `site`, whether they are switched on or not.
    pub fn fed_keys(&self, root: &str) -> Vec<Name> {
        self.settled.declared.fed_keys(root)
    }

    /// The keys that features which are switched on add to `page` or `site`.
    pub fn fed_keys_on(&self, root: &str) -> Vec<Name> {
        self.settled.declared.fed_keys_on(root)
    }

    /// Is `extent` of an item for the host, and no input of the component?
    pub fn takes_extent(&self, component: Address) -> bool {
        self.settled.declared.takes_extent(component)
    }

    /// The file of an asset.
    pub fn asset_file(&self, point: &Said) -> Option<FileId> {
        self.by_name().asset_file(point)
    }

    /// What a component or asset needs directly.
    pub fn needs_of(&self, point: &Said) -> Vec<Address> {
        self.by_name().needs_of(point)
    }

    /// All that an asset or component needs, directly or through others, without itself.
    pub fn all_needs(&self, point: &Said) -> Vec<Address> {
        self.by_name().all_needs(point)
    }

    /// Is an asset on every page where its condition holds, whether a component asks for it or not? Those
    /// of the host are only where something needs them, or a feature that is on feeds them.
    pub fn is_on_all_pages(&self, point: &Said) -> bool {
        self.settled.carried.is_on_all_pages(self.by_name(), point)
    }

    /// Does a script come in the head: since it, or one that needs it, says so, or the host has no hook for the
    /// page's end?
    pub fn comes_in_head(&self, script: &Point) -> bool {
        let says = |point: &Point| point.asset.as_ref().is_some_and(|asset| asset.head);
        let heads = || self.points().filter(|point| point.address.kind == Kind::Script && says(point));
        self.end_hook().is_none()
            || says(script)
            || heads().any(|point| self.all_needs(point).contains(&script.address))
    }

    /// All assets in the order in which they come on a page.
    pub fn asset_order(&self) -> &[Address] {
        &self.settled.carried.order
    }
}
