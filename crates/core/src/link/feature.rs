//! Features: what a host offers, what the layers above it switch on, and by what that shows.

use std::fmt;

use serde_json::{Map, Value};

use crate::address::{Address, Kind};
use crate::name::Name;
use crate::scan::{FeatureKeys, TextArgument};
use crate::source::{LayerId, Place};

/// What a host says of a feature.
pub const OFFERED: [&str; 3] = ["arguments", "default", "feeds"];

/// What is known of a feature: what the host offers, and what the theme says to it.
#[derive(Clone, Debug, Default)]
pub struct Feature {
    /// A JSON Schema of its arguments. The `default` of each is what `true` gives.
    pub schema: Option<Value>,
    /// The arguments that it has where it is switched on, whatever the theme says.
    pub always: Value,
    /// By what it shows.
    pub feeds: Vec<Fed>,
    /// What the layers above the host say, merged.
    arguments: Map<String, Value>,
    /// Keys of the host's declaration that mean nothing.
    pub strange: Vec<String>,
    /// What each layer above the host says, the lowest first.
    pub given: Vec<Given>,
}

/// What one layer says to a feature.
#[derive(Clone, Debug)]
pub struct Given {
    /// Where its table stands.
    pub place: Place,
    /// Where the feature's name stands.
    pub name: Place,
    /// What it says.
    pub arguments: Value,
    /// Those of its arguments that are texts, with their places.
    pub(super) texts: Vec<TextArgument>,
}

/// Something that a feature feeds.
#[derive(Clone, Copy, Debug)]
pub struct Fed {
    /// The argument that feeds it; nothing where the whole feature does.
    pub argument: Option<Name>,
    /// What is fed.
    pub feed: Feed,
    /// Where the host says so.
    pub place: Place,
}

/// Something by which a feature shows.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Feed {
    /// A point, or an asset.
    Point(Address),
    /// An input of a component.
    Input(Address, Name),
    /// Any input of that format.
    Format(Name),
    /// A variable, as `page.trail`.
    Variable(Name),
    /// A custom property of styles, with its hyphens; true where it is the beginning of several.
    Property(Name, bool),
    /// A text in styles; true where it is the beginning of several.
    Style(Name, bool),
    /// The translation of messages.
    Messages,
}

impl fmt::Display for Feed {
    fn fmt(&self, out: &mut fmt::Formatter<'_>) -> fmt::Result {
        let more = |several: &bool| if *several { "…" } else { "" };
        match self {
            Feed::Point(address) => write!(out, "{address}"),
            Feed::Input(component, input) => write!(out, "input {input} of {component}"),
            Feed::Format(format) => write!(out, "inputs of format {format}"),
            Feed::Variable(name) => write!(out, "{name}"),
            Feed::Property(name, several) => write!(out, "var({name}{})", more(several)),
            Feed::Style(name, several) => write!(out, "{name}{}", more(several)),
            Feed::Messages => write!(out, "t"),
        }
    }
}

impl fmt::Display for Fed {
    fn fmt(&self, out: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self.argument {
            Some(argument) => write!(out, "{argument}: {}", self.feed),
            None => self.feed.fmt(out),
        }
    }
}

impl Feed {
    fn new(text: &str) -> Feed {
        let starred = |text: &str| match text.strip_suffix('*') {
            Some(lead) => (Name::from(lead), true),
            None => (Name::from(text), false),
        };
        if text == "t" {
            return Feed::Messages;
        }
        if text.starts_with("page.") || text.starts_with("site.") {
            return Feed::Variable(text.into());
        }
        if let Some(format) = text.strip_prefix("format:") {
            return Feed::Format(format.into());
        }
        if let Some(property) = text.strip_prefix("var(").and_then(|rest| rest.strip_suffix(')')) {
            let (name, several) = starred(property);
            return Feed::Property(name, several);
        }
        if let Ok(address) = text.parse() {
            return Feed::Point(address);
        }
        let input = text.rsplit_once('.').and_then(|(point, input)| Some((point.parse().ok()?, input)));
        if let Some((point, input)) = input {
            return Feed::Input(point, input.into());
        }
        let (text, several) = starred(text);
        Feed::Style(text, several)
    }

    /// The key of `page` or `site`, where it is one.
    pub fn key_of(&self, root: &str) -> Option<Name> {
        let Feed::Variable(name) = self else { return None };
        name.as_str().split_once('.').filter(|(of, _)| *of == root).map(|(_, key)| key.into())
    }

    /// Is it this key of `page` or `site`?
    pub fn is_key(&self, root: &str, key: Name) -> bool {
        let Feed::Variable(name) = self else { return false };
        name.as_str().split_once('.').is_some_and(|(of, own)| of == root && key == *own)
    }

