//! In manifests: tables, keys and values.

use lsp_types::CompletionItemKind as Shape;
use truehook_core::address::{Address, Kind};
use truehook_core::catalogue;
use truehook_core::keys::{self, KeyShape};
use truehook_core::link::Registry;
use truehook_core::rules::ALL;
use truehook_core::scan::{FORMATS, TYPE_WORDS};
use truehook_core::source::Span;

use super::{Found, Item, Typing, condition, items, names};
use crate::cursor::toml::{Part, TomlPlace, place};

/// What could be typed in a manifest.
pub fn complete(typing: &Typing<'_>) -> Option<Found> {
    let here = place(typing.text, typing.offset);
    match here.part {
        Part::Nothing => None,
        Part::Header(span) => Some(Found { items: headers(typing, span, here.listed), span }),
        Part::Key(span) => Some(Found { items: keys_at(typing, &here, span), span }),
        Part::Value { .. } => value(typing, &here),
    }
}

/// The words of a table's path.
fn words(here: &TomlPlace) -> Vec<&str> {
    here.table.iter().chain(&here.keys).map(String::as_str).collect()
}

/// Names of tables.
fn headers(typing: &Typing<'_>, span: Span, listed: bool) -> Vec<Item> {
    let registry = typing.registry();
    let typed = &typing.text[span.range()];
    if listed {
        let tables = ["attach", "detach", "replace", "check.ignore"];
        return tables.map(|table| Item::new(table, Shape::STRUCT, 0).detail(about(table, "truehook.toml"))).into();
    }
    let mut found = Vec::new();
    if let Some((word, _)) = typed.split_once('.')
        && let Some(kind) = Kind::from_word(word)
    {
        let top = registry.project().top();
        let all = registry.points().filter(|point| point.address.kind == kind);
        let open = all.filter(|point| point.declared.iter().all(|declared| declared.layer != top));
        found.extend(open.map(|point| {
            let item = names::point_item(registry, point, 0);
            Item { label: format!("{kind}.{}", point.address.name), ..item }
        }));
        return found;
    }
    let identity = registry.top_manifest().is_some_and(|manifest| manifest.identity.is_some());
    if !identity {
        found.extend(["theme", "companion", "host"].map(|table| Item::new(table, Shape::STRUCT, 0)));
    }
    found.extend(Kind::ALL.map(|kind| {
        let item = Item::new(kind.word(), Shape::STRUCT, 1).insert(format!("{kind}."));
        item.about(Some(catalogue::kind(kind).to_string()))
    }));
    found.extend(["check", "check.rules", "adopted"].map(|table| {
        Item::new(table, Shape::STRUCT, 2).detail(about(table.split('.').next().unwrap_or(table), "truehook.toml"))
    }));
    found
}

/// What a key says, of those in a place.
pub fn about(name: &str, of: &str) -> String {
    let known = catalogue::KEYS.iter().filter(|key| key.name == name);
    let near = known.clone().find(|key| key.of.contains(of));
    near.or_else(|| known.clone().next()).map(|key| key.about.to_string()).unwrap_or_default()
}

/// Keys as they are offered; what is given already is left out.
pub fn key_items(shapes: &[KeyShape], of: &str, given: &[&str]) -> Vec<Item> {
    let open = shapes.iter().filter(|shape| !given.contains(&shape.name));
    open.enumerate().map(|(at, shape)| key_item(shape, of, at as u8)).collect()
}

fn key_item(shape: &KeyShape, of: &str, rank: u8) -> Item {
    let item = Item::new(shape.name, Shape::PROPERTY, rank).detail(shape.holds).about(Some(about(shape.name, of)));
    match shape.example.split_once(" = ") {
        Some((key, value)) if key == shape.name => item.snippet(format!("{key} = {}", gap(value))),
        Some((_, value)) if shape.example.starts_with(shape.name) => {
            let key = shape.example.split(" = ").next().unwrap_or(shape.name);
            item.snippet(format!("{key} = {}", gap(value)))
        }
        _ => item.insert(format!("{} = ", shape.name)),
    }
}

