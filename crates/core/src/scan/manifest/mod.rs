//! What a manifest says: who the layer is, what it declares and attaches.

mod declaration;
mod identity;
mod schema;

pub use schema::{FORMATS, SCHEMA_WORDS, TYPE_WORDS};

use declaration::{check_name, declaration, fields};
use identity::{IDENTITY_TABLES, identity};

use super::condition;
use super::toml::{Node, Table, parse, wrong};
use super::*;
use crate::address::Kind;
use crate::keys;
use crate::name::Name;
use crate::names;
use crate::source::LayerRole;

pub(super) fn scan(text: &str, first: bool) -> Facts {
    let mut notes = Notes::default();
    let (table, broken) = parse(text, &mut notes);
    let root = Table::new(&table, "the manifest");
    if let (true, Some(loose)) = (first && !broken, loose_identity(&root, &mut notes)) {
        let message =
            format!("`{}` stands outside of a table: [theme], [companion] or [host] is missing above it", loose.name);
        notes.flaw(FlawKind::ManifestSyntax, loose.at, message, "what the layer is has to be said first");
        return notes.facts(Shape::broken(FileKind::Manifest));
    }
    let mut shape = ManifestShape { broken, ..Default::default() };
    let mut known: Vec<&str> = Kind::ALL.map(Kind::word).to_vec();
    known.extend(["type", "attach", "detach", "replace", "adopted", "check"]);
    if first {
        known.extend(IDENTITY_TABLES.map(LayerRole::word));
        known.push("limits");
        shape.identity = identity(&root, &mut notes);
    }
    root.known(&known, &mut notes);
    // Tables in the order in which they stand, so that spans come out in order too.
    for (key, _, node) in root.entries() {
        let Some(kind) = Kind::from_word(key) else { continue };
        let Some(points) = Table::from(node, format!("[{kind}]"), &mut notes) else { continue };
        for (point, span, node) in points.entries() {
            let at = notes.at(span.start, span.end);
            shape.declarations.extend(declaration(kind, point, at, node, &mut notes));
        }
    }
    for node in root.array("attach", &mut notes) {
        shape.attachments.extend(attachment(node, &mut notes));
    }
    for node in root.array("detach", &mut notes) {
        shape.detachments.extend(detachment(node, &mut notes));
    }
    for node in root.array("replace", &mut notes) {
        shape.replacements.extend(replacement(node, &mut notes));
    }
    if let Some(types) = root.table("type", &mut notes) {
        for (word, span, node) in types.entries() {
            let at = notes.at(span.start, span.end);
            shape.types.extend(page_type(word, at, node, &mut notes));
        }
    }
    if let Some(table) = root.table("adopted", &mut notes) {
        for (word, span, node) in table.entries() {
            let at = notes.at(span.start, span.end);
            shape.adopted.extend(adopted(Named { name: name(word), at }, node, &mut notes));
        }
    }
    shape.limits = root.table("limits", &mut notes).map(|table| limits(&table, &mut notes));
    if let Some(table) = root.table("check", &mut notes) {
        shape.check = check(&table, &mut notes);
    }
    notes.only_syntax(broken);
    notes.facts(Shape::Manifest(Box::new(shape)))
}

/// What a manifest says of its layer, where the table that it belongs into is missing.
fn loose_identity(root: &Table<'_>, notes: &mut Notes) -> Option<Named> {
    let says_who = |word: &str| word != LayerRole::Host.word() || root.get("name").is_none();
    if IDENTITY_TABLES.map(LayerRole::word).iter().any(|word| root.get(word).is_some() && says_who(word)) {
        return None;
    }
    let of_identity = ["name", "label", "about", "version", "base", "companions", "open", "picture"];
    let (key, span, _) = root.entries().find(|(key, ..)| of_identity.contains(key))?;
    Some(Named { name: name(key), at: notes.at(span.start, span.end) })
}

