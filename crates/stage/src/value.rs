//! Values on their way between preview data, templates and callbacks.
//!
//! Inside the stage every value is the template engine's `Value`; markup is its safe string.

use std::fmt;

use minijinja::Value;
use minijinja::value::ValueKind;

/// Values by their names, in order: the arguments of a placement, the inputs of an item.
pub type Given = Vec<(String, Value)>;

/// What sort of value something is, in the words of JSON Schema.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum ValueType {
    /// Nothing at all: `undefined`.
    Nothing,
    Null,
    Boolean,
    Integer,
    Number,
    /// Text, which is escaped where it is printed.
    Text,
    /// Text that is markup already.
    Markup,
    Object,
    Array,
}

impl ValueType {
    pub fn of(value: &Value) -> ValueType {
        match value.kind() {
            ValueKind::Undefined => ValueType::Nothing,
            ValueKind::None => ValueType::Null,
            ValueKind::Bool => ValueType::Boolean,
            ValueKind::Number if value.is_integer() => ValueType::Integer,
            ValueKind::Number => ValueType::Number,
            ValueKind::String if value.is_safe() => ValueType::Markup,
            ValueKind::String => ValueType::Text,
            ValueKind::Map => ValueType::Object,
            _ => ValueType::Array,
        }
    }

    pub fn word(self) -> &'static str {
        match self {
            ValueType::Nothing => "nothing",
            ValueType::Null => "null",
            ValueType::Boolean => "boolean",
            ValueType::Integer => "integer",
            ValueType::Number => "number",
            ValueType::Text => "string",
            ValueType::Markup => "markup",
            ValueType::Object => "object",
            ValueType::Array => "array",
        }
    }

    /// Is there a value at all?
    pub fn is_absent(self) -> bool {
        matches!(self, ValueType::Nothing | ValueType::Null)
    }

    /// Is this of the type of that word? Every whole number is a number.
    pub fn is(self, word: &str) -> bool {
        self.word() == word || self == ValueType::Integer && word == "number"
    }
}

impl fmt::Display for ValueType {
    fn fmt(&self, out: &mut fmt::Formatter<'_>) -> fmt::Result {
        out.write_str(self.word())
    }
}

/// JSON as a value.
pub fn from_json(json: &serde_json::Value) -> Value {
    use serde_json::Value as Json;
    match json {
        Json::Null => Value::from(()),
        Json::Bool(truth) => Value::from(*truth),
        Json::Number(number) => match number.as_i64() {
            Some(number) => Value::from(number),
            None => Value::from(number.as_f64().unwrap_or_default()),
        },
        Json::String(text) => Value::from(text.as_str()),
        Json::Array(items) => items.iter().map(from_json).collect(),
        Json::Object(table) => Value::from_pairs(table.iter().map(|(key, value)| (key.as_str(), from_json(value)))),
    }
}

/// A table without entries.
pub fn empty_table() -> Value {
    Value::from_pairs(Vec::<(String, Value)>::new())
}

/// The entries of a table, if it is one.
pub fn pairs(value: &Value) -> Option<Given> {
    let keys = value.try_iter().ok().filter(|_| ValueType::of(value) == ValueType::Object)?;
    Some(keys.map(|key| (key.to_string(), value.get_item(&key).unwrap_or_default())).collect())
}

/// A value for people, in the trace: as JSON, markup as it is.
pub fn shown(value: &Value) -> String {
    match value.is_safe() {
        true => value.to_string(),
        false if value.is_undefined() => "nothing".into(),
        false => serde_json::to_string(value).unwrap_or_else(|_| format!("{value:?}")),
    }
}

/// A text of any kind as markup: text is escaped, markup stays as it is.
pub fn as_markup(value: &Value) -> String {
    match value.is_safe() {
        true => value.to_string(),
        false if ValueType::of(value).is_absent() => String::new(),
        false => escape(&value.to_string()),
    }
}

/// Escapes a text for use in HTML text and quoted attributes.
pub fn escape(text: &str) -> String {
    let mut whole = String::with_capacity(text.len());
    let done: Result<(), fmt::Error> = escaped(text, &mut |part| {
        whole.push_str(part);
        Ok(())
    });
    debug_assert!(done.is_ok(), "a string takes all that is written to it");
    whole
}

/// Does a text stay as it is when it is escaped?
pub fn is_plain(text: &str) -> bool {
    !text.bytes().any(is_sign)
}

fn is_sign(byte: u8) -> bool {
    matches!(byte, b'&' | b'<' | b'>' | b'"' | b'\'')
}

/// Hands the parts of an escaped text on.
pub fn escaped<E>(text: &str, write: &mut dyn FnMut(&str) -> Result<(), E>) -> Result<(), E> {
    let mut rest = text;
    while let Some(at) = rest.bytes().position(is_sign) {
        write(&rest[..at])?;
        write(match rest.as_bytes()[at] {
            b'&' => "&amp;",
            b'<' => "&lt;",
            b'>' => "&gt;",
            b'"' => "&quot;",
            _ => "&#39;",
        })?;
        rest = &rest[at + 1..];
    }
    write(rest)
}

/// Attributes as they stand in a tag. What is no name of an attribute is left out (HTML, 13.1.2.3).
pub fn as_attributes(attributes: &Value) -> String {
    let good = |name: &str| !name.is_empty() && name.chars().all(|c| c.is_ascii_alphanumeric() || "-_:.".contains(c));
    let mut parts = Vec::new();
    for (name, value) in pairs(attributes).unwrap_or_default().into_iter().filter(|(name, _)| good(name)) {
        match ValueType::of(&value) {
            ValueType::Nothing | ValueType::Null => {}
            ValueType::Boolean if !value.is_true() => {}
            ValueType::Boolean => parts.push(name),
            ValueType::Markup => parts.push(format!("{name}=\"{}\"", escape(&value.to_string()))),
            _ => parts.push(format!("{name}=\"{}\"", as_markup(&value))),
        }
    }
    parts.join(" ")
}