/// A value with a gap for what is to be written; quotes stay.
pub fn gap(value: &str) -> String {
    let (quote, inner) = match value.chars().next() {
        Some(quote @ ('"' | '\'')) if value.len() >= 2 && value.ends_with(quote) => {
            (quote.to_string(), &value[1..value.len() - 1])
        }
        _ => (String::new(), value),
    };
    let escaped = inner.replace('\\', "\\\\").replace('$', "\\$").replace('}', "\\}");
    format!("{quote}${{1:{escaped}}}{quote}")
}

/// Pieces that begin a table.
fn pieces(registry: &Registry, rank: u8) -> Vec<Item> {
    let mut found: Vec<Item> = Kind::ALL
        .into_iter()
        .filter(|kind| *kind != Kind::Feature)
        .map(|kind| {
            let text = keys::piece_to_paste(kind);
            let (header, rest) = text.split_once('\n').unwrap_or((&text, ""));
            let name = header.trim_matches(['[', ']']).rsplit('.').next().unwrap_or_default();
            let escaped = rest.replace('\\', "\\\\").replace('$', "\\$").replace('}', "\\}");
            let snippet = format!("[{kind}.${{1:{name}}}]\n{}", escaped.trim_end());
            let item =
                Item::new(format!("[{kind}.…]"), Shape::SNIPPET, rank).detail(format!("declares {}", kind.one()));
            item.snippet(snippet).about(Some(catalogue::kind(kind).to_string()))
        })
        .collect();
    let tables = [
        ("[[attach]]", "[[attach]]\nto = \"${1:hook:name}\"\ncall = \"${2:file.js#name}\""),
        ("[[detach]]", "[[detach]]\nfrom = \"${1:hook:name}\"\ncall = \"${2:layer:file.js#name}\""),
        ("[[replace]]", "[[replace]]\ncall = \"${1:layer:file.js#name}\"\nwith = \"${2:file.js#name}\""),
        ("[[check.ignore]]", "[[check.ignore]]\nrule = \"${1:rule}\"\nbecause = \"${2:reason}\""),
    ];
    found.extend(tables.map(|(label, text)| {
        let word = label.trim_matches(['[', ']']);
        Item::new(label, Shape::SNIPPET, rank)
            .snippet(text)
            .detail(about(word.rsplit('.').next().unwrap_or(word), "truehook.toml"))
    }));
    let features =
        registry.points().filter(|point| point.address.kind == Kind::Feature && !registry.is_on(point.address));
    found.extend(features.filter(|point| registry.is_offered(point)).map(|point| {
        let label = format!("[feature.{}]", point.address.name);
        let about = point.about.map(|about| about.to_string());
        Item::new(label, Shape::SNIPPET, rank + 1).about(about).detail("switches it on")
    }));
    found
}

fn keys_at(typing: &Typing<'_>, here: &TomlPlace, span: Span) -> Vec<Item> {
    let registry = typing.registry();
    let given: Vec<&str> = here.beside.keys().map(String::as_str).collect();
    // At the beginning of a line, another table can begin.
    let line = typing.text[..span.start as usize].rsplit('\n').next().unwrap_or_default();
    let starts_line = line.trim().is_empty() && here.keys.is_empty();
    let mut found = keys_of_table(registry, here, &given);
    if starts_line {
        found.extend(pieces(registry, 100));
    }
    found
}

