//! In templates.

use std::sync::LazyLock;

use lsp_types::CompletionItemKind as Shape;
use regex::Regex;
use truehook_core::address::{Address, Kind};
use truehook_core::link::{Registry, Renderer};
use truehook_core::scan::{FILTERS, FUNCTIONS, Field, TESTS};
use truehook_core::source::FileId;

use super::{Found, Item, Typing, condition, items, names};
use crate::answer::words;
use crate::cursor::expression::{After, Call, Language, Tag, Typed, tag, typed};

/// The words that begin a tag.
const TAGS: [&str; 20] = [
    "extends",
    "block",
    "endblock",
    "include",
    "import",
    "from",
    "if",
    "elif",
    "else",
    "endif",
    "for",
    "endfor",
    "set",
    "endset",
    "with",
    "endwith",
    "macro",
    "endmacro",
    "filter",
    "endfilter",
];

/// What could be typed in a template.
pub fn complete(typing: &Typing<'_>) -> Option<Found> {
    let begin = match tag(typing.text, typing.offset)? {
        Tag::Comment => return None,
        Tag::Print(begin) | Tag::Block(begin) => begin,
    };
    let block = matches!(tag(typing.text, typing.offset), Some(Tag::Block(_)));
    let found = typed(typing.text, begin, typing.offset, Language::Template);
    let registry = typing.registry();
    if let Some(values) = condition::compared(registry, &found) {
        return Some(values);
    }
    if let Some((_, whole)) = found.string {
        let items = texts(typing, &found, block);
        return (!items.is_empty()).then_some(Found { items, span: whole });
    }
    let first = typing.text[begin..found.word.start as usize].trim().is_empty();
    let items = match &found.after {
        After::Pipe => filters(registry),
        After::Is => TESTS.iter().map(|test| Item::new(*test, Shape::KEYWORD, 0)).collect(),
        After::Word(word) if word == "block" => blocks(typing),
        _ if block && first => TAGS.map(|tag| Item::new(tag, Shape::KEYWORD, 0)).to_vec(),
        _ if !found.path.is_empty() => fields(typing, &found.path),
        _ => names_here(typing, found.call.as_ref()),
    };
    Some(Found { items, span: found.word })
}

/// Texts in quotes: addresses, files, templates, messages.
fn texts(typing: &Typing<'_>, found: &Typed, block: bool) -> Vec<Item> {
    let registry = typing.registry();
    if let Some(call) = &found.call {
        return match (call.name.as_str(), call.index, &call.key) {
            (name, index, key) if key.is_none() && index == 0 => of_call(typing, name),
            (_, _, Some(key)) => match call.first.as_ref().and_then(|first| first.parse::<Address>().ok()) {
                Some(point) if point.kind == Kind::Menu && key == "with" => names::of_kinds(registry, &[Kind::Partial]),
                Some(point) => items::values(registry, point, key),
                None => Vec::new(),
            },
            _ => Vec::new(),
        };
    }
    match &found.after {
        After::Word(word) if ["extends", "include", "import", "from"].contains(&word.as_str()) => {
            names::templates(registry, typing.file)
        }
        _ if block => Vec::new(),
        _ => names::messages(registry),
    }
}

/// What a function takes first.
pub fn of_call(typing: &Typing<'_>, name: &str) -> Vec<Item> {
    let registry = typing.registry();
    match name {
        "place" => names::placeable(registry, typing.text),
        "through" => names::of_kinds(registry, &[Kind::Filter]),
        "filled" => names::points(registry, |point| {
            matches!(point.address.kind, Kind::Hook | Kind::Region | Kind::Area | Kind::Menu) && !point.moment
        }),
        "enabled" => {
            let mut found =
                names::points(registry, |point| point.address.kind == Kind::Feature && registry.is_offered(point));
            for item in &mut found {
                let on = item.label.parse::<Address>().is_ok_and(|address| registry.is_on(address));
                item.rank = u8::from(!on);
                item.detail = Some(if on { "switched on" } else { "switched off" }.to_string());
            }
            found
        }
        "asset" => {
            let mut found = names::of_kinds(registry, &[Kind::Style, Kind::Script]);
            found.extend(
                names::media(registry, "", |_| true).into_iter().map(|item| Item { rank: item.rank + 3, ..item }),
            );
            found
        }
        "t" => names::messages(registry),
        _ => Vec::new(),
    }
}

