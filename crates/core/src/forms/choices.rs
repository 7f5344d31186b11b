//! What there is to choose from in a theme; without one, how such things are spelt.

use serde_json::{Value, json};

use super::spelt::{address, address_pattern, callback};
use crate::address::{Address, Kind};
use crate::link::{Callback, Point, Registry, Runs};
use crate::read::FileKind;
use crate::source::FileId;

/// A theme, or none.
pub struct Choices<'r> {
    /// Its registry.
    pub theme: Option<&'r Registry>,
}

impl<'r> Choices<'r> {
    /// The choices that a theme gives.
    pub fn of(theme: Option<&'r Registry>) -> Choices<'r> {
        Choices { theme }
    }

    /// The addresses that fit a key.
    pub fn address(&self, key: &str) -> Value {
        let kinds: &[Kind] = match key {
            "needs" => &[Kind::Style, Kind::Script, Kind::Bundle],
            "use" => &[Kind::Partial, Kind::Section, Kind::Piece],
            _ => &Kind::ALL,
        };
        let Some(theme) = self.theme else {
            return match key {
                // It may also be all of a kind.
                "holds" => json!({ "type": "string", "pattern": "^(partial|section|piece):" }),
                "needs" => json!({ "type": "string", "pattern": address_pattern(kinds) }),
                _ => address(),
            };
        };
        let fits = |point: &&Point| match key {
            "to" | "from" | "in" => point.address.kind.role().is_some(),
            "holds" => point.address.kind.is_component(),
            _ => kinds.contains(&point.address.kind),
        };
        let mut all = names(theme, |point| fits(&point));
        if key == "holds" {
            all.insert(0, "piece:*".into());
            // Inner pieces are called without their section inside of it.
            let inner = theme.addresses().filter_map(|address| Some(format!("piece:{}", address.inner()?.1)));
            all.extend(inner.collect::<Vec<_>>());
        }
        choice(all)
    }

    /// The callbacks that fit a key.
    pub fn callback(&self, key: &str) -> Value {
        let Some(theme) = self.theme else { return callback() };
        let mut all = exports(theme);
        if key == "call" {
            // What is detached or replaced is called by its layer.
            let top = theme.project().top();
            let below = theme.points().flat_map(|point| point.slots.iter().chain(point.detached.iter()));
            all.extend(below.filter(|slot| slot.layer != top).map(|slot| theme.first_name(slot)));
        }
        choice(all)
    }

    /// The types of pages.
    pub fn page_type(&self) -> Value {
        match self.theme {
            Some(theme) => choice(theme.types().iter().map(|known| known.name.to_string()).collect()),
            None => json!({ "type": "string" }),
        }
    }

    /// Narrows a table of attachments to what can be attached.
    pub fn narrow(&self, table: &str, schema: &mut Value) {
        let (Some(theme), "attach") = (self.theme, table) else { return };
        let partials = names(theme, |point| point.address.kind == Kind::Partial);
        schema["properties"]["use"] = choice(partials);
        let slots = theme.points().flat_map(|point| point.slots.iter());
        let order: Vec<String> = slots
            .filter(|slot| matches!(slot.runs, Runs::Callback(..) | Runs::Partial(..)))
            .map(|slot| theme.first_name(slot))
            .chain(exports(theme))
            .collect();
        for key in ["before", "after"] {
            schema["properties"][key] = json!({ "type": "array", "items": choice(order.clone()) });
        }
    }
}

/// The addresses of some points, each with what it is.
fn names(theme: &Registry, wanted: impl Fn(&Point) -> bool) -> Vec<String> {
    let all = theme.points().filter(|point| !point.declared.is_empty());
    all.filter(|point| wanted(point)).map(|point| point.address.to_string()).collect()
}

/// One of some texts.
pub fn choice(mut all: Vec<String>) -> Value {
    all.sort();
    all.dedup();
    match all.is_empty() {
        // There is nothing that would fit.
        true => json!(false),
        false => json!({ "enum": all }),
    }
}

/// All callbacks, as they are called from the theme.
fn exports(theme: &Registry) -> Vec<String> {
    let files = theme.project().files.iter().enumerate().filter(|(_, file)| file.kind == FileKind::Module);
    let all = files.flat_map(|(at, _)| {
        let file = FileId(at as u32);
        let exports = theme.module(file).map(|module| module.exports.as_slice()).unwrap_or_default();
        exports.iter().map(move |export| Callback { file, export: export.name })
    });
    all.map(|callback| theme.callback_name(callback)).collect()
}

/// A schema of the theme's, as an editor of TOML understands it: markup is text there.
pub fn plain(schema: &Value) -> Value {
    match schema {
        Value::Object(table) => {
            let plain = table.iter().map(|(key, inner)| match (key.as_str(), inner.as_str()) {
                ("type", Some("markup")) => (key.clone(), json!("string")),
                ("about", Some(about)) => ("description".to_string(), json!(about)),
                ("label", Some(label)) => ("title".to_string(), json!(label)),
                // Values are no schemas, whatever their keys are called.
                ("default" | "const" | "enum" | "examples", _) => (key.clone(), inner.clone()),
                _ => (key.clone(), self::plain(inner)),
            });
            Value::Object(plain.collect())
        }
        Value::Array(all) => Value::Array(all.iter().map(plain).collect()),
        other => other.clone(),
    }
}

/// The schemas of what a component takes, by name.
pub fn inputs(theme: &Registry, component: Address) -> serde_json::Map<String, Value> {
    let inputs = theme.point(component).map(|point| point.passed()).unwrap_or_default();
    inputs.iter().map(|input| (input.field.name.to_string(), plain(&input.field.schema))).collect()
}