fn keys_of_table(registry: &Registry, here: &TomlPlace, given: &[&str]) -> Vec<Item> {
    match words(here)[..] {
        ["theme"] => key_items(&keys::THEME, "[theme]", given),
        ["companion"] => key_items(&keys::COMPANION, "[companion]", given),
        ["host"] if here.keys.is_empty() => key_items(&keys::HOST, "[host]", given),
        ["theme" | "companion", "host"] => key_items(&keys::CONTRACT, "host", given),
        ["theme", "base" | "companions"] => key_items(&keys::LAYER, "base", given),
        ["attach"] => key_items(&keys::ATTACH, "[[attach]]", given),
        ["detach"] => key_items(&keys::DETACH, "[[detach]]", given),
        ["replace"] => key_items(&keys::REPLACE, "[[replace]]", given),
        ["check"] => key_items(&keys::CHECK, "[check]", given),
        ["check", "ignore"] => key_items(&keys::IGNORE, "[[check.ignore]]", given),
        ["check", "rules"] => rules(given, true),
        ["limits"] => key_items(&keys::LIMITS, "[limits]", given),
        ["type", _] => key_items(&keys::PAGE_TYPE, "[type.…]", given),
        ["type", _, "page", _, ..] => schema_keys(given),
        ["adopted", _] => key_items(&keys::ADOPTED, "[adopted]", given),
        ["section", _, "piece", _, ref rest @ ..] => declaration(registry, Kind::Piece, rest, given, None),
        ["feature", name, ref rest @ ..] => {
            let mut found = feature(registry, name, rest, given);
            if rest.is_empty() {
                let usual = declaration(registry, Kind::Feature, rest, given, None);
                found.extend(usual.into_iter().map(|item| Item { rank: item.rank + 10, ..item }));
            }
            found
        }
        [kind, name, ref rest @ ..] => match Kind::from_word(kind) {
            Some(kind) => declaration(registry, kind, rest, given, Some(Address::new(kind, name))),
            None => Vec::new(),
        },
        _ => Vec::new(),
    }
}

/// The keys of a declaration, or of what stands in one.
fn declaration(registry: &Registry, kind: Kind, rest: &[&str], given: &[&str], point: Option<Address>) -> Vec<Item> {
    let of = format!("[{kind}.…]");
    match rest {
        [] => {
            let all: Vec<KeyShape> = keys::keys_of(kind).copied().collect();
            let mut found = key_items(&all, &of, given);
            if kind == Kind::Option {
                found.extend(schema_keys(given).into_iter().map(|item| Item { rank: item.rank + 40, ..item }));
            }
            found
        }
        ["inputs" | "args", _, ..] | ["value", ..] => schema_keys(given),
        ["offer"] => key_items(&keys::OFFERED, "offer", given),
        ["offer", "item"] => match point {
            Some(point) => {
                let given: Vec<String> = given.iter().map(|given| given.to_string()).collect();
                items::fields(registry, point, &given, |field| format!("{} = ", field.name))
            }
            None => Vec::new(),
        },
        ["offer", "item", "holds", ..] => key_items(&keys::ITEM, "items", given),
        _ => Vec::new(),
    }
}

/// Words of JSON Schema.
fn schema_keys(given: &[&str]) -> Vec<Item> {
    let words = truehook_core::scan::SCHEMA_WORDS.iter().filter(|word| !given.contains(word));
    let items = words.enumerate().map(|(at, word)| {
        let text = about(word, "JSON Schema");
        Item::new(*word, Shape::PROPERTY, at as u8).about(Some(text)).insert(format!("{word} = "))
    });
    items.collect()
}

/// Rules by name, as values or, with their levels, as keys.
fn rules(given: &[&str], keys: bool) -> Vec<Item> {
    let open = ALL.iter().filter(|rule| !given.contains(&rule.name));
    let items = open.map(|rule| {
        let item = Item::new(rule.name, Shape::ENUM_MEMBER, 0).detail(rule.level.word());
        let item = item.about(Some(rule.summary.to_string()));
        if keys { item.snippet(format!("{} = \"${{1:off}}\"", rule.name)) } else { item }
    });
    items.collect()
}