fn call(text: &str, at: At, notes: &mut Notes) -> Option<CallRef> {
    let call = CallRef::parse(text, at);
    if call.is_none() {
        let message = format!("`{text}` does not name a callback");
        notes.flaw(
            FlawKind::ManifestSyntax,
            at,
            message,
            "write the module and the function, as in \"tides.js#table\"",
        );
    }
    call
}

fn attachment(node: &Node<'_>, notes: &mut Notes) -> Option<Attachment> {
    let table = Table::from(node, "[[attach]]", notes)?;
    let at = notes.at(node.span().start, node.span().end);
    table.known(&keys::names(&keys::ATTACH), notes);
    table.needs("to", at, notes);
    let to = table.text("to", notes).map(|(text, at)| PointRef::new(text, at));
    let calls = table.text("call", notes).and_then(|(text, at)| call(text, at, notes));
    let uses = table.text("use", notes).map(|(text, at)| Attached::Use(PointRef::new(text, at)));
    if calls.is_some() == uses.is_some() && table.get("call").is_some() == table.get("use").is_some() {
        let message = "[[attach]] needs either `call`, a callback, or `use`, a partial";
        notes.flaw(FlawKind::ManifestSyntax, at, message, "one of the two belongs here");
    }
    let what = calls.map(Attached::Call).or(uses);
    let (when, when_broken) = condition::read(&table, notes);
    let priority = priority(&table, notes);
    let before = table.strings("before", notes);
    let after = table.strings("after", notes);
    let sealed = table.boolean("sealed", notes).unwrap_or(false);
    Some(Attachment { at, to: to?, what: what?, priority, before, after, when, when_broken, sealed })
}

fn detachment(node: &Node<'_>, notes: &mut Notes) -> Option<Detachment> {
    let table = Table::from(node, "[[detach]]", notes)?;
    let at = notes.at(node.span().start, node.span().end);
    table.known(&keys::names(&keys::DETACH), notes);
    table.needs("from", at, notes);
    let from = table.text("from", notes).map(|(text, at)| PointRef::new(text, at));
    let calls = table.text("call", notes).and_then(|(text, at)| call(text, at, notes));
    let calls = calls.map(|call| Named { name: call.raw, at: call.at });
    if table.get("call").is_some() == table.get("use").is_some() {
        let message = "[[detach]] needs either `call`, a callback, or `use`, a partial";
        notes.flaw(FlawKind::ManifestSyntax, at, message, "one of the two belongs here");
    }
    let what = calls.or_else(|| table.string("use", notes));
    Some(Detachment { at, from: from?, what: what? })
}

fn replacement(node: &Node<'_>, notes: &mut Notes) -> Option<Replacement> {
    let table = Table::from(node, "[[replace]]", notes)?;
    let at = notes.at(node.span().start, node.span().end);
    table.known(&keys::names(&keys::REPLACE), notes);
    table.needs("call", at, notes);
    table.needs("with", at, notes);
    let within = table.text("in", notes).map(|(text, at)| PointRef::new(text, at));
    let old = table.text("call", notes).and_then(|(text, at)| call(text, at, notes));
    let with = table.text("with", notes).and_then(|(text, at)| call(text, at, notes));
    let old = old.map(|old| Named { name: old.raw, at: old.at });
    Some(Replacement { at, within, call: old?, with: with? })
}

fn adopted(template: Named, node: &Node<'_>, notes: &mut Notes) -> Option<Adopted> {
    let table = Table::from(node, format!("`{}` in [adopted]", template.name), notes)?;
    table.known(&keys::names(&keys::ADOPTED), notes);
    table.needs("from", template.at, notes);
    table.needs("print", template.at, notes);
    Some(Adopted { template, from: table.string("from", notes)?, print: table.string("print", notes)? })
}

