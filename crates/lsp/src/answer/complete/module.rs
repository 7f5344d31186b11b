//! In modules: what callbacks are given, what they can call, and stubs of those that are attached and not written.

use lsp_types::CompletionItemKind as Shape;
use truehook_core::address::{Address, Role};
use truehook_core::edit::{Plan, module};
use truehook_core::link::{CONTEXT, Callback, Registry, Renderer, Runs};
use truehook_core::read::FileKind;
use truehook_core::scan::BUILT_IN;

use super::template::{function, in_schema, of_call};
use super::{Found, Item, Typing, condition, items, names};
use crate::answer::words::runs_at;
use crate::cursor::expression::{After, Language, Typed, typed};

/// What could be typed in a module.
pub fn complete(typing: &Typing<'_>) -> Option<Found> {
    let found = typed(typing.text, 0, typing.offset, Language::Module);
    if let Some((_, whole)) = found.string {
        let items = texts(typing, &found);
        return (!items.is_empty()).then_some(Found { items, span: whole });
    }
    if let Some(values) = compared(typing, &found) {
        return Some(values);
    }
    let function_at = function_around(typing.text, typing.offset);
    let items = match (&function_at, found.path.as_slice()) {
        (Some(around), path) if !path.is_empty() => properties(typing, around, path),
        (_, path) if !path.is_empty() => Vec::new(),
        (Some(around), _) if around.in_params => taken(typing, around),
        _ => plain(typing, &found, function_at.is_none()),
    };
    (!items.is_empty()).then_some(Found { items, span: found.word })
}

/// Texts in quotes.
fn texts(typing: &Typing<'_>, found: &Typed) -> Vec<Item> {
    let registry = typing.registry();
    if let Some(values) = compared(typing, found) {
        return values.items;
    }
    if matches!(&found.after, After::Word(word) if word == "from" || word == "import") {
        return modules(typing);
    }
    if let Some((key, beside)) = &found.braces {
        let component = beside.get("use").and_then(|written| registry.item_component(written, None));
        return match (key.as_deref(), component) {
            (Some("use"), _) => items::components(registry, None),
            (Some(input), Some(component)) => items::values(registry, component, input),
            _ => Vec::new(),
        };
    }
    match &found.call {
        Some(call) if call.index == 0 => of_call(typing, &call.name),
        _ => Vec::new(),
    }
}

/// What `options.x` and `page.type` are compared with, whatever the context is called.
fn compared(typing: &Typing<'_>, found: &Typed) -> Option<Found> {
    let After::Compared(path) = &found.after else { return None };
    let known = |name: &&String| ["page", "options", "site"].contains(&name.as_str());
    let from = path.iter().position(|name| known(&name))?;
    let after = After::Compared(path[from..].to_vec());
    condition::compared(typing.registry(), &Typed { after, ..found.clone() })
}

/// Modules that can be imported from here.
fn modules(typing: &Typing<'_>) -> Vec<Item> {
    let registry = typing.registry();
    let own = registry.project().file(typing.file);
    let folder = own.path.parent().map(|folder| folder.to_string()).unwrap_or_default();
    let files = registry.project().files_of(own.layer);
    let others = files.filter(|(file, source)| source.kind == FileKind::Module && *file != typing.file);
    let mut found = vec![Item::new("truehook", Shape::MODULE, 0).detail("html, place, through and the rest")];
    found.extend(others.map(|(_, source)| {
        let path = names::relative(&folder, source.path.as_str());
        let path = if path.starts_with("..") { path } else { format!("./{path}") };
        Item::new(path, Shape::FILE, 1)
    }));
    found
}

