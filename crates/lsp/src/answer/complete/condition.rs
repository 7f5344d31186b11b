//! Conditions, and what can be read of a page, its site and the options.

use lsp_types::CompletionItemKind as Shape;
use serde_json::Value;
use truehook_core::address::Kind;
use truehook_core::link::{PAGE_KEYS, Registry, SITE_KEYS, THEME_KEYS};

use super::{Found, Item, Typing, names};
use crate::cursor::expression::{After, Language, Typed, typed};

/// In the text of a `when`, which begins at a byte.
pub fn complete(typing: &Typing<'_>, begin: usize) -> Option<Found> {
    let found = typed(typing.text, begin, typing.offset, Language::Condition);
    let registry = typing.registry();
    if let Some(values) = compared(registry, &found) {
        return Some(values);
    }
    if found.string.is_some() {
        return None;
    }
    let mut items = match found.path.as_slice() {
        [] => roots(&["page", "site", "options", "theme"]),
        path => keys(registry, path),
    };
    if found.path.is_empty() {
        items.extend(["and", "or", "not", "in"].map(|word| Item::new(word, Shape::KEYWORD, 5)));
    }
    Some(Found { items, span: found.word })
}

/// The values that fit what is compared.
pub fn compared(registry: &Registry, found: &Typed) -> Option<Found> {
    let After::Compared(path) = &found.after else { return None };
    let values = match path.as_slice() {
        [page, key] if page == "page" && key == "type" => names::types(registry),
        path => choices(registry, path),
    };
    if values.is_empty() {
        return None;
    }
    let (span, quoted) = found.string.map_or((found.word, false), |(_, whole)| (whole, true));
    let items = values.into_iter().map(|item| match quoted || item.insert.is_some() {
        true => item,
        false => {
            let text = format!("'{}'", item.label);
            Item { label: text, ..item }
        }
    });
    Some(Found { items: items.collect(), span })
}

/// What a name of a closed set can be.
fn choices(registry: &Registry, path: &[String]) -> Vec<Item> {
    let values = registry.closed_values(&path.join(".")).unwrap_or_default();
    values.iter().map(|value| value_item(value, 0)).collect()
}

/// A value as it is offered; what is no text is written as it is.
pub fn value_item(value: &Value, rank: u8) -> Item {
    match value {
        Value::String(text) => Item::new(text, Shape::ENUM_MEMBER, rank),
        other => Item::new(other.to_string(), Shape::VALUE, rank).insert(other.to_string()),
    }
}

/// Names that there always are.
pub fn roots(words: &[&str]) -> Vec<Item> {
    let about = |word: &str| match word {
        "page" => "the page at hand",
        "site" => "the site: its title, menus and data",
        "options" => "what the site chooses of the theme's options",
        "theme" => "the theme: its name, label and version",
        "args" => "what the placement passes on",
        "point" => "the point at hand",
        _ => "",
    };
    words.iter().map(|word| Item::new(*word, Shape::MODULE, 1).detail(about(word))).collect()
}

/// What can be read behind `page.`, `site.data.` and the like.
pub fn keys(registry: &Registry, path: &[String]) -> Vec<Item> {
    let plain = |keys: &[&str], rank| keys.iter().map(|key| Item::new(*key, Shape::FIELD, rank)).collect::<Vec<_>>();
    match path.iter().map(String::as_str).collect::<Vec<_>>()[..] {
        ["page"] => {
            let mut found = plain(&PAGE_KEYS, 0);
            for page_type in registry.types() {
                found.extend(page_type.keys.iter().map(|key| {
                    let word = key.type_word().unwrap_or_default();
                    Item::new(key.name.as_str(), Shape::FIELD, 1).detail(format!("{word} of {} pages", page_type.name))
                }));
            }
            found.extend(registry.fed_keys_on("page").iter().map(|key| Item::new(key.as_str(), Shape::FIELD, 2)));
            found
        }
        ["site"] => {
            let mut found = plain(&SITE_KEYS, 0);
            found.extend(registry.fed_keys_on("site").iter().map(|key| Item::new(key.as_str(), Shape::FIELD, 2)));
            found
        }
        ["theme"] => plain(&THEME_KEYS, 0),
        ["options"] => {
            let options = registry.points().filter(|point| point.address.kind == Kind::Option);
            options
                .map(|point| {
                    let detail = point.label.map(|label| label.to_string()).unwrap_or_default();
                    let about = point.about.map(|about| about.to_string());
                    Item::new(point.address.name.as_str(), Shape::FIELD, 0).detail(detail).about(about)
                })
                .collect()
        }
        ["page" | "site", "data", ..] => data(registry, path),
        _ => Vec::new(),
    }
}

/// Keys of the preview's data.
fn data(registry: &Registry, path: &[String]) -> Vec<Item> {
    let mut found: Vec<Item> = Vec::new();
    for file in registry.project().file_ids() {
        let value = match (&registry.facts(file).shape, path[0].as_str()) {
            (truehook_core::scan::Shape::Page(page), "page") => &page.value,
            (truehook_core::scan::Shape::Site(site), "site") => &site.value,
            _ => continue,
        };
        let inner = path[1..].iter().try_fold(value, |value, key| value.get(key));
        for (key, value) in inner.and_then(Value::as_object).into_iter().flatten() {
            if !found.iter().any(|item| item.label == *key) {
                let detail = match value {
                    Value::Object(_) | Value::Array(_) => String::new(),
                    plain => plain.to_string(),
                };
                found.push(Item::new(key, Shape::FIELD, 0).detail(detail));
            }
        }
    }
    found
}