fn priority(table: &Table<'_>, notes: &mut Notes) -> u8 {
    match table.integer("priority", notes) {
        None => 50,
        Some((number @ 0..=100, _)) => number as u8,
        Some((number, at)) => {
            let message = format!("the priority {number} is not between 0 and 100");
            notes.flaw(FlawKind::PriorityRange, at, message, "0 runs first, 100 last, 50 where none is given");
            number.clamp(0, 100) as u8
        }
    }
}

fn page_type(word: &str, at: At, node: &Node<'_>, notes: &mut Notes) -> Option<PageType> {
    check_name(word, at, names::is_kebab(word), names::KEBAB, notes);
    let table = Table::from(node, format!("[type.{word}]"), notes)?;
    table.known(&keys::names(&keys::PAGE_TYPE), notes);
    let keys = fields(&table, "page", notes);
    Some(PageType { name: Named { name: name(word), at }, keys })
}

fn limits(table: &Table<'_>, notes: &mut Notes) -> Limits {
    let standard = Limits::default();
    table.known(&keys::names(&keys::LIMITS), notes);
    let mut number = |key: &str, standard: u64| match table.integer(key, notes) {
        Some((number @ 1.., _)) => number as u64,
        Some((number, at)) => {
            let message = format!("the limit {number} allows nothing");
            notes.flaw(FlawKind::ManifestSyntax, at, message, "a number above 0 belongs here");
            standard
        }
        None => standard,
    };
    Limits {
        nesting: number("nesting", standard.nesting),
        callback_milliseconds: number("callback-milliseconds", standard.callback_milliseconds),
        callback_mebibytes: number("callback-mebibytes", standard.callback_mebibytes),
        page_milliseconds: number("page-milliseconds", standard.page_milliseconds),
        holes: number("holes", standard.holes),
        template_steps: number("template-steps", standard.template_steps),
        scripts_in_texts: table.boolean("scripts-in-texts", notes).unwrap_or(standard.scripts_in_texts),
    }
}

fn check(table: &Table<'_>, notes: &mut Notes) -> CheckSettings {
    table.known(&keys::names(&keys::CHECK), notes);
    let fail_on = level(table.string("fail-on", notes), &["error", "warning", "note"], notes);
    let mut rules = Vec::new();
    if let Some(levels) = table.table("rules", notes) {
        for (word, span, node) in levels.entries() {
            let at = notes.at(span.start, span.end);
            let Some(text) = node.get_ref().as_str() else {
                wrong(node, &format!("`{word}`"), "a level", notes);
                continue;
            };
            let place = notes.at(node.span().start, node.span().end);
            let to = Named { name: name(text), at: place };
            if level(Some(to), &["error", "warning", "note", "off"], notes).is_some() {
                rules.push((Named { name: name(word), at }, to));
            }
        }
    }
    let ignores = table.array("ignore", notes).into_iter().filter_map(|node| ignore(node, notes)).collect();
    CheckSettings { fail_on, rules, ignores }
}

fn ignore(node: &Node<'_>, notes: &mut Notes) -> Option<CheckIgnore> {
    let table = Table::from(node, "[[check.ignore]]", notes)?;
    let at = notes.at(node.span().start, node.span().end);
    table.known(&keys::names(&keys::IGNORE), notes);
    table.needs("rule", at, notes);
    let point = table.text("point", notes).map(|(text, at)| PointRef::new(text, at));
    let because = table.string("because", notes).filter(|because| !because.name.trim().is_empty());
    Some(CheckIgnore { rule: table.string("rule", notes)?, point, file: table.string("file", notes), because })
}

fn level(named: Option<Named>, known: &[&str], notes: &mut Notes) -> Option<Name> {
    let named = named?;
    if known.contains(&named.name.as_str()) {
        return Some(named.name);
    }
    let message = format!("`{}` is not a level", named.name);
    notes.flaw(FlawKind::ManifestSyntax, named.at, message, format!("one of {}", known.join(", ")));
    None
}
