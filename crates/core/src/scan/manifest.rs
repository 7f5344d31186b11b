//! What a manifest says: who the layer is, what it declares and attaches.

use crate::name::Name;
use semver::{Version, VersionReq};

use super::condition;
use super::toml::{Node, Table, json, parse, wrong};
use super::*;
use crate::address::{Address, Kind};
use crate::names;
use crate::source::LayerRole;

/// Words of JSON Schema (draft 2020-12) that a field may use, and `label` and `about` for people.
const SCHEMA_WORDS: [&str; 29] = [
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
const TYPE_WORDS: [&str; 8] = ["string", "integer", "number", "boolean", "array", "object", "null", "markup"];
const IDENTITY_TABLES: [LayerRole; 3] = [LayerRole::Theme, LayerRole::Companion, LayerRole::Host];

pub(super) fn scan(text: &str, first: bool) -> Facts {
    let mut notes = Notes::default();
    let (table, broken) = parse(text, &mut notes);
    let root = Table::new(&table, "the manifest");
    let mut shape = ManifestShape { broken, ..Default::default() };
    let mut known: Vec<&str> = Kind::ALL.map(Kind::word).to_vec();
    known.extend(["type", "attach", "check"]);
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
            if let Some(declaration) = declaration(kind, point, at, node, &mut notes) {
                shape.declarations.push(declaration);
            }
        }
    }
    for node in root.array("attach", &mut notes) {
        shape.attachments.extend(attachment(node, &mut notes));
    }
    if let Some(types) = root.table("type", &mut notes) {
        for (word, span, node) in types.entries() {
            let at = notes.at(span.start, span.end);
            shape.types.extend(page_type(word, at, node, &mut notes));
        }
    }
    shape.limits = root.table("limits", &mut notes).map(|table| limits(&table, &mut notes));
    if let Some(table) = root.table("check", &mut notes) {
        shape.check = check(&table, &mut notes);
    }
    notes.only_syntax(broken);
    notes.facts(Shape::Manifest(Box::new(shape)))
}

fn identity(root: &Table<'_>, notes: &mut Notes) -> Option<Identity> {
    let role = IDENTITY_TABLES.into_iter().find(|role| root.get(role.word()).is_some());
    let Some(role) = role else {
        let at = notes.at(0, 0);
        let message = "the manifest does not say who the theme is";
        notes.flaw(FlawKind::ManifestSyntax, at, message, "open it with a [theme] table");
        return None;
    };
    let span = root.get(role.word())?.span();
    let at = notes.at(span.start, span.end);
    let table = root.table(role.word(), notes)?;
    let mut known = vec!["name", "label", "about", "version", "picture"];
    match role {
        LayerRole::Theme => known.extend(["host", "open", "base", "companions"]),
        LayerRole::Companion => known.push("host"),
        LayerRole::Host => {}
    }
    table.known(&known, notes);
    table.needs("name", at, notes);
    let name = table.string("name", notes);
    if let Some(Named { name, at }) = name {
        check_name(&name, at, names::is_kebab(&name), names::KEBAB, notes);
        if names::RESERVED_LAYERS.contains(&name.as_str()) {
            let message = format!("`{name}` can't be the name of a layer: it has a meaning of its own");
            notes.flaw(FlawKind::BadName, at, message, "choose another name");
        }
    }
    Some(Identity {
        role,
        at,
        name,
        label: table.string("label", notes).map(|label| label.name),
        about: table.string("about", notes).map(|about| about.name),
        version: version(&table, notes),
        picture: table.string("picture", notes),
        open: table.boolean("open", notes).unwrap_or(false),
        host: table.table("host", notes).and_then(|table| request(&table, "contract", notes)),
        base: table.table("base", notes).and_then(|table| request(&table, "path", notes)),
        companions: companions(&table, notes),
    })
}

fn companions(table: &Table<'_>, notes: &mut Notes) -> Vec<LayerRequest> {
    let nodes = table.array("companions", notes);
    let tables: Vec<_> =
        nodes.into_iter().filter_map(|node| Table::from(node, "each of `companions`", notes)).collect();
    tables.iter().filter_map(|table| request(table, "path", notes)).collect()
}

