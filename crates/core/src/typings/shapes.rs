//! Schemas and values, as types of TypeScript.

use std::fmt::Write;

use serde_json::{Map, Value};

/// A schema as a type.
pub fn of_schema(schema: &Value) -> String {
    if let Some(choices) = schema.get("enum").and_then(Value::as_array) {
        return union(choices.iter().map(Value::to_string));
    }
    if let Some(one) = schema.get("const") {
        return one.to_string();
    }
    for word in ["anyOf", "oneOf"] {
        if let Some(all) = schema.get(word).and_then(Value::as_array) {
            return union(all.iter().map(of_schema));
        }
    }
    match schema.get("type") {
        Some(Value::String(word)) => of_word(word, schema),
        Some(Value::Array(words)) => union(words.iter().filter_map(Value::as_str).map(|word| of_word(word, schema))),
        _ if schema.get("properties").is_some() => object(schema),
        _ => "any".to_string(),
    }
}

fn of_word(word: &str, schema: &Value) -> String {
    match word {
        "string" => "string".into(),
        "integer" | "number" => "number".into(),
        "boolean" => "boolean".into(),
        "null" => "null".into(),
        "markup" => "Markup | string".into(),
        "array" => list(&schema.get("items").map_or_else(|| "any".to_string(), of_schema)),
        "object" => object(schema),
        _ => "any".into(),
    }
}

fn list(of: &str) -> String {
    match of.contains(['|', '&']) {
        true => format!("({of})[]"),
        false => format!("{of}[]"),
    }
}

fn object(schema: &Value) -> String {
    let Some(properties) = schema.get("properties").and_then(Value::as_object) else {
        return "{ [key: string]: any }".into();
    };
    let required = schema.get("required").and_then(Value::as_array);
    let needed = |name: &str| required.is_some_and(|names| names.iter().any(|known| known == name));
    let fields = properties.iter().map(|(name, inner)| Field {
        name: name.clone(),
        optional: !needed(name) && inner.get("default").is_none(),
        of: of_schema(inner),
        about: inner.get("about").and_then(Value::as_str).map(str::to_string),
    });
    let open = schema.get("additionalProperties") != Some(&Value::Bool(false));
    table(&fields.collect::<Vec<_>>(), open)
}

/// A property.
pub struct Field {
    /// Its name.
    pub name: String,
    /// May it be missing?
    pub optional: bool,
    /// Its type.
    pub of: String,
    /// What it is.
    pub about: Option<String>,
}

/// A table with these properties; an open one may have others.
pub fn table(fields: &[Field], open: bool) -> String {
    let mut text = String::from("{ ");
    for Field { name, optional, of, about } in fields {
        if let Some(about) = about {
            let _ = write!(text, "/** {} */ ", about.replace("*/", "* /"));
        }
        let _ = write!(text, "{}{}: {of}; ", key(name), if *optional { "?" } else { "" });
    }
    if open {
        text.push_str("[key: string]: any; ");
    }
    text.push('}');
    text
}

/// A name as a key: in quotes, where it is no word.
pub fn key(name: &str) -> String {
    let word = name.starts_with(|letter: char| letter.is_ascii_alphabetic() || letter == '_')
        && name.chars().all(|letter| letter.is_ascii_alphanumeric() || letter == '_');
    if word { name.to_string() } else { Value::from(name).to_string() }
}

/// Several types, each once.
pub fn union(all: impl Iterator<Item = String>) -> String {
    let mut known: Vec<String> = Vec::new();
    for one in all {
        if !known.contains(&one) {
            known.push(one);
        }
    }
    if known.iter().any(|one| one == "any") {
        return "any".into();
    }
    match known.is_empty() {
        true => "never".into(),
        false => known.join(" | "),
    }
}

/// The type of a value that the preview gives; another site may give another one, but hardly of another type.
pub fn of_values(values: &[&Value]) -> String {
    let tables: Vec<&Map<String, Value>> = values.iter().filter_map(|value| value.as_object()).collect();
    let lists: Vec<&Vec<Value>> = values.iter().filter_map(|value| value.as_array()).collect();
    let mut kinds: Vec<String> = Vec::new();
    if !tables.is_empty() {
        let mut names: Vec<&String> = Vec::new();
        for name in tables.iter().flat_map(|table| table.keys()) {
            if !names.contains(&name) {
                names.push(name);
            }
        }
        let fields = names.into_iter().map(|name| {
            let given: Vec<&Value> = tables.iter().filter_map(|table| table.get(name)).collect();
            Field { name: name.clone(), optional: given.len() < tables.len(), of: of_values(&given), about: None }
        });
        kinds.push(table(&fields.collect::<Vec<_>>(), false));
    }
    if !lists.is_empty() {
        let elements: Vec<&Value> = lists.iter().flat_map(|list| list.iter()).collect();
        kinds.push(match elements.is_empty() {
            true => "any[]".into(),
            false => list(&of_values(&elements)),
        });
    }
    let plain = values.iter().filter_map(|value| match value {
        Value::String(_) => Some("string".to_string()),
        Value::Number(_) => Some("number".to_string()),
        Value::Bool(_) => Some("boolean".to_string()),
        Value::Null => Some("null".to_string()),
        Value::Object(_) | Value::Array(_) => None,
    });
    kinds.extend(plain);
    union(kinds.into_iter())
}
