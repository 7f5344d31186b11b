//! Ties features to what the host offers, and what asks for features and feeds on them to those that are
//! switched on.

use serde_json::Value;

use super::feature::{Fed, Feed, extent_steps};
use super::reference::{Meant, Wanted};
use super::*;
use crate::names;
use crate::scan::Named;

/// Is a feed this key of `page` or `site`?
fn is_key(root: &str, key: Name) -> impl Fn(&Feed) -> bool {
    move |feed| feed.key_of(root) == Some(key)
}

fn whole_key(root: &str, key: Name) -> Name {
    format!("{root}.{key}").as_str().into()
}

impl Registry {
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
    pub fn is_offered(&self, point: &Point) -> bool {
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

    /// All that features feed, with the feature or argument that feeds it.
    fn feeds(&self) -> Vec<(Address, Feed)> {
        let features = self.points.values().filter_map(|point| Some((point.address, point.feature.as_ref()?)));
        let asked = |address: Address, fed: &Fed| match fed.argument {
            Some(argument) => address.with_argument(argument),
            None => address,
        };
        let all = features
            .flat_map(|(address, feature)| feature.feeds.iter().map(move |fed| (asked(address, fed), fed.feed)));
        all.collect()
    }

    /// Does a feature read this input?
    pub fn is_fed(&self, component: Address, input: Name) -> bool {
        self.feeds().iter().any(|(_, feed)| *feed == Feed::Input(component, input))
    }

    /// The keys that features add to `page` or `site`, whether they are switched on or not.
    pub fn fed_keys(&self, root: &str) -> Vec<Name> {
        self.feeds().into_iter().filter_map(|(_, feed)| feed.key_of(root)).collect()
    }

    /// The keys that features which are switched on add to `page` or `site`.
    pub fn fed_keys_on(&self, root: &str) -> Vec<Name> {
        let feeds = self.feeds().into_iter().filter(|(feature, _)| self.is_on(*feature));
        feeds.filter_map(|(_, feed)| feed.key_of(root)).collect()
    }

    /// Ties features to what the host offers, and what asks for features and feeds on them to those
    /// that are switched on.
    pub(super) fn link_features(&mut self) {
        let mut declared: Vec<(Address, Place, Place, bool)> = Vec::new();
        for point in self.points.values() {
            let Some(feature) = &point.feature else { continue };
            let offered = self.is_offered(point);
            declared.extend(feature.given.iter().map(|given| (point.address, given.place, given.name, offered)));
        }
        for (address, place, named, offered) in declared {
            let outcome = match (offered, self.unoffered(PointRef::new(&address.to_string(), place.at))) {
                (true, _) => Outcome::Found(Target::Point(address)),
                (false, Outcome::Missing { wanted, meant }) => {
                    // Where it is switched on its name alone is written.
                    let bare = |meant: Meant| meant.written.as_str().strip_prefix("feature:").map(Name::from);
                    let meant = meant.map(|meant| Meant { written: bare(meant).unwrap_or(meant.written), ..meant });
                    Outcome::Missing { wanted, meant }
                }
                (false, outcome) => outcome,
            };
            self.refer(Link::FeatureToOffer, named, address.name, outcome);
            if offered {
                self.link_argument_files(address, place);
            }
        }
        let all = self.facts.clone();
        for (at, facts) in all.iter().enumerate() {
            let file = FileId(at as u32);
            for asked in facts.shape.asked() {
                self.link_question(file, *asked);
            }
        }
        self.link_feeds(&all);
    }

    /// Resolves a question for a feature.
    pub(super) fn link_question(&mut self, file: FileId, asked: PointRef) {
        let from = Place { file, at: asked.at };
        match asked.address.filter(|address| self.offers(*address)) {
            Some(address) => self.link_feed(address, from, asked.raw),
            None => {
                let outcome = self.unoffered(asked);
                self.refer(Link::FeatureToOffer, from, asked.raw, outcome);
            }
        }
    }

    /// Notes that something needs a feature that is offered. Layers that others build on may leave it
    /// to those whether it is switched on.
    pub(super) fn link_feed(&mut self, feature: Address, from: Place, written: Name) {
        let layer = self.layer_of(from);
        let outcome = match self.is_on(feature) || self.is_misnamed(feature) {
            true => Outcome::Found(Target::Point(feature)),
            false if self.project.layer(layer).open || self.blind.declarations => Outcome::Unknown,
            false => Outcome::Missing { wanted: Wanted::Feature(feature), meant: None },
        };
        self.refer(Link::FeedToFeature, from, written, outcome);
    }

    /// Does the theme switch it on under a name that is misspelt?
    fn is_misnamed(&self, feature: Address) -> bool {
        let whole = feature.whole();
        let meant = |reference: &Reference| match reference.outcome {
            Outcome::Missing { meant: Some(meant), .. } => meant.target == Target::Point(whole),
            _ => false,
        };
        let declared = self.references.iter().filter(|reference| reference.link == Link::FeatureToOffer);
        declared.into_iter().any(meant)
    }

    fn unoffered(&self, asked: PointRef) -> Outcome {
        if self.blind.declarations {
            return Outcome::Unknown;
        }
        let arguments = asked.raw.as_str().contains('.');
        let features = self.points.values().filter(|point| self.is_offered(point));
        let features = features.filter_map(|point| Some((point.address, point.feature.as_ref()?)));
        let offered: Vec<String> = features
            .flat_map(|(address, feature)| {
                let taken = feature.takes().filter(|_| arguments).map(move |name| format!("{}.{name}", address.name));
                [address.name.to_string()].into_iter().filter(|_| !arguments).chain(taken).collect::<Vec<_>>()
            })
            .collect();
        let offered = || offered.iter().map(String::as_str);
        let name = asked.raw.as_str().strip_prefix("feature:").unwrap_or(&asked.raw);
        let meant = names::nearest(name, offered()).map(|near| {
            let target = Target::Point(Address::new(Kind::Feature, near));
            let certain = names::certain(name, offered()).is_some();
            Meant { written: format!("feature:{near}").as_str().into(), target, certain }
        });
        Outcome::Missing { wanted: Wanted::Point(asked.raw), meant }
    }

    /// Ties the files and folders that the arguments of a feature name.
    fn link_argument_files(&mut self, address: Address, place: Place) {
        let Some(feature) = &self.points[&address].feature else { return };
        let Some(schema) = &feature.schema else { return };
        let given = feature.given.iter().find(|given| given.place == place).map(|given| &given.arguments);
        let Some(Value::Object(given)) = given else { return };
        let files: Vec<(String, String)> = given
            .iter()
            .filter(|(key, _)| {
                let format = schema.get("properties").and_then(|all| all.get(key)?.get("format")?.as_str());
                format == Some("path")
            })
            .filter_map(|(key, value)| Some((key.clone(), value.as_str()?.to_string())))
            .collect();
        for (key, path) in files {
            let text = self.project.file(place.file).text();
            let span = crate::scan::part_of_value(text, self.span(place), &[key]);
            let at = self.add_span(place.file, span);
            let layer = self.layer_of(place);
            self.link_file(Place { file: place.file, at }, path.as_str().into(), layer, "");
        }
    }

    /// Ties all that feeds on a feature: variables, inputs, custom properties, messages, items.
    fn link_feeds(&mut self, all: &[Facts]) {
        let feeds = self.feeds();
        let host = |file: FileId, registry: &Registry| registry.project.file(file).layer.index() == 0;
        let mut found: Vec<(Address, Place, Name)> = Vec::new();
        let mut set: HashSet<Name> = HashSet::default();
        for facts in all {
            if let Shape::Style(style) = &facts.shape {
                set.extend(style.sets.iter().copied());
            }
        }
        let fed = |wanted: &dyn Fn(&Feed) -> bool| {
            let found = feeds.iter().filter(|(_, feed)| wanted(feed));
            // What is fed by its own name is not one of several.
            found.min_by_key(|(_, feed)| matches!(feed, Feed::Property(_, true))).map(|(feature, _)| *feature)
        };
        for (at, facts) in all.iter().enumerate() {
            let file = FileId(at as u32);
            if host(file, self) {
                continue;
            }
            let mut add = |feature: Option<Address>, named: Named| {
                found.extend(feature.map(|feature| (feature, Place { file, at: named.at }, named.name)));
            };
            match &facts.shape {
                Shape::Template(template) => {
                    for read in &template.reads {
                        let [root, key, ..] = read.path.as_slice() else { continue };
                        add(
                            fed(&is_key(&root.name, key.name)),
                            Named { name: whole_key(&root.name, key.name), at: root.at },
                        );
                    }
                }
                Shape::Style(style) => {
                    for read in style.reads.iter().filter(|read| !set.contains(&read.name)) {
                        add(fed(&|feed| feed.is_property(&read.name)), *read);
                    }
                }
                Shape::Page(page) => {
                    for Named { name, at } in page.keys.iter().map(|given| given.name) {
                        add(fed(&is_key("page", name)), Named { name: whole_key("page", name), at });
                    }
                }
                Shape::Site(site) => {
                    for Named { name, at } in site.keys.iter().map(|given| given.name) {
                        add(fed(&is_key("site", name)), Named { name: whole_key("site", name), at });
                    }
                }
                _ => {}
            }
            for message in facts.shape.messages() {
                add(fed(&|feed| *feed == Feed::Messages), message.id);
            }
            for used in facts.shape.uses() {
                let Some(point) = used.point.address else { continue };
                for arg in &used.args {
                    add(fed(&|feed| *feed == Feed::Input(point, arg.name)), *arg);
                }
            }
        }
        for placed in self.items() {
            let Some(component) = placed.component else { continue };
            for given in &placed.item.inputs {
                let own = fed(&|feed| *feed == Feed::Input(component, given.name.name));
                let wide = given.name.name == "extent" && self.takes_extent(component);
                let feature = own.or_else(|| wide.then(extent_steps));
                let place = Place { file: placed.file, at: given.name.at };
                found.extend(feature.map(|feature| (feature, place, given.name.name)));
            }
        }
        for (feature, from, written) in found {
            match self.lacking_property(feature, written) {
                Some(meant) => {
                    let outcome = Outcome::Missing { wanted: Wanted::Property(feature, written), meant };
                    self.refer(Link::FeedToFeature, from, written, outcome);
                }
                None => self.link_feed(feature, from, written),
            }
        }
    }

    /// For a custom property that a feature which is on does not set: what was most likely meant by it.
    fn lacking_property(&self, asked: Address, property: Name) -> Option<Option<Meant>> {
        let (_, argument) = asked.argument().filter(|_| self.is_on(asked))?;
        let known = self.point(asked)?.feature.as_ref()?;
        let lead = known.feeds.iter().find_map(|fed| match fed.feed {
            Feed::Property(lead, true) if fed.argument == Some(argument.into()) && fed.feed.is_property(&property) => {
                Some(lead.as_str())
            }
            _ => None,
        })?;
        let entries = known.argument(argument)?;
        let names = entries.as_object()?.iter().filter(|(_, entry)| entry.is_object());
        let names: Vec<String> = names.map(|(name, _)| format!("{lead}{name}")).collect();
        let words = || names.iter().map(String::as_str);
        if words().any(|name| property == name) {
            return None;
        }
        Some(names::nearest(&property, words()).map(|near| Meant {
            written: near.into(),
            target: Target::Point(asked),
            certain: names::certain(&property, words()).is_some(),
        }))
    }

    /// Is `extent` of an item for the host, and no input of the component?
    pub fn takes_extent(&self, component: Address) -> bool {
        let own = |point: &Point| point.inputs.iter().any(|input| input.field.name == "extent");
        self.offers(extent_steps()) && self.point(component).is_some_and(|point| !own(point))
    }
}
