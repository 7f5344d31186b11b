//! Features: what the host offers, what the theme switches on, and what feeds on it.

use serde_json::{Map, Value};

use super::reference::{Meant, Wanted};
use super::*;
use crate::names;
use crate::scan::{FeatureKeys, Named};

/// What is known of a feature: what the host offers, and what the theme says to it.
#[derive(Clone, Debug, Default)]
pub struct Feature {
    /// A JSON Schema of its arguments.
    pub schema: Option<Value>,
    /// The arguments where none are given.
    pub default: Value,
    /// By what it shows.
    pub feeds: Vec<(Feed, Place)>,
    /// What the layers above the host say, merged.
    pub arguments: Value,
    /// Keys of the host's declaration that mean nothing.
    pub strange: Vec<String>,
    /// Their declarations, the lowest layer first, each with its arguments.
    pub given: Vec<(Place, Value)>,
    /// Where their names stand.
    named: Vec<Place>,
}

/// What a host says of a feature.
pub const OFFERED: [&str; 3] = ["arguments", "default", "feeds"];

/// Something by which a feature shows.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Feed {
    /// A point, or an asset.
    Point(Address),
    /// An input of a component.
    Input(Address, Name),
    /// A variable, as `page.trail`.
    Variable(Name),
    /// A custom property of styles, with its hyphens; true where it is the beginning of several.
    Property(Name, bool),
    /// A text in styles.
    Style(Name),
    /// The translation of messages.
    Messages,
}

impl std::fmt::Display for Feed {
    fn fmt(&self, out: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        match self {
            Feed::Point(address) => write!(out, "{address}"),
            Feed::Input(component, input) => write!(out, "input {input} of {component}"),
            Feed::Variable(name) | Feed::Style(name) => write!(out, "{name}"),
            Feed::Property(name, several) => write!(out, "var({name}{})", if *several { "…" } else { "" }),
            Feed::Messages => write!(out, "t"),
        }
    }
}

impl Feed {
    fn new(text: &str) -> Feed {
        if text == "t" {
            return Feed::Messages;
        }
        if text.starts_with("page.") || text.starts_with("site.") {
            return Feed::Variable(text.into());
        }
        if let Some(property) = text.strip_prefix("var(").and_then(|rest| rest.strip_suffix(')')) {
            let several = property.strip_suffix('*');
            return Feed::Property(several.unwrap_or(property).into(), several.is_some());
        }
        if let Ok(address) = text.parse() {
            return Feed::Point(address);
        }
        let input = text.rsplit_once('.').and_then(|(point, input)| Some((point.parse().ok()?, input)));
        input.map_or(Feed::Style(text.into()), |(point, input)| Feed::Input(point, input.into()))
    }

    /// The key of `page` or `site`, where it is one.
    fn key_of(&self, root: &str) -> Option<Name> {
        let Feed::Variable(name) = self else { return None };
        name.as_str().split_once('.').filter(|(of, _)| *of == root).map(|(_, key)| key.into())
    }

    /// Is this custom property one of them?
    pub fn is_property(&self, name: &str) -> bool {
        matches!(self, Feed::Property(own, several) if if *several { name.starts_with(own.as_str()) } else { name == own.as_str() })
    }
}

impl Feature {
    pub(super) fn add(&mut self, layer: LayerId, place: Place, keys: &FeatureKeys, extend: bool) {
        if layer.index() == 0 {
            self.schema = keys.schema.clone().or(self.schema.take());
            self.default = keys.default.clone().unwrap_or(Value::Object(Map::new()));
            let keys_of = keys.arguments.as_object().into_iter().flatten().map(|(key, _)| key.clone());
            self.strange = keys_of.filter(|key| !OFFERED.contains(&key.as_str())).collect();
            self.feeds = keys
                .feeds
                .iter()
                .map(|feed| (Feed::new(&feed.name), Place { file: place.file, at: feed.at }))
                .collect();
            return;
        }
        self.given.push((place, keys.arguments.clone()));
        self.named.push(Place { file: place.file, at: keys.name });
        lay_over(&mut self.arguments, &keys.arguments, extend);
    }

    /// What it is switched on with.
    pub fn effective(&self) -> Value {
        let mut all = self.default.clone();
        lay_over(&mut all, &self.arguments, false);
        all
    }
}

/// Merges a value into another: tables key by key, lists as a whole or made longer.
fn lay_over(below: &mut Value, over: &Value, extend: bool) {
    match (below, over) {
        (Value::Object(below), Value::Object(over)) => {
            for (key, over) in over {
                lay_over(below.entry(key.clone()).or_insert(Value::Null), over, extend);
            }
        }
        (Value::Array(below), Value::Array(over)) if extend => below.extend(over.iter().cloned()),
        (below, over) => *below = over.clone(),
    }
}

