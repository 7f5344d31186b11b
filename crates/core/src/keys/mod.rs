//! The keys of declarations, kind by kind: what each holds, what it is where it isn't given, and how it is written.

mod tables;

use crate::address::Kind;

pub use tables::*;

/// A key of a declaration.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct KeyShape {
    /// Its name.
    pub name: &'static str,
    /// What it holds, in words.
    pub holds: &'static str,
    /// What it is where it isn't given.
    pub default: &'static str,
    /// How it is written.
    pub example: &'static str,
}

const fn shape(name: &'static str, holds: &'static str, default: &'static str, example: &'static str) -> KeyShape {
    KeyShape { name, holds, default, example }
}

const LABEL: KeyShape = shape("label", "text", "–", "label = \"What people call it\"");
const ABOUT: KeyShape = shape("about", "text", "–", "about = \"What it is, in one sentence\"");
/// What every declaration takes beside those.
const FURTHER: [KeyShape; 6] = [
    shape("since", "version", "–", "since = \"1.2.0\""),
    shape("retired", "version", "–", "retired = \"2.0.0\""),
    shape("instead", "address", "–", "instead = \"region:aside\""),
    shape("reserved", "true or false", "false", "reserved = true"),
    shape("dropped", "true or false", "false", "dropped = true"),
    shape("extend", "true or false", "false", "extend = true"),
];
const ARGS: KeyShape = shape("args", "table of schemas", "none", "args = { tide = { type = \"object\" } }");
const INPUTS: KeyShape =
    shape("inputs", "table of schemas", "none", "inputs.text = { type = \"string\", default = \"\" }");
const RENDER: KeyShape = shape("render", "callback", "its template", "render = \"tides.js#table\"");
const NEEDS: KeyShape = shape("needs", "list of addresses", "none", "needs = [\"style:tide\"]");
const WRAP: KeyShape = shape("wrap", "markup", "none", "wrap = '<section class=\"wide\">{{ body }}</section>'");
const HOLDS: KeyShape = shape("holds", "list of addresses", "nothing", "holds = [\"piece:*\"]");
const OFFER: KeyShape =
    shape("offer", "list of label and item", "none", "offer = [{ label = \"A note\", item = { text = \"…\" } }]");
const FILE: KeyShape = shape("file", "path below media/", "–", "file = \"tide.css\"");
const WHEN: KeyShape = shape("when", "condition", "always", "when = \"page.type == 'front'\"");
const PRIORITY: KeyShape = shape("priority", "number from 0 to 100", "50", "priority = 20");
const REQUIRED: KeyShape = shape("required", "true or false", "false", "required = true");

const HOOK: [KeyShape; 5] = [
    ARGS,
    REQUIRED,
    shape("moment", "true or false", "false", "moment = true"),
    shape("inside", "\"head\" or \"body\"", "anywhere", "inside = \"head\""),
    shape("last", "true or false", "false", "last = true"),
];
const FILTER: [KeyShape; 2] = [ARGS, shape("value", "schema", "anything", "value = { type = \"string\" }")];
const REGION: [KeyShape; 1] = [REQUIRED];
const AREA: [KeyShape; 2] = [
    shape("wrap", "markup", "none", "wrap = '<div class=\"note note-{{ kind }}\">{{ title }}{{ body }}</div>'"),
    shape("wrap-title", "markup", "<h3>{{ text }}</h3>", "wrap-title = '<h3 id=\"{{ id }}\">{{ text }}</h3>'"),
];
const MENU: [KeyShape; 1] = [shape("levels", "whole number", "all", "levels = 2")];
const PARTIAL: [KeyShape; 3] = [INPUTS, RENDER, NEEDS];
const SECTION: [KeyShape; 7] = [
    INPUTS,
    RENDER,
    NEEDS,
    WRAP,
    HOLDS,
    OFFER,
    shape("piece", "tables of inner pieces", "none", "piece.caption = { label = \"Caption\" }"),
];
const PIECE: [KeyShape; 6] = [INPUTS, RENDER, NEEDS, WRAP, HOLDS, OFFER];
const STYLE: [KeyShape; 5] = [FILE, NEEDS, shape("media", "media query", "all", "media = \"print\""), WHEN, PRIORITY];
const SCRIPT: [KeyShape; 6] = [
    shape("file", "path below media/", "–", "file = \"tide-dial.js\""),
    shape("needs", "list of addresses", "none", "needs = [\"script:page-loaded\"]"),
    shape("gives", "list of global names", "none", "gives = [\"TideDial\"]"),
    shape("at", "\"head\" or \"end\"", "\"end\"", "at = \"head\""),
    WHEN,
    PRIORITY,
];
const BUNDLE: [KeyShape; 2] =
    [shape("needs", "list of addresses", "none", "needs = [\"style:tide\", \"script:tide-dial\"]"), WHEN];