/// What a feature takes, by the schema that the host gives.
fn feature(registry: &Registry, name: &str, rest: &[&str], given: &[&str]) -> Vec<Item> {
    let properties = |schema: &serde_json::Value| schema.get("properties").and_then(|all| all.as_object()).cloned();
    let Some(mut schema) = feature_schema(registry, name) else { return Vec::new() };
    for key in rest {
        let inner = schema.get("properties").and_then(|all| all.get(key)).or(schema.get("additionalProperties"));
        let Some(inner) = inner.cloned() else { return Vec::new() };
        schema = inner.get("items").cloned().unwrap_or(inner);
    }
    let known = properties(&schema).unwrap_or_default();
    let open = known.into_iter().filter(|(key, _)| !given.contains(&key.as_str()));
    let items = open.map(|(key, schema)| {
        let text = |word: &str| schema.get(word).and_then(|text| text.as_str()).unwrap_or_default().to_string();
        let about = ["about", "description"].into_iter().map(text).find(|text| !text.is_empty());
        Item::new(&key, Shape::PROPERTY, 0).detail(text("type")).about(about).insert(format!("{key} = "))
    });
    items.collect()
}

fn feature_schema(registry: &Registry, name: &str) -> Option<serde_json::Value> {
    registry.point(Address::new(Kind::Feature, name))?.feature.as_ref()?.schema.clone()
}

/// Values.
fn value(typing: &Typing<'_>, here: &TomlPlace) -> Option<Found> {
    let Part::Value { whole, typed, quote, element } = here.part else { return None };
    let path = words(here);
    if path.last() == Some(&"when") {
        return quote.and_then(|_| condition::complete(typing, typed.start as usize));
    }
    let items = values_at(typing, here, &path, element);
    let items = written(items, quote);
    (!items.is_empty()).then_some(Found { items, span: whole })
}

/// Texts in their quotes, where none stand there yet. What is no text goes without.
pub fn written(items: Vec<Item>, quote: Option<char>) -> Vec<Item> {
    let made = items.into_iter().filter_map(|item| match (quote, &item.insert) {
        (Some(_), None) => Some(item),
        (Some(_), Some(_)) => None,
        (None, Some(_)) => Some(item),
        (None, None) => {
            let text = format!("\"{}\"", item.label);
            Some(item.insert(text))
        }
    });
    made.collect()
}

fn plain(words: &[&str]) -> Vec<Item> {
    words.iter().enumerate().map(|(at, word)| Item::new(*word, Shape::VALUE, at as u8)).collect()
}

