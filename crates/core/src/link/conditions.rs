//! Conditions: on which types of pages they may hold, and whether all that they read is there.

use std::sync::PoisonError;

use serde_json::Value;

use super::declare::Declared;
use super::known::{Known, Stray, given, joined, missing_name, named_at, stray};
use super::names::Names;
use super::offers::Offered;
use super::point::TypeInfo;
use super::reference::{Link, Outcome};
use super::refs::Refs;
use super::types::Types;
use crate::address::{Address, Kind};
use crate::names;
use crate::scan::{Condition, Named};
use crate::source::{FileId, Place};

impl Declared {
    /// The types of pages on which a condition may hold. One that can never hold is told by itself, and
    /// counts as if it could.
    pub fn types_where(&self, when: Option<&Condition>) -> Types {
        let Some(when) = when else { return self.types_for(None) };
        // Themes say the same again and again.
        let known = || self.followed.types.lock().unwrap_or_else(PoisonError::into_inner);
        if let Some(types) = known().get(&when.text) {
            return *types;
        }
        let types = self.types_for(Some(when));
        known().insert(when.text, types);
        types
    }

    /// Can a condition ever hold, as far as options and types of pages are closed sets of values?
    pub fn can_hold(&self, when: &Condition) -> bool {
        let known = || self.followed.holding.lock().unwrap_or_else(PoisonError::into_inner);
        if let Some(holds) = known().get(&when.text) {
            return *holds;
        }
        let holds = when.can_hold(|name| self.closed_values(name));
        known().insert(when.text, holds);
        holds
    }

    fn types_for(&self, when: Option<&Condition>) -> Types {
        let may = |page_type: &TypeInfo| {
            when.is_none_or(|when| {
                when.can_hold(|name| match name {
                    "page.type" => Some(vec![page_type.name.as_str().into()]),
                    name => self.closed_values(name),
                })
            })
        };
        let types = self.types.iter().enumerate().filter(|(_, page_type)| may(page_type));
        match types.map(|(at, _)| at).collect::<Types>() {
            found if found.is_empty() => Types::ALL,
            found => found,
        }
    }

    /// All values that a name of a condition can have, where they are a closed set.
    pub fn closed_values(&self, name: &str) -> Option<Vec<serde_json::Value>> {
        if name == "page.type" {
            return Some(self.types.iter().map(|known| Value::from(known.name.as_str())).collect());
        }
        let option = self.point(Address::new(Kind::Option, name.strip_prefix("options.")?))?;
        let schema = option.schema()?;
        match schema.get("enum").and_then(Value::as_array) {
            Some(all) => Some(all.clone()),
            None if schema.get("type")?.as_str() == Some("boolean") => {
                Some(vec![Value::from(true), Value::from(false)])
            }
            None => None,
        }
    }

    /// The names of a set of types.
    pub fn type_names(&self, types: Types) -> Vec<&'static str> {
        let named = self.types.iter().enumerate().filter(|(at, _)| types.has(*at));
        named.map(|(_, page_type)| page_type.name.as_str()).collect()
    }

    /// All types that have a template.
    pub fn templated_types(&self) -> Types {
        let with = self.types.iter().enumerate().filter(|(_, page_type)| !page_type.templates.is_empty());
        with.map(|(at, _)| at).collect()
    }
}

/// What conditions are held against.
#[derive(Clone, Copy)]
pub(super) struct Conditions<'c> {
    pub names: Names<'c>,
    pub known: &'c Known,
    pub offered: &'c Offered,
}

impl Conditions<'_> {
    /// Resolves the names of a condition; false where one isn't there, so that it can't be evaluated.
    pub fn link(&self, refs: &mut Refs, file: FileId, when: &Condition) -> bool {
        let top = self.names.ground.project.file(file).layer == self.names.ground.project.top();
        let mut good = true;
        for path in &when.reads {
            let written = joined(path);
            let root = path[0];
            let (at, outcome) = if !Condition::has_root(&root.name) {
                let near = names::nearest(&root.name, ["page", "site", "options"]).map(str::to_string);
                let certain = names::certain(&root.name, ["page", "site", "options"]).is_some();
                (root.at, missing_name(path, Stray { step: 0, near, certain }))
            } else {
                match stray(self.names, self.known, path, top) {
                    None => (named_at(path), Outcome::Found(given(path))),
                    Some(stray) if self.hidden(path, &stray) => (root.at, Outcome::Unknown),
                    Some(found) => (path[found.step].at, missing_name(path, found)),
                }
            };
            good &= !matches!(outcome, Outcome::Missing { .. });
            refs.refer(self.names.ground, Link::ConditionToName, Place { file, at }, written, outcome);
        }
        for asked in &when.asked {
            self.offered.link_question(self.names, refs, file, *asked, true);
        }
        for asked in &when.asked_off {
            self.offered.link_question(self.names, refs, file, *asked, false);
        }
        good
    }

    /// Is this an option, or a key of a page or site, that may be declared where we can't see it?
    pub fn hidden(&self, path: &[Named], stray: &Stray) -> bool {
        path[0].name != "theme" && stray.step == 1 && self.names.ground.blind.declarations
    }
}
