//! The words of JSON Schema that inputs, arguments, values and options are described with.

use super::*;
use crate::scan::toml::Title;

/// Words of JSON Schema (draft 2020-12) that a field may use, and `label` and `about` for people.
pub const SCHEMA_WORDS: [&str; 29] = [
    "type",
    "enum",
    "const",
    "default",
    "minimum",
    "maximum",
    "exclusiveMinimum",
    "exclusiveMaximum",
    "multipleOf",
    "minLength",
    "maxLength",
    "pattern",
    "format",
    "items",
    "prefixItems",
    "contains",
    "minItems",
    "maxItems",
    "uniqueItems",
    "properties",
    "required",
    "additionalProperties",
    "anyOf",
    "oneOf",
    "allOf",
    "not",
    "examples",
    "label",
    "about",
];
/// The types that a value can have: those of JSON Schema, and markup.
pub const TYPE_WORDS: [&str; 8] = ["string", "integer", "number", "boolean", "array", "object", "null", "markup"];

/// The formats of texts: those of JSON Schema, and those that True Hook knows what to do with.
pub const FORMATS: [&str; 26] = [
    "colour",
    "length",
    "path",
    "folder",
    "page",
    "palette",
    "lettering",
    "extent",
    "date",
    "time",
    "date-time",
    "duration",
    "email",
    "hostname",
    "idn-email",
    "idn-hostname",
    "ipv4",
    "ipv6",
    "iri",
    "iri-reference",
    "json-pointer",
    "regex",
    "uri",
    "uri-reference",
    "uri-template",
    "uuid",
];

/// Notes what in a schema is no word of JSON Schema.
pub(super) fn schema<'t>(node: &'t Node<'t>, key: &'t str, notes: &mut Notes) {
    let Some(table) = Table::from(node, Title::Quoted(key), notes) else { return };
    table.known(&SCHEMA_WORDS, notes);
    type_word(&table, notes);
    format_word(&table, notes);
}

/// Notes a format that is none.
fn format_word(table: &Table<'_>, notes: &mut Notes) {
    if let Some((word, at)) = table.text("format", notes)
        && !FORMATS.contains(&word)
    {
        let label = match names::nearest(word, FORMATS) {
            Some(near) => format!("did you mean `{near}`?"),
            None => format!("one of {}", FORMATS.join(", ")),
        };
        let message = format!("`{word}` is not a format, so that it says nothing of values");
        notes.flaw(FlawKind::ManifestSyntax, at, message, label);
        if let Some(flaw) = notes.flaws.last_mut() {
            flaw.instead = names::certain(word, FORMATS).map(str::to_string);
        }
    }
}

/// Notes a type that is none.
pub(super) fn type_word(table: &Table<'_>, notes: &mut Notes) {
    if let Some((word, at)) = table.text("type", notes)
        && !TYPE_WORDS.contains(&word)
    {
        let label = match names::nearest(word, TYPE_WORDS) {
            Some(near) => format!("did you mean `{near}`?"),
            None => format!("one of {}", TYPE_WORDS.join(", ")),
        };
        notes.flaw(FlawKind::ManifestSyntax, at, format!("`{word}` is not a type"), label);
    }
}