/// Is a feed this key of `page` or `site`?
fn is_key(root: &str, key: Name) -> impl Fn(&Feed) -> bool {
    move |feed| feed.key_of(root) == Some(key)
}

fn whole_key(root: &str, key: Name) -> Name {
    format!("{root}.{key}").as_str().into()
}

/// The feature by which items of the preview can be made wider than the text.
pub fn breakout() -> Address {
    Address::new(Kind::Feature, "breakout")
}

impl Registry {
    /// Is a feature switched on?
    pub fn is_on(&self, feature: Address) -> bool {
        let point = self.point(feature).filter(|point| point.feature.is_some() && point.dropped.is_none());
        point.is_some_and(|point| self.is_offered(point) && point.declared.iter().any(|one| one.layer.index() > 0))
    }

    /// Does the host offer this feature?
    pub fn is_offered(&self, point: &Point) -> bool {
        point.declared.first().is_some_and(|first| first.layer.index() == 0)
    }

    /// What a feature of that name is switched on with; nothing where it is not.
    pub fn arguments(&self, name: &str) -> Option<Value> {
        let address = Address::new(Kind::Feature, name);
        self.is_on(address).then(|| self.points[&address].feature.as_ref().map(|feature| feature.effective()))?
    }

    /// All that features feed, with the feature.
    fn feeds(&self) -> Vec<(Address, Feed)> {
        let features = self.points.values().filter_map(|point| Some((point.address, point.feature.as_ref()?)));
        features.flat_map(|(address, feature)| feature.feeds.iter().map(move |(feed, _)| (address, *feed))).collect()
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
            let given = feature.given.iter().zip(&feature.named);
            declared.extend(given.map(|((place, _), named)| (point.address, *place, *named, self.is_offered(point))));
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
        let known = asked.address.and_then(|address| self.point(address)).filter(|point| self.is_offered(point));
        match known.filter(|point| point.address.kind == Kind::Feature) {
            Some(point) => self.link_feed(point.address, from, asked.raw),
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
        let meant = |reference: &Reference| match reference.outcome {
            Outcome::Missing { meant: Some(meant), .. } => meant.target == Target::Point(feature),
            _ => false,
        };
        let declared = self.references.iter().filter(|reference| reference.link == Link::FeatureToOffer);
        declared.into_iter().any(meant)
    }

    fn unoffered(&self, asked: PointRef) -> Outcome {
        if self.blind.declarations {
            return Outcome::Unknown;
        }
        let offered = || {
            let features = self.points.values().filter(|point| point.address.kind == Kind::Feature);
            features.filter(|point| self.is_offered(point)).map(|point| point.address.name.as_str())
        };
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
        let given = feature.given.iter().find(|(at, _)| *at == place).map(|(_, arguments)| arguments.clone());
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
        let fed =
            |wanted: &dyn Fn(&Feed) -> bool| feeds.iter().find(|(_, feed)| wanted(feed)).map(|(feature, _)| *feature);
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
                let wide = given.name.name == "breakout" && self.takes_breakout(component);
                let feature = own.or_else(|| wide.then(breakout));
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
    fn lacking_property(&self, feature: Address, property: Name) -> Option<Option<Meant>> {
        let known = self.points[&feature].feature.as_ref().filter(|_| self.is_on(feature))?;
        let lead = known.feeds.iter().find_map(|(feed, _)| match feed {
            Feed::Property(lead, true) if feed.is_property(&property) => Some(lead.as_str()),
            _ => None,
        })?;
        let arguments = known.effective();
        let tables = arguments.as_object()?.values().filter_map(Value::as_object);
        let names: Vec<String> = tables.flatten().map(|(name, _)| format!("{lead}{name}")).collect();
        let words = || names.iter().map(String::as_str);
        if words().any(|name| property == name) {
            return None;
        }
        Some(names::nearest(&property, words()).map(|near| Meant {
            written: near.into(),
            target: Target::Point(feature),
            certain: names::certain(&property, words()).is_some(),
        }))
    }

    /// Is `breakout` of an item for the host, and no input of the component?
    pub fn takes_breakout(&self, component: Address) -> bool {
        self.point(breakout()).is_some_and(|point| self.is_offered(point))
            && self
                .point(component)
                .is_some_and(|point| point.inputs.iter().all(|input| input.field.name != "breakout"))
    }
}
