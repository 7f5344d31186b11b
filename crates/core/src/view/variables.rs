//! What templates can read.

use serde::Serialize;

use crate::address::Kind;
use crate::link::{PAGE_KEYS, Point, Registry, SITE_KEYS, THEME_KEYS};

/// Something that a template can read.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, schemars::JsonSchema)]
pub struct VariableView {
    /// Its name, joined by dots.
    pub name: String,
    /// Its type, in the words of JSON Schema and `markup`.
    #[serde(rename = "type")]
    pub type_word: Option<String>,
}

pub(super) fn variables(registry: &Registry, point: &Point) -> Vec<VariableView> {
    let text = |word: Option<&str>| word.map(str::to_string);
    let own = point.inputs.iter().map(|input| (input.field.name.to_string(), text(input.field.type_word())));
    let under = |root: &'static str, keys: Vec<(String, Option<String>)>| {
        keys.into_iter().map(move |(key, word)| (format!("{root}.{key}"), word))
    };
    let given = |keys: &[&str]| keys.iter().map(|key| (key.to_string(), text(Some(type_of_key(key))))).collect();
    let mut page: Vec<(String, Option<String>)> = given(&PAGE_KEYS);
    for page_type in registry.types() {
        let shown = point.address.kind != Kind::Template
            || point.address.name == page_type.name
            || point.address.name == "page";
        for field in page_type.keys.iter().filter(|_| shown) {
            if !page.iter().any(|(known, _)| field.name == *known) {
                page.push((field.name.to_string(), text(field.type_word())));
            }
        }
    }
    let options = registry.points().filter(|point| point.address.kind == Kind::Option);
    let options = options.map(|option| {
        let word = option.schema().and_then(|schema| schema.get("type")?.as_str());
        (option.address.name.to_string(), text(word))
    });
    own.chain(under("page", page))
        .chain(under("site", given(&SITE_KEYS)))
        .chain(under("theme", given(&THEME_KEYS)))
        .chain(under("options", options.collect()))
        .map(|(name, type_word)| VariableView { name, type_word })
        .collect()
}

/// The type of a key that every page, site or theme has.
fn type_of_key(key: &str) -> &'static str {
    match key {
        "body" | "root" => "markup",
        "sections" => "array",
        "data" | "menus" => "object",
        _ => "string",
    }
}
