//! What a key holds, as a schema.

use serde_json::{Value, json};

use super::choices::Choices;
use crate::keys::KeyShape;
use crate::rules::ALL;
use crate::scan::{FORMATS, SCHEMA_WORDS, TYPE_WORDS};

fn version() -> Value {
    json!({ "type": "string", "pattern": "^[0-9]+\\.[0-9]+\\.[0-9]+([-+][0-9A-Za-z.+-]+)?$" })
}

fn list(of: Value) -> Value {
    json!({ "type": "array", "items": of })
}

fn level(off: bool) -> Value {
    let levels = ["error", "warning", "note", "off"];
    json!({ "enum": &levels[..if off { 4 } else { 3 }] })
}

/// A table of schemas, by name.
fn schemas() -> Value {
    json!({
        "type": "object",
        "propertyNames": { "pattern": "^[a-z][a-z0-9_]*$", "maxLength": 64 },
        "additionalProperties": { "$ref": "#/$defs/schema" }
    })
}

/// What a key holds. The words are those of the lists of keys.
pub fn value(shape: &KeyShape, choices: &Choices<'_>) -> Value {
    match shape.holds {
        "text"
        | "markup"
        | "condition"
        | "media query"
        | "path below media/"
        | "path from the theme's folder"
        | "name of a layer"
        | "where it leads"
        | "file beside it"
        | "name or path of a contract" => {
            json!({ "type": "string" })
        }
        "name in kebab-case" => {
            json!({ "type": "string", "pattern": "^[a-z][a-z0-9]*(-[a-z0-9]+)*$", "maxLength": 64 })
        }
        "version" => version(),
        "versions" => {
            let range = json!({ "type": "string", "pattern": "[0-9*]" });
            json!({ "oneOf": [range, { "type": "array", "items": range, "minItems": 1 }] })
        }
        "true or false" => json!({ "type": "boolean" }),
        "number from 0 to 100" => json!({ "type": "integer", "minimum": 0, "maximum": 100 }),
        "whole number" | "whole number above 0" => json!({ "type": "integer", "minimum": 1 }),
        "address" => choices.address(shape.name),
        "list of addresses" => list(choices.address(shape.name)),
        "callback" => choices.callback(shape.name),
        "list of callbacks" => list(json!({ "type": "string" })),
        "list of global names" => list(json!({ "type": "string" })),
        "\"head\" or \"body\"" => json!({ "enum": ["head", "body"] }),
        "\"head\" or \"end\"" => json!({ "enum": ["head", "end"] }),
        "SHA-256" => json!({ "type": "string", "pattern": "^sha256-[0-9a-f]{64}$" }),
        "level" => level(false),
        "table of levels" => {
            let rules = ALL.iter().map(|rule| (rule.name.to_string(), level(true)));
            json!({ "type": "object", "properties": rules.collect::<serde_json::Map<_, _>>(), "additionalProperties": false })
        }
        "name of a rule" => json!({ "enum": ALL.iter().map(|rule| rule.name).collect::<Vec<_>>() }),
        "schema" => json!({ "$ref": "#/$defs/schema" }),
        "table of schemas" => schemas(),
        "type of JSON Schema" => json!({ "enum": TYPE_WORDS }),
        "list of values" => json!({ "type": "array" }),
        "number, and other words of JSON Schema" => json!({ "type": "number" }),
        "language tag" => json!({ "type": "string" }),
        // JSON has no dates, so editors of TOML check them as text.
        "date" => json!({ "type": "string" }),
        "path of the page" => json!({ "type": "string", "pattern": "^/" }),
        "type of pages" => choices.page_type(),
        "list of items" => list(json!({ "$ref": "#/$defs/item" })),
        "list of entries" => list(json!({ "$ref": "#/$defs/entry" })),
        "table" | "table of values" | "table of inputs" => json!({ "type": "object" }),
        // What is more than one word for is put together where it belongs.
        "list of label and item"
        | "tables of inner pieces"
        | "table of contract and version"
        | "table of path and version"
        | "list of path and version"
        | "list of findings"
        | "table of lists of entries"
        | "table of lists of items"
        | "value" => json!({}),
        other => unreachable!("no form for what `{}` holds: {other}", shape.name),
    }
}

/// The words of JSON Schema that inputs, arguments, values and options are described with.
pub fn schema_words() -> Value {
    let own = json!({ "$ref": "#/$defs/schema" });
    let properties = SCHEMA_WORDS.iter().map(|word| {
        let schema = match *word {
            "type" => json!({ "enum": TYPE_WORDS }),
            "format" => json!({ "enum": FORMATS }),
            "enum" | "examples" => json!({ "type": "array" }),
            "minimum" | "maximum" | "exclusiveMinimum" | "exclusiveMaximum" | "multipleOf" => {
                json!({ "type": "number" })
            }
            "minLength" | "maxLength" | "minItems" | "maxItems" => json!({ "type": "integer", "minimum": 0 }),
            "uniqueItems" => json!({ "type": "boolean" }),
            "pattern" | "label" | "about" => json!({ "type": "string" }),
            "required" => list(json!({ "type": "string" })),
            "properties" => json!({ "type": "object", "additionalProperties": own }),
            "prefixItems" | "anyOf" | "oneOf" | "allOf" => list(own.clone()),
            "items" | "contains" | "not" => own.clone(),
            "additionalProperties" => json!({ "anyOf": [{ "type": "boolean" }, own] }),
            _ => json!({}),
        };
        let mut schema = schema;
        super::describe(&mut schema, word, "JSON Schema");
        (word.to_string(), schema)
    });
    let properties: serde_json::Map<String, Value> = properties.collect();
    json!({ "type": "object", "properties": properties, "additionalProperties": false })
}
