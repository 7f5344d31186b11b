//! Do values fit what is declared of them? JSON Schema (draft 2020-12), in which `markup` is one more
//! type, beside those of the standard.

mod plain;

use std::borrow::Cow;

use boon::{
    CompileError, Compiler, Draft, ErrorKind, Format, InstanceToken, SchemaIndex, Schemas, UrlLoader, ValidationError,
};
use serde_json::Value;

use crate::css::{colour_fault, length_fault};

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
    if plain::is_sound(schema) && plain::fits(schema, value) {
        return None;
    }
    let (schemas, index) = compiled(schema).ok()?;
    let error = schemas.validate(value, index).err()?;
    let error = innermost(&error);
    let steps = steps_of(error);
    let part = steps.iter().try_fold(value, |part, step| match part {
        Value::Array(items) => items.get(step.parse::<usize>().ok()?),
        part => part.get(step),
    });
    Some(Misfit { message: complaint(&error.kind, part.unwrap_or(value)), steps })
}

/// What is wrong with a schema itself, if something is.
pub fn fault(schema: &Value) -> Option<String> {
    if !schema.is_object() || plain::is_sound(schema) {
        return None;
    }
    let error = compiled(schema).err()?;
    Some(match *error {
        CompileError::ValidationError { src, .. } => {
            let error = innermost(&src);
            match steps_of(error).join(".") {
                steps if steps.is_empty() => error.kind.to_string(),
                steps => format!("`{steps}`: {}", error.kind),
            }
        }
        CompileError::InvalidRegex { regex, .. } => format!("`{regex}` is no pattern"),
        CompileError::JsonPointerNotFound(_) | CompileError::AnchorNotFound { .. } => {
            "it refers to a part of itself that is not there".into()
        }
        other => other.to_string(),
    })
}

/// What a schema is called while it is compiled; it stands for itself alone.
const OWN: &str = "truehook:schema";

/// Schemas are whole: nothing is fetched for them.
struct Nowhere;

impl UrlLoader for Nowhere {
    fn load(&self, url: &str) -> Result<Value, Box<dyn std::error::Error>> {
        Err(format!("`{url}` is not fetched").into())
    }
}

fn compiled(schema: &Value) -> Result<(Schemas, SchemaIndex), Box<CompileError>> {
    let mut schemas = Schemas::new();
    let mut compiler = Compiler::new();
    compiler.set_default_draft(Draft::V2020_12);
    compiler.use_loader(Box::new(Nowhere));
    compiler.enable_format_assertions();
    for (name, func) in [("colour", is_colour as fn(&Value) -> _), ("length", is_length)] {
        compiler.register_format(Format { name, func });
    }
    compiler.add_resource(OWN, standard(schema))?;
    let index = compiler.compile(OWN, &mut schemas)?;
    Ok((schemas, index))
}

fn is_colour(value: &Value) -> Result<(), Box<dyn std::error::Error>> {
    value.as_str().and_then(colour_fault).map_or(Ok(()), |why| Err(why.into()))
}

fn is_length(value: &Value) -> Result<(), Box<dyn std::error::Error>> {
    value.as_str().and_then(length_fault).map_or(Ok(()), |why| Err(why.into()))
}

/// The first thing that is wrong, rather than what it makes wrong around it.
fn innermost<'e, 's, 'v>(error: &'e ValidationError<'s, 'v>) -> &'e ValidationError<'s, 'v> {
    match (&error.kind, error.causes.first()) {
        (ErrorKind::AnyOf | ErrorKind::OneOf(_) | ErrorKind::PropertyName { .. }, _) | (_, None) => error,
        (_, Some(cause)) => innermost(cause),
    }
}

/// The keys and positions that lead to what is wrong.
fn steps_of(error: &ValidationError<'_, '_>) -> Vec<String> {
    let step = |step: &InstanceToken<'_>| match step {
        InstanceToken::Prop(key) => key.to_string(),
        InstanceToken::Item(at) => at.to_string(),
    };
    error.instance_location.tokens.iter().map(step).collect()
}

/// What is wrong with a part of a value, in one sentence.
fn complaint(kind: &ErrorKind<'_, '_>, part: &Value) -> String {
    let part = shown(part);
    let all = |values: &[Value]| values.iter().map(shown).collect::<Vec<_>>().join(", ");
    let names = |names: &[&str]| names.iter().map(|name| format!("`{name}`")).collect::<Vec<_>>().join(", ");
    match kind {
        ErrorKind::Type { want, .. } => {
            let words: Vec<String> = want.iter().map(|word| with_article(&word.to_string()).into_owned()).collect();
            format!("{part} is no {}", words.join(" or ").trim_start_matches("an ").trim_start_matches("a "))
        }
        ErrorKind::Enum { want } => format!("{part} is none of {}", all(want)),
        ErrorKind::Const { want } => format!("{part} is not {}", shown(want)),
        ErrorKind::Minimum { want, .. } => format!("{part} is less than {want}, the minimum"),
        ErrorKind::Maximum { want, .. } => format!("{part} is more than {want}, the maximum"),
        ErrorKind::ExclusiveMinimum { want, .. } => format!("{part} is not more than {want}"),
        ErrorKind::ExclusiveMaximum { want, .. } => format!("{part} is not less than {want}"),
        ErrorKind::MultipleOf { want, .. } => format!("{part} is no multiple of {want}"),
        ErrorKind::Pattern { want, .. } => format!("{part} does not fit the pattern `{want}`"),
        ErrorKind::MinLength { want, .. } => format!("{part} is shorter than {want} characters"),
        ErrorKind::MaxLength { want, .. } => format!("{part} is longer than {want} characters"),
        ErrorKind::MinItems { got, want } => format!("there are {got} items, and at least {want} belong here"),
        ErrorKind::MaxItems { got, want } => format!("there are {got} items, and at most {want} belong here"),
        ErrorKind::UniqueItems { .. } => format!("{part} holds something twice"),
        ErrorKind::MinProperties { got, want } => format!("there are {got} keys, and at least {want} belong here"),
        ErrorKind::MaxProperties { got, want } => format!("there are {got} keys, and at most {want} belong here"),
        ErrorKind::Required { want } => format!("{} is missing", names(want)),
        ErrorKind::AdditionalProperties { got } => {
            let got: Vec<&str> = got.iter().map(Cow::as_ref).collect();
            format!("{} is not known here", names(&got))
        }
        ErrorKind::PropertyName { prop } => format!("`{prop}` is no name that fits here"),
        ErrorKind::Format { want: "colour" | "length", err, .. } => err.to_string(),
        ErrorKind::Format { want, .. } => format!("{part} is no {want}"),
        ErrorKind::FalseSchema => format!("{part} is not allowed here"),
        ErrorKind::AnyOf | ErrorKind::OneOf(None) => format!("{part} fits none of what may be here"),
        other => format!("{part}: {other}"),
    }
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
