//! The keys of all other tables: who a layer is, what it attaches, how it is checked, what the preview brings.

use super::{ABOUT, KeyShape, LABEL, PRIORITY, WHEN, shape};

const NAME: KeyShape = shape("name", "name in kebab-case", "–", "name = \"saltmarsh\"");
const VERSION: KeyShape = shape("version", "version", "–", "version = \"1.0.0\"");
const VERSIONS: KeyShape = shape("version", "versions", "any", "version = [\"^2\", \"^3\"]");
const PICTURE: KeyShape =
    shape("picture", "path from the theme's folder", "the base's", "picture = \"media/cover.svg\"");
const CONTRACT_OF: KeyShape =
    shape("host", "table of contract and version", "standard", "host = { contract = \"standard\", version = \"1\" }");
const CALL: KeyShape = shape("call", "callback", "–", "call = \"tides.js#table\"");
const USE: KeyShape = shape("use", "address", "–", "use = \"partial:imprint\"");

/// `[theme]`
pub const THEME: [KeyShape; 9] = [
    NAME,
    LABEL,
    ABOUT,
    VERSION,
    PICTURE,
    CONTRACT_OF,
    shape("open", "true or false", "false", "open = true"),
    shape("base", "table of path and version", "none", "base = { path = \"../foreshore\", version = \"^2\" }"),
    shape(
        "companions",
        "list of path and version",
        "none",
        "companions = [{ path = \"../tide-kit\", version = \"^0.4\" }]",
    ),
];
/// `[companion]`
pub const COMPANION: [KeyShape; 6] = [NAME, LABEL, ABOUT, VERSION, PICTURE, CONTRACT_OF];
/// `[host]`
pub const HOST: [KeyShape; 5] = [NAME, LABEL, ABOUT, VERSION, PICTURE];
/// `host = { … }`
pub const CONTRACT: [KeyShape; 2] =
    [shape("contract", "name or path of a contract", "–", "contract = \"standard\""), VERSIONS];
/// `base = { … }`, and each of `companions`.
pub const LAYER: [KeyShape; 2] =
    [shape("path", "path from the theme's folder", "–", "path = \"../foreshore\""), VERSIONS];
/// `[[attach]]`
pub const ATTACH: [KeyShape; 8] = [
    shape("to", "address", "–", "to = \"hook:under-masthead\""),
    CALL,
    USE,
    PRIORITY,
    shape("before", "list of callbacks", "none", "before = [\"masthead.js#welcome\"]"),
    shape("after", "list of callbacks", "none", "after = [\"masthead.js#welcome\"]"),
    WHEN,
    shape("sealed", "true or false", "false", "sealed = true"),
];
/// `[[detach]]`
pub const DETACH: [KeyShape; 3] = [shape("from", "address", "–", "from = \"hook:under-masthead\""), CALL, USE];
/// `[[replace]]`
pub const REPLACE: [KeyShape; 3] = [
    shape("in", "address", "wherever it runs", "in = \"hook:under-masthead\""),
    CALL,
    shape("with", "callback", "–", "with = \"masthead.js#welcome\""),
];
/// A template's entry in `[adopted]`.
pub const ADOPTED: [KeyShape; 2] = [
    shape("from", "name of a layer", "–", "from = \"foreshore\""),
    shape("print", "SHA-256", "–", "print = \"sha256-…\""),
];
/// `[type.NAME]`
pub const PAGE_TYPE: [KeyShape; 3] =
    [LABEL, ABOUT, shape("page", "table of schemas", "none", "page.date = { type = \"string\", format = \"date\" }")];
/// `[limits]`
pub const LIMITS: [KeyShape; 7] = [
    shape("nesting", "whole number above 0", "12", "nesting = 12"),
    shape("callback-milliseconds", "whole number above 0", "250", "callback-milliseconds = 250"),
    shape("callback-mebibytes", "whole number above 0", "64", "callback-mebibytes = 64"),
    shape("page-milliseconds", "whole number above 0", "5000", "page-milliseconds = 5000"),
    shape("holes", "whole number above 0", "100000", "holes = 100000"),
    shape("template-steps", "whole number above 0", "50000000", "template-steps = 50000000"),
    shape("scripts-in-texts", "true or false", "false", "scripts-in-texts = true"),
];
/// `[check]`
pub const CHECK: [KeyShape; 3] = [
    shape("fail-on", "level", "warning", "fail-on = \"error\""),
    shape("rules", "table of levels", "none", "rules = { unused-message = \"off\" }"),
    shape("ignore", "list of findings", "none", "ignore = [{ rule = \"unplaced-point\", because = \"…\" }]"),
];
/// `[[check.ignore]]`
pub const IGNORE: [KeyShape; 4] = [
    shape("rule", "name of a rule", "–", "rule = \"unplaced-point\""),
    shape("point", "address", "any", "point = \"hook:under-masthead\""),
    shape("file", "path from the theme's folder", "any", "file = \"markup/layout.html\""),
    shape("because", "text", "–", "because = \"the next release places it\""),
];
/// `preview/site.toml`
pub const SITE: [KeyShape; 8] = [
    shape("title", "text", "–", "title = \"Reedmark\""),
    shape("motto", "text", "–", "motto = \"Between tides\""),
    shape("language", "language tag", "en", "language = \"en\""),
    shape("now", "date", "today", "now = 2026-03-01T09:00:00Z"),
    shape("options", "table of values", "none", "options.scheme = \"night\""),
    shape("menus", "table of lists of entries", "none", "menus.main = [{ label = \"Home\", href = \"/\" }]"),
    shape("fill", "table of lists of items", "none", "fill.\"region:aside\" = [{ use = \"piece:note\" }]"),
    shape("data", "table", "none", "data.season = \"winter\""),
];
/// Each of `preview/pages/*.toml`.
pub const PAGE: [KeyShape; 7] = [
    shape("path", "path of the page", "–", "path = \"/log/\""),
    shape("type", "type of pages", "–", "type = \"front\""),
    shape("title", "text", "–", "title = \"The log\""),
    shape("body", "file beside it", "none", "body = \"log.md\""),
    shape("sections", "list of items", "none", "sections = [{ use = \"section:spotlight\" }]"),
    shape("data", "table", "none", "data.count = 3"),
    shape("dropped", "true or false", "false", "dropped = true"),
];
/// An entry of a menu.
pub const ENTRY: [KeyShape; 3] = [
    shape("label", "text", "–", "label = \"Home\""),
    shape("href", "where it leads", "none", "href = \"/\""),
    shape("entries", "list of entries", "none", "entries = [{ label = \"The log\", href = \"/log/\" }]"),
];
/// What an item says beside the inputs of its component.
pub const ITEM: [KeyShape; 3] = [
    shape("use", "address", "–", "use = \"piece:note\""),
    shape("holds", "list of items", "none", "holds = [{ use = \"piece:note\" }]"),
    WHEN,
];
/// What site editors can pick of a component: one of `offer`.
pub const OFFERED: [KeyShape; 2] = [LABEL, shape("item", "table of inputs", "none", "item = { text = \"…\" }")];

/// The names of keys.
pub const fn names<const N: usize>(keys: &[KeyShape; N]) -> [&'static str; N] {
    let mut names = [""; N];
    let mut at = 0;
    while at < N {
        names[at] = keys[at].name;
        at += 1;
    }
    names
}
