//! In the files of the preview: what the site puts where, and its pages.

use lsp_types::CompletionItemKind as Shape;
use truehook_core::address::{Address, Kind};
use truehook_core::keys;
use truehook_core::link::Registry;
use truehook_core::read::FileKind;

use super::manifest::{key_items, steps, written};
use super::{Found, Item, Typing, condition, items, names};
use crate::cursor::toml::{Part, TomlPlace, place};

/// What could be typed in a file of the preview.
pub fn complete(typing: &Typing<'_>) -> Option<Found> {
    let here = place(typing.text, typing.offset);
    let site = typing.registry().project().file(typing.file).kind == FileKind::Site;
    let path: Vec<&str> = here.table.iter().chain(&here.keys).map(String::as_str).collect();
    match here.part {
        Part::Nothing => None,
        Part::Header(span) => {
            let tables = if site { &["options", "menus", "fill", "data"][..] } else { &["data", "sections"][..] };
            let items = tables.iter().map(|table| Item::new(*table, Shape::STRUCT, 0)).collect();
            Some(Found { items, span })
        }
        Part::Key(span) => Some(Found { items: keys_at(typing.registry(), site, &path, &here), span }),
        Part::Value { whole, typed, quote, .. } => {
            if path.last() == Some(&"when") {
                return quote.and_then(|_| condition::complete(typing, typed.start as usize));
            }
            let items = written(values(typing.registry(), site, &path, &here), quote);
            (!items.is_empty()).then_some(Found { items, span: whole })
        }
    }
}

/// Is this path one to a list of items, and what holds them?
fn holder<'p>(site: bool, path: &'p [&'p str]) -> Option<(Option<Address>, &'p [&'p str])> {
    match (site, path) {
        (true, ["fill", point, rest @ ..]) => Some((point.parse().ok(), rest)),
        (false, ["sections", rest @ ..]) => Some((None, rest)),
        _ => None,
    }
}

fn keys_at(registry: &Registry, site: bool, path: &[&str], here: &TomlPlace) -> Vec<Item> {
    let given: Vec<&str> = here.beside.keys().map(String::as_str).collect();
    if let Some((holder, rest)) = holder(site, path)
        && rest.iter().all(|word| *word == "holds")
        && (holder.is_some() || !site)
    {
        return item_keys(registry, holder.filter(|_| rest.is_empty()), here, &given);
    }
    match (site, path) {
        (true, []) => key_items(&keys::SITE, "preview/site.toml", &given),
        (true, ["fill"]) => {
            let filled = names::points(registry, |point| point.address.kind.is_filled());
            filled
                .into_iter()
                .map(|item| {
                    let text = format!("\"{}\" = ", item.label);
                    item.insert(text)
                })
                .collect()
        }
        (true, ["options"]) => {
            let options = condition::keys(registry, &["options".to_string()]);
            options.into_iter().filter(|item| !given.contains(&item.label.as_str())).map(assigned).collect()
        }
        (true, ["menus", ..]) if path.len() > 1 => key_items(&keys::ENTRY, "entries of menus", &given),
        (false, []) => {
            let mut found = key_items(&keys::PAGE, "preview/pages/", &given);
            let page_type = here.beside.get("type");
            let types =
                registry.types().iter().filter(|known| page_type.is_none_or(|word| known.name == *word.as_str()));
            found.extend(types.flat_map(|known| &known.keys).map(|key| {
                let word = key.type_word().unwrap_or("anything");
                assigned(Item::new(key.name.as_str(), Shape::PROPERTY, 20).detail(word))
            }));
            found
        }
        _ => Vec::new(),
    }
}

fn assigned(item: Item) -> Item {
    let text = format!("{} = ", item.label);
    item.insert(text)
}

/// The keys of an item: the component, and what that takes.
fn item_keys(registry: &Registry, holder: Option<Address>, here: &TomlPlace, given: &[&str]) -> Vec<Item> {
    let mut found = key_items(&keys::ITEM, "items", given);
    let Some(written) = here.beside.get("use") else { return found };
    let Some(component) = registry.item_component(written, holder) else { return found };
    let names: Vec<String> = given.iter().map(|given| given.to_string()).collect();
    found.extend(items::fields(registry, component, &names, |field| format!("{} = ", field.name)));
    if holder.is_some_and(|holder| holder.kind == Kind::Area) && !given.contains(&"title") {
        found.push(assigned(Item::new("title", Shape::PROPERTY, 1).detail("the item's title")));
    }
    if registry.takes_extent(component) && !given.contains(&"extent") {
        found.push(assigned(Item::new("extent", Shape::PROPERTY, 2).detail("how wide it is")));
    }
    found
}

fn values(registry: &Registry, site: bool, path: &[&str], here: &TomlPlace) -> Vec<Item> {
    if let Some((holder, rest)) = holder(site, path) {
        let (last, before) = match rest {
            [] => {
                // A menu spot is filled with one of the site's menus.
                return holder
                    .filter(|point| point.kind == Kind::Menu)
                    .map(|_| names::menus(registry))
                    .unwrap_or_default();
            }
            [before @ .., last] => (*last, before),
        };
        let held = before.contains(&"holds");
        return match last {
            "use" if !site && !held => names::of_kinds(registry, &[Kind::Section]),
            "use" => items::components(registry, holder.filter(|_| !held)),
            "extent" => steps(registry),
            input => {
                let component = here.beside.get("use").and_then(|written| registry.item_component(written, holder));
                component.map(|component| items::values(registry, component, input)).unwrap_or_default()
            }
        };
    }
    match (site, path) {
        (true, ["options", option]) => {
            let point = registry.point(Address::new(Kind::Option, *option));
            let schema = point.and_then(|point| point.schema());
            let choices = schema.and_then(|schema| schema.get("enum")?.as_array().cloned()).unwrap_or_default();
            let boolean = schema.is_some_and(|schema| schema.get("type").is_some_and(|word| word == "boolean"));
            let mut found: Vec<Item> = choices.iter().map(|choice| condition::value_item(choice, 0)).collect();
            if boolean {
                found.extend(["true", "false"].map(|word| Item::new(word, Shape::VALUE, 0).insert(word)));
            }
            found
        }
        (true, ["menus", .., "href"]) => names::pages(registry),
        (true, ["language"]) => registry.languages().into_iter().map(|word| Item::new(word, Shape::VALUE, 0)).collect(),
        (false, ["type"]) => names::types(registry),
        (false, ["body"]) => {
            let bodies = registry.project().files_of(registry.project().top());
            let bodies = bodies.filter(|(_, file)| file.kind == FileKind::Body);
            bodies.map(|(_, file)| Item::new(file.name(), Shape::FILE, 0)).collect()
        }
        (_, [.., "file"]) => names::media(registry, "", |_| true),
        _ => Vec::new(),
    }
}