/// Names by themselves.
fn plain(typing: &Typing<'_>, found: &Typed, outside: bool) -> Vec<Item> {
    let registry = typing.registry();
    if let Some((None, beside)) = &found.braces
        && let Some(component) = beside.get("use").and_then(|written| registry.item_component(written, None))
    {
        let given: Vec<String> = beside.keys().cloned().collect();
        return items::fields(registry, component, &given, |field| format!("{}: ", field.name));
    }
    let line = typing.text[..found.word.start as usize].rsplit('\n').next().unwrap_or_default();
    if outside && line.trim().is_empty() {
        return stubs(typing);
    }
    if line.trim_start().starts_with("import") && found.braces.is_some() {
        return BUILT_IN.map(|name| Item::new(name, Shape::FUNCTION, 0)).to_vec();
    }
    BUILT_IN.iter().map(|name| function(name, 3)).collect()
}

/// Callbacks that are attached, or render something, and that this module does not have yet.
fn stubs(typing: &Typing<'_>) -> Vec<Item> {
    let registry = typing.registry();
    let source = registry.project().file(typing.file);
    if source.layer != registry.project().top() {
        return Vec::new();
    }
    let mut found = Vec::new();
    for point in registry.points() {
        for slot in point.slots.iter() {
            let Runs::Callback(call, None) = slot.runs else { continue };
            if call.file != *source.name() || slot.layer != registry.project().top() {
                continue;
            }
            let mut plan = Plan::default();
            if module::add_stub(registry, point.address, &call, &mut plan).is_ok()
                && let Some(edit) = plan.edits.last()
            {
                let text = edit.new.trim().to_string();
                let label = format!("export function {}", call.export);
                found.push(
                    Item::new(label, Shape::SNIPPET, 0).insert(text).detail(format!("attached to {}", point.address)),
                );
            }
        }
    }
    found
}

/// The exported function that a place is in.
struct Around {
    /// Its name.
    name: String,
    /// The text between its brackets.
    params: String,
    /// Is the place between them?
    in_params: bool,
    /// Which parameter that is.
    param: usize,
}

fn function_around(text: &str, offset: usize) -> Option<Around> {
    let before = &text[..offset];
    let at = before.rfind("export function ").or_else(|| before.rfind("export async function "))?;
    let rest = text[at..].trim_start_matches("export ").trim_start_matches("async ").trim_start_matches("function ");
    let open = rest.find('(')?;
    let name = rest[..open].trim().to_string();
    let begin = text.len() - rest.len() + open + 1;
    let mut depth = 0i32;
    let mut end = text.len();
    for (at, letter) in text[begin..].char_indices() {
        match letter {
            '(' | '{' | '[' => depth += 1,
            ')' if depth == 0 => {
                end = begin + at;
                break;
            }
            ')' | '}' | ']' => depth -= 1,
            _ => {}
        }
    }
    // The function is over where a bracket closes at a line's beginning.
    if end < offset && text[end..offset].contains("\n}") {
        return None;
    }
    let in_params = (begin..=end).contains(&offset);
    let upto = &text[begin..offset.min(end).max(begin)];
    let mut depth = 0i32;
    let param = upto.chars().filter(|letter| {
        match letter {
            '(' | '{' | '[' => depth += 1,
            ')' | '}' | ']' => depth -= 1,
            _ => {}
        }
        *letter == ',' && depth == 0
    });
    Some(Around { name, param: param.count(), params: text[begin..end].to_string(), in_params })
}

/// What a parameter of a callback is, at the points where it runs.
enum Given {
    Context(Vec<Address>),
    Inputs(Vec<Address>),
    Other,
}

fn given(typing: &Typing<'_>, name: &str, param: usize) -> Given {
    let registry = typing.registry();
    let export = name.into();
    let callback = Callback { file: typing.file, export };
    let runs: Vec<(Address, Option<Role>)> =
        runs_at(registry, callback).map(|(point, ..)| (point.address, point.address.kind.role())).collect();
    let renders: Vec<Address> = registry
        .points()
        .filter(|point| matches!(point.renderer, Some(Renderer::Callback(known)) if known == callback))
        .map(|point| point.address)
        .collect();
    let points: Vec<Address> = runs.iter().map(|(point, _)| *point).chain(renders.iter().copied()).collect();
    let listener = runs.iter().any(|(_, role)| *role == Some(Role::Listener));
    let inputs = !renders.is_empty() || runs.iter().any(|(_, role)| *role == Some(Role::Preparer));
    match param {
        0 if listener => Given::Context(points),
        0 if inputs => Given::Inputs(points),
        1 if !runs.is_empty() || !renders.is_empty() => Given::Context(points),
        // What is not attached yet is most likely to be given its context last.
        0 if runs.is_empty() && renders.is_empty() => Given::Context(points),
        1 => Given::Context(points),
        _ => Given::Other,
    }
}

