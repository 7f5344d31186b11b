//! Do values fit what is declared of them? JSON Schema (draft 2020-12), in which `markup` is one more
//! type, beside those of the standard.

use std::borrow::Cow;

use serde_json::Value;

/// How a value does not fit.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Misfit {
    /// The keys and positions that lead to the part that does not.
    pub steps: Vec<String>,
    /// What is wrong with it, in one sentence.
    pub message: String,
}

/// How a value does not fit a schema, if so; nothing is said where the schema itself is none.
///
/// ```
/// use serde_json::json;
/// use truehook_core::schema::misfit;
/// let days = json!({ "type": "integer", "minimum": 1 });
/// assert_eq!(misfit(&days, &json!(2)), None);
/// assert!(misfit(&days, &json!(0)).is_some() && misfit(&days, &json!("two")).is_some());
/// ```
pub fn misfit(schema: &Value, value: &Value) -> Option<Misfit> {
    let table = schema.as_object()?;
    if let Some(word) = table.get("type").and_then(Value::as_str)
        && !is_of_type(word, value)
    {
        let message =
            format!("{} is {}, and {} belongs here", shown(value), with_article(type_of(value)), with_article(word));
        return Some(Misfit { steps: Vec::new(), message });
    }
    // Most inputs say no more than their type.
    if table.keys().all(|key| ["type", "default", "label", "about", "examples"].contains(&key.as_str())) {
        return None;
    }
    let validator = jsonschema::validator_for(&standard(schema)).ok()?;
    let error = validator.iter_errors(value).next()?;
    let path = error.instance_path().to_string();
    let steps = path.split('/').skip(1).map(|step| step.replace("~1", "/").replace("~0", "~")).collect();
    Some(Misfit { steps, message: error.to_string() })
}

/// What is wrong with a schema itself, if something is.
pub fn fault(schema: &Value) -> Option<String> {
    let plain = schema.as_object()?.keys().all(|key| ["type", "default", "label", "about"].contains(&key.as_str()));
    if plain {
        return None;
    }
    jsonschema::validator_for(&standard(schema)).err().map(|error| error.to_string())
}

/// The schema in the words of the standard alone.
fn standard(schema: &Value) -> Value {
    match schema {
        Value::Object(table) => {
            let entries = table.iter().filter(|(key, _)| !["label", "about"].contains(&key.as_str()));
            Value::Object(entries.map(|(key, value)| (key.clone(), word(key, value))).collect())
        }
        Value::Array(items) => items.iter().map(standard).collect(),
        other => other.clone(),
    }
}

fn word(key: &str, value: &Value) -> Value {
    match (key, value.as_str()) {
        ("type", Some("markup")) => "string".into(),
        // Values are taken as they are.
        ("default" | "const" | "enum" | "examples", _) => value.clone(),
        ("properties", _) => match value {
            Value::Object(table) => {
                Value::Object(table.iter().map(|(name, schema)| (name.clone(), standard(schema))).collect())
            }
            other => other.clone(),
        },
        _ => standard(value),
    }
}

/// Is this value of that type?
pub fn is_of_type(word: &str, value: &Value) -> bool {
    match word {
        "string" | "markup" => value.is_string(),
        "integer" => value.is_i64() || value.is_u64() || value.as_f64().is_some_and(|number| number.fract() == 0.0),
        "number" => value.is_number(),
        "boolean" => value.is_boolean(),
        "array" => value.is_array(),
        "object" => value.is_object(),
        "null" => value.is_null(),
        _ => true,
    }
}

fn type_of(value: &Value) -> &'static str {
    match value {
        Value::Null => "null",
        Value::Bool(_) => "boolean",
        Value::Number(number) if number.is_f64() => "number",
        Value::Number(_) => "integer",
        Value::String(_) => "string",
        Value::Array(_) => "array",
        Value::Object(_) => "object",
    }
}

fn with_article(word: &str) -> Cow<'_, str> {
    match word {
        "null" => "null".into(),
        "integer" | "array" | "object" => format!("an {word}").into(),
        _ => format!("a {word}").into(),
    }
}

fn shown(value: &Value) -> String {
    let text = value.to_string();
    if text.chars().count() <= 40 {
        return text;
    }
    format!("{}…", text.chars().take(40).collect::<String>())
}
