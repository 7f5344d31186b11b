//! Which features are switched on, and what they feed.

use serde_json::Value;

use super::declare::Declared;
use super::feature::{Fed, Feed, extent_steps};
use super::point::Said;
use crate::address::{Address, Kind};
use crate::name::Name;

impl Declared {
    /// Is a feature switched on, or the argument of one that is asked for?
    pub fn is_on(&self, address: Address) -> bool {
        let Some(point) = self.point(address).filter(|point| point.dropped.is_none()) else { return false };
        let Some(feature) = &point.feature else { return false };
        if !self.is_offered(point) || point.declared.iter().all(|one| one.layer.index() == 0) {
            return false;
        }
        match address.argument() {
            Some((_, argument)) => feature.argument(argument).is_some(),
            // Where each argument acts by itself, a feature without any does nothing.
            None => !feature.is_by_argument() || !feature.effective().is_empty(),
        }
    }

    /// Does the host offer this feature?
    pub fn is_offered(&self, point: &Said) -> bool {
        point.declared.first().is_some_and(|first| first.layer.index() == 0)
    }

    /// Does the host offer a feature of that address, or one that takes this argument?
    pub fn offers(&self, address: Address) -> bool {
        let point = self.point(address).filter(|point| self.is_offered(point));
        let feature = point.and_then(|point| point.feature.as_ref());
        feature.is_some_and(|feature| {
            address.argument().is_none_or(|(_, argument)| feature.takes().any(|known| known == argument))
        })
    }

    /// Is a feature of that name switched on?
    pub fn is_enabled(&self, name: &str) -> bool {
        self.is_on(Address::new(Kind::Feature, name))
    }

    /// The argument that a feature of that name is switched on with; nothing where it is not.
    pub fn argument(&self, feature: &str, argument: &str) -> Option<Value> {
        let address = Address::new(Kind::Feature, feature);
        let point = self.point(address).filter(|_| self.is_on(address))?;
        point.feature.as_ref()?.argument(argument)
    }

    /// Does a feature read this input?
    pub fn is_fed(&self, component: Address, input: Name) -> bool {
        self.feeds().iter().any(|(_, feed)| *feed == Feed::Input(component, input))
    }

    /// The keys that features add to `page` or `site`, whether they are switched on or not.
    pub fn fed_keys(&self, root: &str) -> Vec<Name> {
        self.feeds().iter().filter_map(|(_, feed)| feed.key_of(root)).collect()
    }

    /// Does a feature add this key to `page` or `site`, whether it is switched on or not?
    pub fn is_fed_key(&self, root: &str, key: Name) -> bool {
        self.feeds().iter().any(|(_, feed)| feed.is_key(root, key))
    }

    /// The keys that features which are switched on add to `page` or `site`.
    pub fn fed_keys_on(&self, root: &str) -> Vec<Name> {
        let feeds = self.feeds().iter().filter(|(feature, _)| self.is_on(*feature));
        feeds.filter_map(|(_, feed)| feed.key_of(root)).collect()
    }

    /// The entries that a value may name: those of the feature's argument that feeds it; with the argument. Nothing where
    /// no feature that is on feeds it, or where it says that others are fine.
    pub fn entries_for(&self, fed: impl Fn(&Feed) -> bool) -> Option<(Address, Vec<Name>)> {
        let (asked, _) = self.feeds().iter().find(|(_, feed)| fed(feed))?;
        let (feature, argument) = asked.argument()?;
        let Value::Object(entries) = self.argument(&feature.name, argument)? else { return None };
        let others = self.argument(&feature.name, "others") == Some(Value::Bool(true));
        (!others).then(|| (*asked, entries.keys().map(|name| Name::from(name.as_str())).collect()))
    }

    /// Is `extent` of an item for the host, and no input of the component?
    pub fn takes_extent(&self, component: Address) -> bool {
        let own = |point: &Said| point.inputs.iter().any(|input| input.field.name == "extent");
        self.offers(extent_steps()) && self.point(component).is_some_and(|point| !own(point))
    }

    /// All that features feed, with the feature or argument that feeds it.
    pub(super) fn feeds(&self) -> &[(Address, Feed)] {
        self.followed.feeds.get_or_init(|| self.all_feeds())
    }

    fn all_feeds(&self) -> Vec<(Address, Feed)> {
        let features = self.all().filter_map(|point| Some((point.address, point.feature.as_ref()?)));
        let asked = |address: Address, fed: &Fed| match fed.argument {
            Some(argument) => address.with_argument(argument),
            None => address,
        };
        let all = features
            .flat_map(|(address, feature)| feature.feeds.iter().map(move |fed| (asked(address, fed), fed.feed)));
        all.collect()
    }
}