/// Names to be taken out of a parameter.
fn taken(typing: &Typing<'_>, around: &Around) -> Vec<Item> {
    match given(typing, &around.name, around.param) {
        Given::Context(points) => context(typing.registry(), &points),
        Given::Inputs(points) => inputs(typing.registry(), &points),
        Given::Other => Vec::new(),
    }
}

fn context(registry: &Registry, points: &[Address]) -> Vec<Item> {
    let listed = |word: &&&str| **word != "args" || points.iter().any(|point| !args(registry, *point).is_empty());
    let words: Vec<&str> = CONTEXT.iter().filter(listed).copied().collect();
    condition::roots(&words)
}

fn inputs(registry: &Registry, points: &[Address]) -> Vec<Item> {
    points.iter().flat_map(|point| items::fields(registry, *point, &[], |field| field.name.to_string())).collect()
}

fn args(registry: &Registry, point: Address) -> Vec<Item> {
    let Some(said) = registry.point(point).filter(|point| !point.address.kind.is_component()) else {
        return Vec::new();
    };
    let items = said.args.iter().map(|input| {
        Item::new(input.field.name.as_str(), Shape::FIELD, 0).detail(input.field.type_word().unwrap_or("anything"))
    });
    items.collect()
}

/// Properties of what a callback is given.
fn properties(typing: &Typing<'_>, around: &Around, path: &[String]) -> Vec<Item> {
    let registry = typing.registry();
    let params: Vec<&str> = split(&around.params);
    let root = path[0].as_str();
    for (at, param) in params.iter().enumerate() {
        let param = param.trim();
        let names = param.strip_prefix('{').map(|inner| inner.trim_end_matches('}').split(',').map(str::trim));
        let taken_out = names.is_some_and(|mut names| names.any(|name| name.split([':', '=']).next() == Some(root)));
        let whole = param.split('=').next().map(str::trim) == Some(root);
        if !taken_out && !whole {
            continue;
        }
        let rest = if whole { &path[1..] } else { path };
        return match (given(typing, &around.name, at), rest) {
            (Given::Context(points), []) => context(registry, &points),
            (Given::Context(points), [args_word, inner @ ..]) if args_word == "args" => match inner {
                [] => points.iter().flat_map(|point| args(registry, *point)).collect(),
                [name, deeper @ ..] => points
                    .iter()
                    .filter_map(|point| {
                        registry.point(*point)?.args.iter().find(|input| input.field.name == *name.as_str())
                    })
                    .flat_map(|input| in_schema(&input.field.schema, deeper))
                    .collect(),
            },
            (Given::Context(_), rest) => condition::keys(registry, rest),
            (Given::Inputs(points), []) => inputs(registry, &points),
            (Given::Inputs(points), [name, deeper @ ..]) => points
                .iter()
                .filter_map(|point| {
                    registry.point(*point)?.inputs.iter().find(|input| input.field.name == *name.as_str())
                })
                .flat_map(|input| in_schema(&input.field.schema, deeper))
                .collect(),
            (Given::Other, _) => Vec::new(),
        };
    }
    Vec::new()
}

/// Parameters, split at commas that are in no bracket.
fn split(params: &str) -> Vec<&str> {
    let mut found = Vec::new();
    let (mut depth, mut start) = (0i32, 0);
    for (at, letter) in params.char_indices() {
        match letter {
            '(' | '{' | '[' => depth += 1,
            ')' | '}' | ']' => depth -= 1,
            ',' if depth == 0 => {
                found.push(&params[start..at]);
                start = at + 1;
            }
            _ => {}
        }
    }
    found.push(&params[start..]);
    found
}