fn filters(registry: &Registry) -> Vec<Item> {
    let mut found = vec![
        Item::new("through", Shape::FUNCTION, 0)
            .snippet("through(\"${1:filter:name}\")")
            .detail("sends the value through a filter"),
        Item::new("t", Shape::FUNCTION, 0).detail("the message in the site's language"),
    ];
    found.extend(
        FILTERS
            .iter()
            .filter(|filter| !["through", "t"].contains(filter))
            .map(|filter| Item::new(*filter, Shape::FUNCTION, 2)),
    );
    if registry.addresses().all(|address| address.kind != Kind::Filter) {
        found.remove(0);
    }
    found
}

/// Blocks of the templates that this one builds on. What is half typed doesn't parse, so its own text is asked.
fn blocks(typing: &Typing<'_>) -> Vec<Item> {
    let registry = typing.registry();
    let layer = registry.project().file(typing.file).layer;
    let extends = EXTENDS.as_ref().and_then(|pattern| pattern.captures(typing.text)?.get(1));
    let Some(parent) = extends.and_then(|name| registry.resolve_template(name.as_str(), layer)) else {
        return Vec::new();
    };
    let mut found: Vec<Item> = Vec::new();
    for parent in registry.chain(parent) {
        let Some(template) = registry.template(parent) else { continue };
        for block in template.sections.iter().flat_map(|section| &section.blocks) {
            if !found.iter().any(|item| block.name == *item.label.as_str()) {
                let detail = registry.project().shown(parent);
                found.push(Item::new(block.name.as_str(), Shape::MODULE, 0).detail(detail));
            }
        }
    }
    found
}

