//! The forms of files, as JSON Schema (draft 2020-12), so that an editor of TOML completes and checks them.
//!
//! They are made of the same lists of keys that scanning goes by. With a theme's registry, its points, callbacks,
//! inputs and options are the choices.

mod choices;
mod declarations;
mod items;
mod spelt;
mod values;

use serde_json::{Map, Value, json};

use crate::address::Kind;
use crate::catalogue;
use crate::keys::{self, KeyShape};
use crate::link::Registry;
use choices::Choices;
use values::value;

/// The dialect.
pub const DIALECT: &str = "https://json-schema.org/draft/2020-12/schema";

/// A file that has a form.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Form {
    /// `truehook.toml`
    Manifest,
    /// `points/*.toml`
    Points,
    /// `preview/site.toml`
    Site,
    /// `preview/pages/*.toml`
    Page,
}

impl Form {
    /// All of them.
    pub const ALL: [Form; 4] = [Form::Manifest, Form::Points, Form::Site, Form::Page];

    /// Its name.
    pub fn word(self) -> &'static str {
        match self {
            Form::Manifest => "manifest",
            Form::Points => "points",
            Form::Site => "site",
            Form::Page => "page",
        }
    }

    /// The form of that name.
    pub fn from_word(word: &str) -> Option<Form> {
        Form::ALL.into_iter().find(|form| form.word() == word)
    }

    fn title(self) -> &'static str {
        match self {
            Form::Manifest => "truehook.toml: who a layer is, what it declares and attaches",
            Form::Points => "A further piece of a manifest, in points/",
            Form::Site => "preview/site.toml: what the site puts where",
            Form::Page => "A page of the preview",
        }
    }

    /// The schema of such a file; with a theme, of that theme's own.
    pub fn schema(self, theme: Option<&Registry>) -> Value {
        let choices = Choices::of(theme);
        let mut schema = match self {
            Form::Manifest => manifest(&choices, true),
            Form::Points => manifest(&choices, false),
            Form::Site => items::site(&choices),
            Form::Page => items::page(&choices),
        };
        let head = json!({ "$schema": DIALECT, "title": self.title() });
        if let (Value::Object(schema), Value::Object(head)) = (&mut schema, head) {
            let body = std::mem::replace(schema, head);
            schema.extend(body);
            schema.insert("$defs".into(), definitions(&choices));
        }
        schema
    }
}

/// What several places refer to.
fn definitions(choices: &Choices<'_>) -> Value {
    json!({ "schema": values::schema_words(), "item": items::item(choices), "entry": items::entry() })
}

/// A table of these keys and no others. What each says is what `explain` says.
fn table(shapes: &[KeyShape], of: &str, choices: &Choices<'_>) -> Map<String, Value> {
    let mut properties = Map::new();
    for shape in shapes {
        let mut schema = value(shape, choices);
        describe(&mut schema, shape.name, of);
        properties.insert(shape.name.to_string(), schema);
    }
    properties
}

fn describe(schema: &mut Value, name: &str, of: &str) {
    let known = || catalogue::KEYS.iter().filter(|key| key.name == name);
    let about = known().find(|key| key.of.contains(of)).or_else(|| known().next());
    if let (Some(about), Some(schema)) = (about, schema.as_object_mut()) {
        schema.insert("description".into(), about.about.into());
    }
}

/// A closed table.
fn closed(properties: Map<String, Value>, required: &[&str]) -> Value {
    let mut schema = json!({ "type": "object", "properties": properties, "additionalProperties": false });
    if !required.is_empty() {
        schema["required"] = json!(required);
    }
    schema
}

fn manifest(choices: &Choices<'_>, first: bool) -> Value {
    let mut properties = Map::new();
    if first {
        let request = |shapes: &[KeyShape], needed: &str| closed(table(shapes, "base", choices), &[needed]);
        let contract = || closed(table(&keys::CONTRACT, "host", choices), &["contract"]);
        let mut theme = table(&keys::THEME, "[theme]", choices);
        theme.insert("host".into(), contract());
        theme.insert("base".into(), request(&keys::LAYER, "path"));
        theme.insert("companions".into(), json!({ "type": "array", "items": request(&keys::LAYER, "path") }));
        let mut companion = table(&keys::COMPANION, "[companion]", choices);
        companion.insert("host".into(), contract());
        properties.insert("theme".into(), closed(theme, &["name"]));
        properties.insert("companion".into(), closed(companion, &["name"]));
        properties.insert("host".into(), closed(table(&keys::HOST, "[host]", choices), &["name"]));
        properties.insert("limits".into(), closed(table(&keys::LIMITS, "[limits]", choices), &[]));
    }
    for kind in Kind::ALL {
        properties.insert(kind.word().into(), declarations::points(kind, choices));
    }
    let types = closed(table(&keys::PAGE_TYPE, "[type.…]", choices), &[]);
    properties.insert("type".into(), json!({ "type": "object", "additionalProperties": types }));
    for (name, shapes, needed) in [
        ("attach", &keys::ATTACH[..], &["to"][..]),
        ("detach", &keys::DETACH[..], &["from"][..]),
        ("replace", &keys::REPLACE[..], &["call", "with"][..]),
    ] {
        let mut one = closed(table(shapes, &format!("[[{name}]]"), choices), needed);
        if name != "replace" {
            one["oneOf"] = json!([{ "required": ["call"] }, { "required": ["use"] }]);
        }
        choices.narrow(name, &mut one);
        properties.insert(name.into(), json!({ "type": "array", "items": one }));
    }
    let copy = closed(table(&keys::ADOPTED, "[adopted]", choices), &["from", "print"]);
    properties.insert("adopted".into(), json!({ "type": "object", "additionalProperties": copy }));
    let mut check = table(&keys::CHECK, "[check]", choices);
    let ignore = closed(table(&keys::IGNORE, "[[check.ignore]]", choices), &["rule", "because"]);
    check.insert("ignore".into(), json!({ "type": "array", "items": ignore }));
    properties.insert("check".into(), closed(check, &[]));
    let mut schema = closed(properties, &[]);
    if first {
        // `[host.x]` is no kind, so that one of the three tables is always who the layer is.
        schema["anyOf"] = json!([{ "required": ["theme"] }, { "required": ["companion"] }, { "required": ["host"] }]);
    }
    schema
}