    /// Is this custom property one of them?
    pub fn is_property(&self, name: &str) -> bool {
        match self {
            Feed::Property(own, true) => name.starts_with(own.as_str()),
            Feed::Property(own, false) => name == own.as_str(),
            _ => false,
        }
    }
}

impl Feature {
    /// Adds what one layer says, the lowest layer first.
    pub(super) fn add(&mut self, layer: LayerId, place: Place, keys: &FeatureKeys, extend: bool) {
        let here = |at| Place { file: place.file, at };
        if layer.index() == 0 {
            self.schema = keys.schema.clone().or(self.schema.take());
            self.always = keys.default.clone().unwrap_or(Value::Object(Map::new()));
            let keys_of = keys.arguments.as_object().into_iter().flatten().map(|(key, _)| key.clone());
            self.strange = keys_of.filter(|key| !OFFERED.contains(&key.as_str())).collect();
            let fed = |(argument, feed): &(Option<Name>, crate::scan::Named)| Fed {
                argument: *argument,
                feed: Feed::new(&feed.name),
                place: here(feed.at),
            };
            self.feeds = keys.feeds.iter().map(fed).collect();
            return;
        }
        let name = here(keys.name);
        let texts = keys.texts.clone();
        self.given.push(Given { place, name, arguments: keys.arguments.clone(), texts });
        for (key, value) in keys.arguments.as_object().into_iter().flatten() {
            // Pairs are not lengthened: they have two parts by nature.
            let is_pair = self.property(key).is_some_and(|property| {
                let most = property.get("maxItems");
                most.is_some() && property.get("minItems") == most
            });
            lay_over(&mut self.arguments, key, value, extend && !is_pair);
        }
    }

    /// What may be given as an argument of that name.
    pub fn property(&self, argument: &str) -> Option<&Value> {
        self.schema.as_ref()?.get("properties")?.get(argument)
    }

    /// The names of all arguments that it takes.
    pub fn takes(&self) -> impl Iterator<Item = &str> {
        let properties = self.schema.as_ref().and_then(|schema| schema.get("properties")?.as_object());
        properties.into_iter().flatten().map(|(name, _)| name.as_str())
    }

    /// What an argument is, as it was written: `true` stands for its default.
    pub fn meant_by(&self, argument: &str, written: &Value) -> Option<Value> {
        let default = || self.property(argument)?.get("default").cloned();
        match written {
            Value::Bool(true) => default().or_else(|| Some(written.clone())),
            Value::Bool(false) => None,
            other => Some(other.clone()),
        }
    }

    /// An argument that it is switched on with.
    pub fn argument(&self, name: &str) -> Option<Value> {
        match self.arguments.get(name) {
            Some(written) => self.meant_by(name, written),
            None => self.always.get(name).cloned(),
        }
    }

    /// All arguments that it is switched on with.
    pub fn effective(&self) -> Map<String, Value> {
        let given = self.arguments.keys().map(String::as_str);
        let always = self.always.as_object().into_iter().flatten().map(|(name, _)| name.as_str());
        let always = always.filter(|name| !self.arguments.contains_key(*name));
        let all = always.chain(given).filter_map(|name| Some((name.to_string(), self.argument(name)?)));
        all.collect()
    }

    /// Does it act by its arguments alone? Each of them feeds something of its own, or its schema wants one at least.
    pub fn is_by_argument(&self) -> bool {
        let least = || self.schema.as_ref().and_then(|schema| schema.get("minProperties")?.as_u64());
        self.feeds.iter().any(|fed| fed.argument.is_some()) || least().is_some_and(|least| least > 0)
    }

    /// The highest layer's place that gives an argument.
    pub fn given_at(&self, argument: &str) -> Option<&Given> {
        self.given.iter().rev().find(|given| given.arguments.get(argument).is_some())
    }
}

/// Sets one key of a table: tables are merged entry by entry, lists replaced or made longer; an entry that is
/// dropped goes.
fn lay_over(table: &mut Map<String, Value>, key: &str, over: &Value, extend: bool) {
    match (table.get_mut(key), over) {
        (_, Value::Object(entry)) if entry.get("dropped") == Some(&Value::Bool(true)) => {
            table.shift_remove(key);
        }
        (Some(Value::Object(below)), Value::Object(over)) => {
            for (key, over) in over {
                lay_over(below, key, over, extend);
            }
        }
        (Some(Value::Array(below)), Value::Array(over)) if extend => below.extend(over.iter().cloned()),
        (_, Value::Object(over)) => {
            let mut fresh = Map::new();
            for (key, over) in over {
                lay_over(&mut fresh, key, over, extend);
            }
            table.insert(key.into(), Value::Object(fresh));
        }
        (_, over) => {
            table.insert(key.into(), over.clone());
        }
    }
}

/// The argument by which items of the preview can be made wider than the text.
pub fn extent_steps() -> Address {
    Address::new(Kind::Feature, "extent.steps")
}