fn values_at(typing: &Typing<'_>, here: &TomlPlace, path: &[&str], element: bool) -> Vec<Item> {
    let registry = typing.registry();
    let point = |key: &str| here.beside.get(key).and_then(|text| text.parse::<Address>().ok());
    let top = registry.project().top();
    let below = |layer| layer != top;
    let bare = ["true", "false"].map(|word| Item::new(word, Shape::VALUE, 0).insert(word)).to_vec();
    match *path {
        ["attach", "to"] => names::attachable(registry),
        ["detach", "from"] => names::points(registry, |point| point.slots.iter().any(|slot| slot.layer != top)),
        ["replace", "in"] => names::points(registry, |point| !point.slots.is_empty()),
        ["attach", "call"] => names::callbacks(registry, point("to"), false),
        ["replace", "with"] => names::callbacks(registry, point("in"), false),
        ["detach", "call" | "use"] => match point("from") {
            Some(point) => names::slots(registry, point, below),
            None => names::below(registry),
        },
        ["replace", "call"] => match point("in") {
            Some(point) => names::slots(registry, point, below),
            None => names::below(registry),
        },
        ["attach", "use"] => names::of_kinds(registry, &[Kind::Partial]),
        ["attach", "before" | "after"] => {
            point("to").map(|point| names::slots(registry, point, |_| true)).unwrap_or_default()
        }
        ["attach", "sealed"]
        | ["theme", "open"]
        | [_, _, "reserved" | "dropped" | "extend" | "required" | "moment" | "last"] => bare,
        ["theme" | "companion", "host", "contract"] => plain(&["standard"]),
        ["theme" | "companion" | "host", "picture"] => names::media(registry, "", is_picture),
        ["check", "fail-on"] => plain(&["error", "warning", "note"]),
        ["check", "rules", _] => plain(&["off", "note", "warning", "error"]),
        ["check", "ignore", "rule"] => rules(&[], false),
        ["check", "ignore", "point"] => names::points(registry, |_| true),
        ["check", "ignore", "file"] => own_files(registry),
        ["adopted", _, "from"] => {
            let layers = registry.project().layers.iter().take(top.index());
            layers.map(|layer| Item::new(layer.name.as_str(), Shape::MODULE, 0)).collect()
        }
        ["style", _, "file"] => names::media(registry, "media/", |path| path.ends_with(".css")),
        ["script", _, "file"] => {
            names::media(registry, "media/", |path| path.ends_with(".js") || path.ends_with(".mjs"))
        }
        ["script", _, "at"] => plain(&["end", "head"]),
        ["hook", _, "inside"] => plain(&["head", "body"]),
        ["option", _, "type"] => types(),
        ["feature", name, ref rest @ ..] => of_feature(registry, name, rest),
        [.., "render"] => names::callbacks(registry, None, true),
        [.., "instead"] => names::points(registry, |_| true),
        [.., "needs"] if element => names::of_kinds(registry, &[Kind::Style, Kind::Script, Kind::Bundle]),
        [.., "holds"] if element => {
            let mut found = names::of_kinds(registry, &[Kind::Piece]);
            found.insert(0, Item::new("piece:*", Shape::REFERENCE, 0).detail("every piece"));
            found
        }
        [.., "use"] => items::components(registry, None),
        [.., "inputs" | "args", _, "type"] | [.., "value", "type"] | ["type", _, "page", _, "type"] => types(),
        [.., "format"] => plain(&FORMATS),
        _ => Vec::new(),
    }
}

fn types() -> Vec<Item> {
    plain(&TYPE_WORDS)
}

/// Is it the file of a picture?
pub fn is_picture(path: &str) -> bool {
    [".svg", ".png", ".jpg", ".jpeg", ".webp", ".avif", ".gif"].iter().any(|ending| path.ends_with(ending))
}

fn own_files(registry: &Registry) -> Vec<Item> {
    let own = registry.project().files_of(registry.project().top());
    own.map(|(_, file)| Item::new(file.path.as_str(), Shape::FILE, 0)).collect()
}

/// How wide items may be made.
pub fn steps(registry: &Registry) -> Vec<Item> {
    let steps = registry.argument("extent", "steps");
    let names = steps.iter().filter_map(|steps| steps.as_object()).flat_map(|steps| steps.keys());
    names.map(|step| Item::new(step, Shape::VALUE, 0)).collect()
}

fn of_feature(registry: &Registry, name: &str, rest: &[&str]) -> Vec<Item> {
    let Some(mut schema) = feature_schema(registry, name) else { return Vec::new() };
    for key in rest {
        let inner = schema.get("properties").and_then(|all| all.get(key)).or(schema.get("additionalProperties"));
        let Some(inner) = inner.cloned() else { return Vec::new() };
        schema = inner.get("items").cloned().unwrap_or(inner);
    }
    let word = |key: &str| schema.get(key).and_then(|text| text.as_str());
    let mut found: Vec<Item> = Vec::new();
    if let Some(choices) = schema.get("enum").and_then(|choices| choices.as_array()) {
        found.extend(choices.iter().map(|choice| condition::value_item(choice, 0)));
    }
    match (word("type"), word("format")) {
        (Some("boolean"), _) => {
            found.extend(["true", "false"].map(|word| Item::new(word, Shape::VALUE, 0).insert(word)));
        }
        (_, Some("path")) => found.extend(names::media(registry, "", |_| true)),
        (_, Some("extent")) => found.extend(steps(registry)),
        _ => {}
    }
    found
}
