//! The words that nearly all schemas keep to, looked at directly. The library is asked only about the rest, and
//! about what does not fit: before its first answer it reads the standard's own schemas, which takes longer than
//! all else that a check of a small theme does.
//!
//! Both functions are true only where it is certain; false stands for "ask the library".

use regex_lite::Regex;
use serde_json::{Map, Value};
use toml::value::Datetime;

use super::is_of_type;
use crate::css::{colour_fault, length_fault};

/// Types that a schema may name.
const TYPES: [&str; 8] = ["string", "markup", "integer", "number", "boolean", "array", "object", "null"];
/// The largest whole number up to which all are told apart.
const EXACT: f64 = 9_007_199_254_740_991.0;

/// Is this certainly a schema?
pub(super) fn is_sound(schema: &Value) -> bool {
    let Some(table) = schema.as_object() else { return schema.is_boolean() };
    let count = |value: &Value| value.as_u64().is_some();
    table.iter().all(|(word, value)| match word.as_str() {
        "default" | "const" | "label" | "about" => true,
        "examples" => value.is_array(),
        "type" => value.as_str().is_some_and(|word| TYPES.contains(&word)),
        "enum" => value.as_array().is_some_and(|values| !values.is_empty()),
        "minimum" | "maximum" | "exclusiveMinimum" | "exclusiveMaximum" => value.is_number(),
        "minLength" | "maxLength" | "minItems" | "maxItems" | "minProperties" | "maxProperties" => count(value),
        "uniqueItems" => value.is_boolean(),
        "format" => value.is_string(),
        "pattern" => value.as_str().is_some_and(|pattern| regex_of(pattern).is_some()),
        "required" => value.as_array().is_some_and(|names| names.iter().all(Value::is_string) && all_differ(names)),
        "items" | "additionalProperties" | "propertyNames" | "not" => is_sound(value),
        "anyOf" => value.as_array().is_some_and(|schemas| !schemas.is_empty() && schemas.iter().all(is_sound)),
        "properties" => value.as_object().is_some_and(|schemas| schemas.values().all(is_sound)),
        _ => false,
    })
}

/// Does a value certainly fit a schema that is one?
pub(super) fn fits(schema: &Value, value: &Value) -> bool {
    let Some(table) = schema.as_object() else { return schema.as_bool() == Some(true) };
    table.iter().all(|(word, said)| match word.as_str() {
        "default" | "label" | "about" | "examples" => true,
        "type" => said.as_str().is_some_and(|word| TYPES.contains(&word) && is_of_type(word, value)),
        "enum" => said.as_array().is_some_and(|values| values.contains(value)),
        "const" => said == value,
        "minimum" => above(value, said, |value, least| value >= least),
        "maximum" => above(value, said, |value, most| value <= most),
        "exclusiveMinimum" => above(value, said, |value, least| value > least),
        "exclusiveMaximum" => above(value, said, |value, most| value < most),
        "minLength" => value.as_str().is_none_or(|text| at_least(text.chars().count(), said)),
        "maxLength" => value.as_str().is_none_or(|text| at_most(text.chars().count(), said)),
        "minItems" => value.as_array().is_none_or(|items| at_least(items.len(), said)),
        "maxItems" => value.as_array().is_none_or(|items| at_most(items.len(), said)),
        "minProperties" => value.as_object().is_none_or(|table| at_least(table.len(), said)),
        "maxProperties" => value.as_object().is_none_or(|table| at_most(table.len(), said)),
        "uniqueItems" => {
            // Numbers that are written otherwise may be equal.
            value.as_array().is_none_or(|items| items.iter().all(Value::is_string) && all_differ(items))
        }
        "format" => value.as_str().is_none_or(|text| match said.as_str() {
            Some("colour") => colour_fault(text).is_none(),
            Some("length") => length_fault(text).is_none(),
            Some("path" | "folder" | "type") => true,
            Some("date") => written(text).is_some_and(|date| date.time.is_none()),
            Some("date-time") => written(text).is_some_and(|date| date.offset.is_some()),
            _ => false,
        }),
        "pattern" => value
            .as_str()
            .is_none_or(|text| said.as_str().and_then(regex_of).is_some_and(|pattern| pattern.is_match(text))),
        "items" => value.as_array().is_none_or(|items| items.iter().all(|item| fits(said, item))),
        "required" => value.as_object().is_none_or(|own| {
            let named = |name: &Value| name.as_str().is_some_and(|name| own.contains_key(name));
            said.as_array().is_some_and(|names| names.iter().all(named))
        }),
        "propertyNames" => {
            value.as_object().is_none_or(|own| own.keys().all(|key| fits(said, &Value::from(key.as_str()))))
        }
        "properties" => value
            .as_object()
            .is_none_or(|own| own.iter().all(|(key, value)| said.get(key).is_none_or(|schema| fits(schema, value)))),
        "anyOf" => said.as_array().is_some_and(|schemas| schemas.iter().any(|schema| fits(schema, value))),
        // Of other schemas it is not certain what does not fit them.
        "not" => said.as_object().is_some_and(|table| {
            let other = table.get("const").filter(|_| table.len() == 1);
            other.zip(value.as_str()).is_some_and(|(other, text)| other.as_str().is_some_and(|other| other != text))
        }),
        "additionalProperties" => value.as_object().is_none_or(|own| others_fit(table, said, own)),
        _ => false,
    })
}

fn others_fit(table: &Map<String, Value>, said: &Value, own: &Map<String, Value>) -> bool {
    let named = |key: &str| table.get("properties").is_some_and(|named| named.get(key).is_some());
    own.iter().filter(|(key, _)| !named(key)).all(|(_, value)| fits(said, value))
}

/// A date, or a date and a time, as RFC 3339 has them. TOML has the same, but for a blank in the middle, and for
/// seconds, which can be left out there.
fn written(text: &str) -> Option<Datetime> {
    let whole = text.len() == 10 || !text.contains(' ') && text.as_bytes().get(16) == Some(&b':');
    let date: Datetime = text.parse().ok().filter(|_| whole)?;
    date.date.is_some().then_some(date)
}

fn above(value: &Value, bound: &Value, holds: fn(f64, f64) -> bool) -> bool {
    let exact = |value: &Value| value.as_f64().filter(|number| number.abs() <= EXACT);
    !value.is_number() || exact(value).zip(exact(bound)).is_some_and(|(value, bound)| holds(value, bound))
}

fn at_least(count: usize, said: &Value) -> bool {
    said.as_u64().is_some_and(|least| count as u64 >= least)
}

fn at_most(count: usize, said: &Value) -> bool {
    said.as_u64().is_some_and(|most| count as u64 <= most)
}

fn all_differ(items: &[Value]) -> bool {
    (0..items.len()).all(|at| !items[..at].contains(&items[at]))
}

/// A pattern of which the language of schemas (ECMA-262) and ours mean the same: letters, classes of them, groups,
/// repetitions and ends. Such patterns are used once or twice, so that what is ready soon is better than what is quick.
fn regex_of(pattern: &str) -> Option<Regex> {
    const OTHERWISE: [&str; 11] = ["(?", "[]", "[^]", "--", "**", "*+", "++", "+*", "?*", "?+", "??"];
    let same = |c: char| c.is_ascii_alphanumeric() || "._-[]()*+?^$| ".contains(c);
    let nested = pattern.split('[').skip(1).any(|class| !class.contains(']'));
    let plain = pattern.chars().all(same) && !nested && !OTHERWISE.iter().any(|mark| pattern.contains(mark));
    plain.then(|| Regex::new(pattern).ok()).flatten()
}