const TEMPLATE: [KeyShape; 1] = [INPUTS];
const OPTION: [KeyShape; 4] = [
    shape("type", "type of JSON Schema", "anything", "type = \"string\""),
    shape("enum", "list of values", "any", "enum = [\"day\", \"night\"]"),
    shape("default", "value", "–", "default = \"day\""),
    shape("minimum", "number, and other words of JSON Schema", "none", "minimum = 1"),
];

/// The keys that only this kind takes. Those of a feature are the host's to say, and an option takes all words of
/// JSON Schema.
pub fn own_keys(kind: Kind) -> &'static [KeyShape] {
    match kind {
        Kind::Hook => &HOOK,
        Kind::Filter => &FILTER,
        Kind::Region => &REGION,
        Kind::Area => &AREA,
        Kind::Menu => &MENU,
        Kind::Partial => &PARTIAL,
        Kind::Section => &SECTION,
        Kind::Piece => &PIECE,
        Kind::Style => &STYLE,
        Kind::Script => &SCRIPT,
        Kind::Bundle => &BUNDLE,
        Kind::Feature => &[],
        Kind::Template => &TEMPLATE,
        Kind::Option => &OPTION,
    }
}

/// Does every declaration take this key?
pub fn is_common(key: &str) -> bool {
    [LABEL, ABOUT].iter().chain(&FURTHER).any(|shape| shape.name == key)
}

/// All keys of a kind, those that nearly all declarations have first.
pub fn keys_of(kind: Kind) -> impl Iterator<Item = &'static KeyShape> {
    [&LABEL, &ABOUT].into_iter().chain(own_keys(kind)).chain(&FURTHER)
}

/// How a key of a declaration is written, by what messages call its place: `` `wrap` in [area.notes] ``.
pub fn example_of(title: &str) -> Option<&'static str> {
    let (key, table) = title.strip_prefix('`')?.split_once("` in [")?;
    let kind = match table.contains(".piece.") {
        true => Kind::Piece,
        false => Kind::from_word(table.split('.').next()?)?,
    };
    keys_of(kind).find(|shape| shape.name == key).map(|shape| shape.example)
}

/// A declaration to paste, with the keys that people most often want.
pub fn piece_to_paste(kind: Kind) -> String {
    let name = match kind {
        Kind::Option => "tone",
        Kind::Template => "page",
        Kind::Feature => "page-titles",
        _ => "notes",
    };
    let mut text = format!("[{kind}.{name}]\n");
    if kind.is_labelled() {
        text.push_str("label = \"Notes\"\n");
    } else if !matches!(kind, Kind::Template | Kind::Feature) {
        text.push_str("about = \"Notes beside the text\"\n");
    }
    let left_out = [
        "render", "piece", "when", "priority", "media", "needs", "required", "moment", "inside", "last", "minimum",
        "at",
    ];
    let keys = own_keys(kind)
        .iter()
        .filter(|shape| !left_out.contains(&shape.name) || kind == Kind::Bundle && shape.name == "needs");
    for key in keys {
        text.push_str(key.example);
        text.push('\n');
    }
    text
}