static EXTENDS: LazyLock<Option<Regex>> =
    LazyLock::new(|| Regex::new(r#"\{%[-+]?[ \t\r\n]*extends[ \t\r\n]+["']([^"']+)["']"#).ok());
/// Names that a template sets, loops with, imports, or takes as a macro's.
static LOCAL: LazyLock<Option<Regex>> = LazyLock::new(|| {
    let (blank, name) = ("[ \\t\\r\\n]", "([A-Za-z_][A-Za-z0-9_]*)");
    let set = format!("set{blank}+{name}");
    let each = format!("for{blank}+{name}(?:{blank}*,{blank}*{name})?{blank}+in{blank}");
    let macros = format!("macro{blank}+{name}{blank}*\\(([^)]*)\\)");
    let imported = format!("(?:import|from){blank}[^%]*?{blank}as{blank}+{name}");
    Regex::new(&format!("\\{{%[-+]?{blank}*(?:{set}|{each}|{macros}|{imported})")).ok()
});

/// Names that the template's own tags before a place give.
fn local(typing: &Typing<'_>) -> Vec<Item> {
    let before = &typing.text[..typing.offset];
    let mut found = Vec::new();
    for tag in LOCAL.iter().flat_map(|pattern| pattern.captures_iter(before)) {
        let names = [1, 2, 3, 4, 6].into_iter().filter_map(|group| tag.get(group));
        found.extend(names.map(|name| Item::new(name.as_str(), Shape::VARIABLE, 2).detail("set here")));
        for param in tag.get(5).map_or("", |params| params.as_str()).split(',') {
            let name = param.split('=').next().unwrap_or_default().trim();
            if !name.is_empty() {
                found.push(Item::new(name, Shape::VARIABLE, 2).detail("of the macro"));
            }
        }
    }
    found
}

/// The points that a template renders.
fn shown_by(registry: &Registry, file: FileId) -> Vec<Address> {
    let name = registry.project().file(file).name();
    let all = registry.points();
    let own = all.filter(|point| {
        point.renderer == Some(Renderer::Template(file))
            || truehook_core::link::component_template(point.address) == name
                && (point.address.kind.is_component() || point.address.kind == Kind::Template)
    });
    own.map(|point| point.address).collect()
}

/// Inputs of what the template renders.
fn inputs(registry: &Registry, file: FileId) -> Vec<(Address, Field)> {
    let points = shown_by(registry, file).into_iter().filter_map(|address| registry.point(address));
    points.flat_map(|point| point.inputs.iter().map(|input| (point.address, input.field.clone()))).collect()
}

/// Names that can be read at a place, and arguments of a call.
fn names_here(typing: &Typing<'_>, call: Option<&Call>) -> Vec<Item> {
    let registry = typing.registry();
    let mut found = Vec::new();
    if let Some(call) = call.filter(|call| call.index > 0 && call.key.is_none())
        && let Some(point) = call.first.as_ref().and_then(|first| first.parse::<Address>().ok())
    {
        found.extend(items::fields(registry, point, &call.given, |field| format!("{}=", field.name)));
    }
    for (address, field) in inputs(registry, typing.file) {
        let word = field.type_word().unwrap_or("anything");
        let item = Item::new(field.name.as_str(), Shape::VARIABLE, 3).detail(format!("{word}, of {address}"));
        found.push(item.about(Some(words::field(&field))));
    }
    found.extend(
        condition::roots(&["page", "site", "options", "theme"]).into_iter().map(|item| Item { rank: 4, ..item }),
    );
    found.extend(local(typing));
    found.extend(FUNCTIONS.map(|name| function(name, 5)));
    found
}

/// A function as it is offered.
pub fn function(name: &str, rank: u8) -> Item {
    let (text, detail) = match name {
        "place" => ("place(\"${1}\")", "puts a point on the page"),
        "filled" => ("filled(\"${1}\")", "is anything there that would show?"),
        "enabled" => ("enabled(\"feature:${1}\")", "is a feature switched on?"),
        "asset" => ("asset(\"${1:media/}\")", "the address of a file"),
        "note" => ("note(${1})", "writes into the trace"),
        "through" => ("through(\"filter:${1}\", ${2:value})", "sends a value through a filter"),
        "t" => ("t(\"${1}\")", "the message in the site's language"),
        "html" => ("html`${1}`", "markup; what is put into it is escaped"),
        _ => return Item::new(name, Shape::FUNCTION, rank),
    };
    Item::new(name, Shape::FUNCTION, rank).snippet(text).detail(detail)
}

/// What can be read behind a dot.
fn fields(typing: &Typing<'_>, path: &[String]) -> Vec<Item> {
    let registry = typing.registry();
    let known = condition::keys(registry, path);
    if !known.is_empty() {
        return known;
    }
    let [root, rest @ ..] = path else { return Vec::new() };
    let own = inputs(registry, typing.file).into_iter().find(|(_, field)| field.name == *root.as_str());
    let Some((_, field)) = own else { return Vec::new() };
    in_schema(&field.schema, rest)
}

/// The properties of what a schema describes.
pub fn in_schema(schema: &serde_json::Value, path: &[String]) -> Vec<Item> {
    let inner = path.iter().try_fold(schema, |schema, key| schema.get("properties")?.get(key));
    let properties = inner.and_then(|schema| schema.get("properties")?.as_object());
    let items = properties.into_iter().flatten().map(|(key, schema)| {
        let word = schema.get("type").and_then(|word| word.as_str()).unwrap_or_default();
        Item::new(key, Shape::FIELD, 0).detail(word)
    });
    items.collect()
}
