//! Declarations of points, kind by kind.

use serde_json::{Value, json};

use super::choices::{Choices, inputs, plain};
use super::{closed, table, values};
use crate::address::{Address, Kind};
use crate::catalogue;
use crate::keys::{self, KeyShape};
use crate::link::Feature;
use crate::names::LONGEST;

/// The table of a kind: a declaration under each name.
pub fn points(kind: Kind, choices: &Choices<'_>) -> Value {
    let name = if kind == Kind::Option { "^[a-z][a-z0-9_]*$" } else { "^[a-z][a-z0-9]*(-[a-z0-9]+)*$" };
    let mut schema = json!({
        "type": "object",
        "description": catalogue::kind(kind),
        "propertyNames": { "pattern": name, "maxLength": LONGEST },
        "additionalProperties": declaration(kind, choices)
    });
    if let (Kind::Feature, Some(theme)) = (kind, choices.theme) {
        let features = theme.points().filter(|point| point.address.kind == Kind::Feature && theme.is_offered(point));
        let known = features.map(|point| (point.address.name.to_string(), feature(point.feature.as_deref(), choices)));
        schema["properties"] = Value::Object(known.collect());
    }
    schema
}

fn declaration(kind: Kind, choices: &Choices<'_>) -> Value {
    let shapes: Vec<KeyShape> = keys::keys_of(kind).copied().collect();
    let mut properties = table(&shapes, &format!("[{kind}.…]"), choices);
    if properties.contains_key("offer") {
        let mut offer = table(&keys::OFFERED, "offer", choices);
        offer.insert("item".into(), json!({ "type": "object" }));
        properties.insert("offer".into(), json!({ "type": "array", "items": closed(offer, &[]) }));
    }
    if kind == Kind::Section {
        properties.insert("piece".into(), points(Kind::Piece, choices));
    }
    if kind == Kind::Option {
        // An option takes all words of JSON Schema.
        if let Value::Object(words) = &values::schema_words()["properties"] {
            for (word, schema) in words {
                properties.entry(word.clone()).or_insert_with(|| schema.clone());
            }
        }
        properties["default"] = json!({ "description": "What it is where nothing is given." });
        properties["minimum"] = json!({ "type": "number" });
    }
    let mut schema = closed(properties, &[]);
    if kind == Kind::Feature {
        // What a feature takes is the host's to say.
        schema["additionalProperties"] = json!(true);
    }
    schema
}

/// What the host says that a feature takes.
fn feature(known: Option<&Feature>, choices: &Choices<'_>) -> Value {
    let shapes: Vec<KeyShape> = keys::keys_of(Kind::Feature).copied().collect();
    let mut properties = table(&shapes, "[feature.…]", choices);
    let schema = known.and_then(|feature| feature.schema.as_ref()).map(plain).unwrap_or_default();
    if let Some(arguments) = schema.get("properties").and_then(Value::as_object) {
        properties.extend(arguments.iter().map(|(name, schema)| {
            let flag = json!({ "type": "boolean" });
            (name.clone(), json!({ "anyOf": [schema, flag] }))
        }));
    }
    let open = schema.get("additionalProperties").is_some_and(|open| *open != json!(false));
    let mut schema = closed(properties, &[]);
    schema["additionalProperties"] = json!(open);
    schema
}

/// What an item says beside its component: its inputs.
pub fn of_component(choices: &Choices<'_>, component: Address) -> serde_json::Map<String, Value> {
    choices.theme.map(|theme| inputs(theme, component)).unwrap_or_default()
}
