//! The files of the preview: the site, its pages, and the items in them.

use serde_json::{Map, Value, json};

use super::choices::{Choices, choice, plain};
use super::declarations::of_component;
use super::spelt::address_pattern;
use super::{closed, table};
use crate::address::Kind;
use crate::keys;

/// An item: a component with what it is given.
pub fn item(choices: &Choices<'_>) -> Value {
    let held = json!({ "type": "array", "items": { "$ref": "#/$defs/item" } });
    let Some(theme) = choices.theme else {
        let mut properties = table(&keys::ITEM, "items", choices);
        properties.insert("use".into(), json!({ "type": "string", "pattern": "^(partial|section|piece):" }));
        properties.insert("holds".into(), held);
        return json!({ "type": "object", "properties": properties, "required": ["use"] });
    };
    let components = theme.points().filter(|point| point.address.kind.is_component() && !point.declared.is_empty());
    let forms = components.map(|point| {
        let mut properties = table(&keys::ITEM, "items", choices);
        let short = point.address.inner().map(|(_, own)| format!("piece:{own}"));
        let names: Vec<String> = std::iter::once(point.address.to_string()).chain(short).collect();
        properties.insert("use".into(), json!({ "enum": names }));
        properties.insert("holds".into(), held.clone());
        // What an area shows above the item, and how wide the host makes it.
        properties.entry("title").or_insert(json!({ "type": "string" }));
        if theme.takes_extent(point.address) {
            properties.insert("extent".into(), json!({ "type": "string" }));
        }
        for (name, schema) in of_component(choices, point.address) {
            properties.insert(name, schema);
        }
        closed(properties, &["use"])
    });
    let forms: Vec<Value> = forms.collect();
    json!({ "type": "object", "anyOf": forms })
}

/// An entry of a menu.
pub fn entry() -> Value {
    let mut properties = table(&keys::ENTRY, "entries of menus", &Choices::of(None));
    properties.insert("entries".into(), json!({ "type": "array", "items": { "$ref": "#/$defs/entry" } }));
    closed(properties, &["label"])
}

/// The site.
pub fn site(choices: &Choices<'_>) -> Value {
    let mut properties = table(&keys::SITE, "preview/site.toml", choices);
    let entries = json!({ "type": "array", "items": { "$ref": "#/$defs/entry" } });
    properties.insert("menus".into(), json!({ "type": "object", "additionalProperties": entries }));
    let items = json!({ "type": "array", "items": { "$ref": "#/$defs/item" } });
    let menu = json!({ "type": "string" });
    let fill = match choices.theme {
        Some(theme) => {
            let filled = theme.points().filter(|point| point.address.kind.is_filled() && !point.declared.is_empty());
            let known = filled.map(|point| {
                let schema = if point.address.kind == Kind::Menu { menu.clone() } else { items.clone() };
                (point.address.to_string(), schema)
            });
            closed(known.collect::<Map<_, _>>(), &[])
        }
        None => {
            let pattern = address_pattern(&[Kind::Region, Kind::Area, Kind::Menu]);
            json!({
                "type": "object",
                "propertyNames": { "pattern": pattern },
                "additionalProperties": { "anyOf": [items, menu] }
            })
        }
    };
    properties.insert("fill".into(), fill);
    if let Some(theme) = choices.theme {
        let options = theme.points().filter(|point| point.address.kind == Kind::Option);
        let known =
            options.map(|point| (point.address.name.to_string(), point.schema().map(plain).unwrap_or_default()));
        properties.insert("options".into(), closed(known.collect::<Map<_, _>>(), &[]));
    }
    // Features may have keys of their own.
    json!({ "type": "object", "properties": properties })
}

/// A page.
pub fn page(choices: &Choices<'_>) -> Value {
    let mut properties = table(&keys::PAGE, "preview/pages/", choices);
    if let Some(theme) = choices.theme {
        let sections: Vec<String> =
            theme.addresses().filter(|address| address.kind == Kind::Section).map(ToString::to_string).collect();
        properties.insert(
            "sections".into(),
            json!({
                "type": "array",
                "items": { "allOf": [{ "$ref": "#/$defs/item" }, { "properties": { "use": choice(sections) } }] }
            }),
        );
        for key in theme.types().iter().flat_map(|known| &known.keys) {
            properties.entry(key.name.to_string()).or_insert_with(|| plain(&key.schema));
        }
    }
    let whole = json!({ "required": ["path", "type", "title"] });
    let gone = json!({ "required": ["path", "dropped"] });
    json!({ "type": "object", "properties": properties, "anyOf": [whole, gone] })
}