fn version(table: &Table<'_>, notes: &mut Notes) -> Option<Version> {
    let (text, at) = table.text("version", notes)?;
    let version = Version::parse(text).ok();
    if version.is_none() {
        let message = format!("`{text}` is not a semantic version");
        notes.flaw(FlawKind::ManifestSyntax, at, message, "three numbers belong here, as in \"1.3.0\"");
    }
    version
}

fn request(table: &Table<'_>, key: &str, notes: &mut Notes) -> Option<LayerRequest> {
    table.known(&[key, "version"], notes);
    let target = table.string(key, notes)?;
    let versions = table.text("version", notes).and_then(|(text, at)| {
        let versions = VersionReq::parse(text).ok();
        if versions.is_none() {
            let message = format!("`{text}` does not say which versions are wanted");
            notes.flaw(FlawKind::ManifestSyntax, at, message, "as in \"^2\" or \">=1.2, <3\"");
        }
        versions
    });
    Some(LayerRequest { target: target.name, at: target.at, versions })
}

fn declaration(kind: Kind, point: &str, at: At, node: &Node<'_>, notes: &mut Notes) -> Option<Declaration> {
    check_name(point, at, names::is_kebab(point), names::KEBAB, notes);
    let table = Table::from(node, format!("[{kind}.{point}]"), notes)?;
    let mut known = vec!["label", "about"];
    match kind {
        Kind::Hook => known.extend(["args", "required"]),
        Kind::Filter => known.extend(["args", "value"]),
        Kind::Region => known.push("required"),
        Kind::Partial => known.extend(["inputs", "render"]),
        Kind::Template => known.push("inputs"),
    }
    table.known(&known, notes);
    let span = node.span();
    // A table that was never opened by a header of its own has its key for a place.
    let at = if span.len() > point.len() { notes.at(span.start, span.end) } else { at };
    Some(Declaration {
        address: Address::new(kind, point),
        at,
        label: table.string("label", notes).map(|label| label.name),
        about: table.string("about", notes).map(|about| about.name),
        required: table.boolean("required", notes),
        inputs: fields(&table, "inputs", notes),
        args: fields(&table, "args", notes),
        value: table.get("value").map(|node| {
            schema(node, "`value`", notes);
            json(node.get_ref())
        }),
        render: table.text("render", notes).and_then(|(text, at)| call(text, at, notes)),
    })
}

fn check_name(name: &str, at: At, good: bool, how: &str, notes: &mut Notes) {
    if !good {
        notes.flaw(FlawKind::BadName, at, format!("`{name}` is not a name"), how);
    }
}

fn fields(table: &Table<'_>, key: &str, notes: &mut Notes) -> Vec<Field> {
    let Some(table) = table.table(key, notes) else { return Vec::new() };
    let mut fields = Vec::new();
    for (word, span, node) in table.entries() {
        let at = notes.at(span.start, span.end);
        check_name(word, at, names::is_snake(word), names::SNAKE, notes);
        if key == "inputs" && (names::RESERVED_INPUTS.contains(&word) || names::GLOBALS.contains(&word)) {
            let message = format!("`{word}` can't be the name of an input: it has a meaning of its own");
            notes.flaw(FlawKind::BadName, at, message, "choose another name");
        }
        schema(node, &format!("`{word}`"), notes);
        fields.push(Field { name: name(word), at, schema: json(node.get_ref()) });
    }
    fields
}

/// Notes what in a schema is no word of JSON Schema.
fn schema(node: &Node<'_>, title: &str, notes: &mut Notes) {
    let Some(table) = Table::from(node, title, notes) else { return };
    table.known(&SCHEMA_WORDS, notes);
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
    table.known(&["to", "call", "use", "priority", "before", "after", "when"], notes);
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
    Some(Attachment { at, to: to?, what: what?, priority, before, after, when, when_broken })
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
    table.known(&["label", "about", "page"], notes);
    let keys = fields(&table, "page", notes);
    Some(PageType { name: Named { name: name(word), at }, keys })
}

fn limits(table: &Table<'_>, notes: &mut Notes) -> Limits {
    let standard = Limits::default();
    table.known(
        &["nesting", "callback-milliseconds", "callback-mebibytes", "page-milliseconds", "holes", "template-steps"],
        notes,
    );
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
    }
}

fn check(table: &Table<'_>, notes: &mut Notes) -> CheckSettings {
    table.known(&["fail-on", "rules"], notes);
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
    CheckSettings { fail_on, rules }
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
