//! What words of the product mean: rules with their examples, kinds of points, roles of callbacks, keys of
//! the manifest and of the preview. `explain` and the catalogue of rules are made from it.

use std::fmt::Write;

use crate::address::{Kind, Role};
use crate::rules::{ALL, Rule};

/// A key of a manifest or of the preview.
#[derive(Clone, Copy, Debug)]
pub struct Key {
    /// The key, with the tables that it stands in.
    pub name: &'static str,
    /// Where it stands.
    pub of: &'static str,
    /// What it says.
    pub about: &'static str,
}

const fn key(name: &'static str, of: &'static str, about: &'static str) -> Key {
    Key { name, of, about }
}

/// Where the words of JSON Schema, draft 2020-12, stand.
const SCHEMA: &str = "inputs, args, value, options and what features take (JSON Schema)";

/// All keys that `explain` knows.
pub const KEYS: &[Key] = &[
    key("theme", "truehook.toml", "The table that makes a folder a theme: its name, label, version, base and host."),
    key("companion", "truehook.toml", "The table that makes a folder a companion, an add-on beside themes."),
    key(
        "attach",
        "truehook.toml, points/*.toml",
        "Ties a callback, or a partial, to a point: `to`, and `call` or `use`.",
    ),
    key(
        "detach",
        "truehook.toml, points/*.toml",
        "Takes an attachment of a layer below away: `from`, and `call` or `use`.",
    ),
    key(
        "replace",
        "truehook.toml, points/*.toml",
        "Puts a callback in the place of one of a layer below: `call` and `with`.",
    ),
    key("adopted", "truehook.toml", "Templates taken over from a layer below, with what the original was then."),
    key("check", "truehook.toml", "How strict `check` is: the level at which it fails, the rules' levels, ignores."),
    key("name", "[theme], [companion], [host]", "The layer's name, in kebab-case; equals the folder's name."),
    key("label", "every declaration, and [theme]", "What people call it; site editors read it."),
    key("about", "every declaration, and [theme]", "What it is, in one sentence."),
    key("version", "[theme], [companion], [host]", "A semantic version, as in \"1.3.0\"."),
    key("picture", "[theme]", "A picture of the theme, from its folder; inherited from the base where there is none."),
    key(
        "host",
        "[theme], [companion]",
        "The contract of the program that runs the theme: a name or a path, and the versions it works with.",
    ),
    key("open", "[theme]", "True for a theme that others build on: nothing is said of what only those will use."),
    key("base", "[theme]", "The theme that this one builds on: a path, and the versions it works with."),
    key("companions", "[theme]", "Add-ons beside the theme: a list of paths and versions."),
    key(
        "contract",
        "host = { … }",
        "The contract that the theme works with: \"standard\", or a path to the folder of another.",
    ),
    key("path", "base, companions", "Where the layer lies, from this theme's folder."),
    key("version", "base, companions, host", "The versions that the theme works with, as in \"^1.2\"."),
    key("limits", "[host]", "The table that says how much templates and callbacks may take."),
    key("nesting", "[limits]", "How deep components may be nested."),
    key("callback-milliseconds", "[limits]", "How long one callback may run, in milliseconds."),
    key("callback-mebibytes", "[limits]", "How much memory one callback may take, in MiB."),
    key(
        "scripts-in-texts",
        "[limits]",
        "May the texts of pages hold scripts, handlers of events and addresses that run as code? Where not, they are taken out.",
    ),
    key("page-milliseconds", "[limits]", "How long all callbacks of a page may run together, in milliseconds."),
    key("holes", "[limits]", "How many placements one page may hold."),
    key("template-steps", "[limits]", "How many steps the templates of one page may take."),
    key("type", "truehook.toml of a host", "[type.NAME]: a type of pages, with its label and keys."),
    key("page", "[type.…] of a host", "What pages of this type have of their own, each in the words of JSON Schema."),
    key("since", "every declaration", "From which version of its layer on the point is there."),
    key("retired", "every declaration", "From which version of its layer on the point should not be used any more."),
    key("instead", "every declaration", "What to use in place of a retired point."),
    key("reserved", "every declaration", "True: it shows, but site editors are not offered it."),
    key(
        "dropped",
        "every declaration",
        "True: placing it emits nothing, and it is never filled; a feature is switched off.",
    ),
    key(
        "extend",
        "every declaration",
        "True: lists are added to those of the layers below, in place of taking theirs.",
    ),
    key("args", "[hook.…], [filter.…]", "What a placement passes on, each in the words of JSON Schema."),
    key("value", "[filter.…]", "What the value is, in the words of JSON Schema and `markup`."),
    key(
        "inputs",
        "components and templates",
        "What the component takes, each in the words of JSON Schema; format = \"path\" names a file of the theme.",
    ),
    key("render", "components", "The callback that renders it, in place of its template: \"file.js#name\"."),
    key(
        "needs",
        "components and assets",
        "The assets that come to the page with it, before it; of a bundle, its members.",
    ),
    key(
        "wrap",
        "[area.…], [section.…], [piece.…]",
        "Markup around what is shown; prints {{ body }} once. In an area also {{ title }}, {{ id }}, an id of the item's own, and {{ kind }}, its component's name.",
    ),
    key(
        "wrap-title",
        "[area.…]",
        "Markup around an item's title; prints {{ text }} once, and may print {{ id }}, the item's id.",
    ),
    key("holds", "[section.…], [piece.…]", "What it may hold: addresses, or \"piece:*\"; absent: nothing."),
    key("piece", "[section.…]", "Pieces of its own: [section.one.piece.other] declares piece:one/other."),
    key("offer", "[section.…], [piece.…]", "What site editors can pick of it: a list of label and item."),
    key("levels", "[menu.…]", "How many levels of entries the menu spot shows."),
    key("required", "points of a host", "True: every page has to have it."),
    key("moment", "[hook.…] of a host", "True: the host fires it, and it is never placed."),
    key("inside", "[hook.…] of a host", "The element that the hook has to be in: \"head\" or \"body\"."),
    key("last", "[hook.…] of a host", "True: the hook is the last thing in that element."),
    key("arguments", "[feature.…] of a host", "What the feature takes, as a JSON Schema."),
    key(
        "feeds",
        "[feature.…] of a host",
        "By what the feature shows: points, assets, variables, inputs, custom properties, texts in styles.",
    ),
    key("file", "[style.…], [script.…]", "The file, below media/."),
    key("media", "[style.…]", "Where the style sheet applies."),
    key("gives", "[script.…]", "Global names that other scripts may use."),
    key("at", "[script.…]", "Where the script goes: in the \"head\", or at the page's \"end\"."),
    key("to", "[[attach]]", "The point that something is attached to."),
    key(
        "call",
        "[[attach]], [[detach]], [[replace]]",
        "A callback: \"file.js#name\", of another layer \"layer:file.js#name\".",
    ),
    key(
        "use",
        "[[attach]], [[detach]], items",
        "A component, by its address: attached in place of a callback, or used as content.",
    ),
    key("priority", "[[attach]], assets", "From 0 to 100, 50 where none is given; lower runs earlier."),
    key("before", "[[attach]]", "Callbacks of the same point that this one runs before, whatever their priorities."),
    key("after", "[[attach]]", "Callbacks of the same point that this one runs after, whatever their priorities."),
    key(
        "when",
        "[[attach]], assets, items",
        "Where it is switched on: comparisons of page, site and options, joined by and, or, not.",
    ),
    key("sealed", "[[attach]]", "True: the layers above can neither detach nor replace it."),
    key(
        "from",
        "[[detach]], [adopted]",
        "The point that something is detached from; the layer that a template was taken from.",
    ),
    key("in", "[[replace]]", "The point, where a callback is attached to several."),
    key("with", "[[replace]]", "The callback that comes in the place of the other."),
    key("print", "[adopted]", "What the original was when it was taken over."),
    key("fail-on", "[check]", "The level from which a check fails: error, warning or note."),
    key("rules", "[check]", "A level, or off, for single rules."),
    key(
        "ignore",
        "[[check.ignore]]",
        "Findings that the theme lives with: rule, point or file, and because, the reason.",
    ),
    key("rule", "[[check.ignore]]", "The rule whose findings are ignored."),
    key("point", "[[check.ignore]]", "The point about which nothing is said."),
    key("file", "[[check.ignore]]", "The file in which nothing is said, from the theme's folder."),
    key("because", "[[check.ignore]]", "Why the finding is ignored; without a reason nothing is."),
    key("fill", "preview/site.toml", "What the site puts into regions, areas and menu spots."),
    key("menus", "preview/site.toml", "The site's menus: entries with label, href and entries."),
    key("label", "entries of menus", "What the entry is called."),
    key("href", "entries of menus", "Where the entry leads."),
    key("entries", "entries of menus", "The entries below this one."),
    key("item", "offer", "What is put where an editor picks it: an item, as in a region."),
    key("options", "preview/site.toml", "What the site chooses of the theme's options."),
    key("data", "preview/site.toml, preview/pages/", "Anything else that pages need, as site.data and page.data."),
    key("sections", "preview/pages/", "The sections that the page is composed of."),
    key("dropped", "preview/pages/", "True: the page of a layer below is not there."),
    key("body", "preview/pages/", "The page's text, a Markdown or HTML file beside it."),
    key("path", "preview/pages/", "The page's address, as in /log/."),
    key("type", "preview/pages/", "The page's type, which chooses its template."),
    key("title", "preview/pages/, items in areas", "The page's title; in an area, the item's."),
    key("extent", "items", "How wide the item is: one of the theme's steps, [feature.extent] steps."),
    key("type", SCHEMA, "What type it is: string, number, integer, boolean, array, object, null or markup."),
    key("enum", SCHEMA, "The values that it may be, one of them."),
    key("const", SCHEMA, "The one value that it may be."),
    key("default", SCHEMA, "What it is where nothing is given."),
    key("minimum", SCHEMA, "The least number that fits."),
    key("maximum", SCHEMA, "The greatest number that fits."),
    key("exclusiveMinimum", SCHEMA, "What a number has to be above."),
    key("exclusiveMaximum", SCHEMA, "What a number has to be below."),
    key("multipleOf", SCHEMA, "What a number has to be a multiple of."),
    key("minLength", SCHEMA, "How many characters a text has at least."),
    key("maxLength", SCHEMA, "How many characters a text has at most."),
    key("pattern", SCHEMA, "The regular expression that a text has to fit."),
    key(
        "format",
        SCHEMA,
        "What a text is, as in \"date\"; \"path\" and \"folder\" are files and folders of the theme.",
    ),
    key("items", SCHEMA, "What each element of a list may be."),
    key("prefixItems", SCHEMA, "What the first elements of a list may be, one by one."),
    key("contains", SCHEMA, "What at least one element of a list has to be."),
    key("minItems", SCHEMA, "How many elements a list has at least."),
    key("maxItems", SCHEMA, "How many elements a list has at most."),
    key("uniqueItems", SCHEMA, "True: no element of a list comes twice."),
    key("properties", SCHEMA, "What an object's values may be, by name."),
    key("required", SCHEMA, "The names that an object has to have."),
    key("additionalProperties", SCHEMA, "What an object's other values may be; false: there are none."),
    key("anyOf", SCHEMA, "Schemas of which at least one fits."),
    key("oneOf", SCHEMA, "Schemas of which just one fits."),
    key("allOf", SCHEMA, "Schemas that all fit."),
    key("not", SCHEMA, "A schema that does not fit."),
    key("examples", SCHEMA, "Values that fit."),
];

/// What a kind of point is, and what is done with it.
pub fn kind(kind: Kind) -> &'static str {
    match kind {
        Kind::Hook => {
            "A moment at which callbacks add output. Put on the page with {{ place(\"hook:x\") }}; one that the host calls a moment is fired by the host. A listener attached to it gets (context) and returns markup, text or nothing; a partial can be attached in place of a callback."
        }
        Kind::Filter => {
            "A value on its way to the page: {{ value | through(\"filter:x\") }} in a template, through(\"filter:x\", value) in a callback. A filter attached to it gets (value, context) and returns the new value."
        }
        Kind::Region => {
            "A part of the page's layout that holds items. Put on the page with {{ place(\"region:x\") }}, filled by the site. An arranger attached to it gets (items, context) and returns the new list."
        }
        Kind::Area => {
            "A widget area: a region whose items are each wrapped in the area's own markup, with a title. An arranger attached to it gets (items, context) and returns the new list."
        }
        Kind::Menu => {
            "A menu spot, which the site fills with one of its menus. Put on the page with {{ place(\"menu:x\") }}, which takes class, bare and with. An arranger attached to it works on menu entries."
        }
        Kind::Partial => {
            "A component used from templates, callbacks and fills: {{ place(\"partial:x\", input=value) }}. Rendered by markup/partials/x.html, or by a callback. A preparer attached to it gets (inputs, context) and returns the new inputs."
        }
        Kind::Section => {
            "A page-wide component that the site composes into pages, shown where a page's template says {{ place(\"sections\") }}. It may hold pieces, and have inner pieces of its own."
        }
        Kind::Piece => {
            "A smaller component, held by sections and other pieces, shown where what holds it says {{ place(\"held\") }}."
        }
        Kind::Template => {
            "A whole-page template, chosen by the page's type: TYPE.html from the highest layer that has one, then page.html. A preparer attached to it gets the page's inputs."
        }
        Kind::Feature => {
            "A feature of the host that the theme switches on, with arguments: [feature.x]. Asked for with enabled(\"feature:x\"); most also act by themselves, and feed something that the theme uses."
        }
        Kind::Style => {
            "A style sheet in media/. It comes to the pages that need it, after what it needs: those where a component needs it, or all where none does."
        }
        Kind::Script => {
            "A script in media/ that browsers run. It comes to the pages that need it, after what it needs, in the head or at the page's end; gives names what other scripts may use of it."
        }
        Kind::Bundle => "A set of styles and scripts under one address: what it needs are its members.",
        Kind::Option => "A choice that the theme leaves to the site: options.x in templates, callbacks and conditions.",
    }
}

/// What words from elsewhere are called here: what people may ask for, and the answer.
pub const ELSEWHERE: &[(&[&str], &str)] = &[
    (
        &["widget", "widgets", "widget area", "sidebar"],
        "A place that site editors fill with boxes is an **area** here, declared as [area.x]: each of its items is wrapped in the area's own markup, with a title. A **region** is the same without the wrapping. What goes into either is a component: a partial, section or piece, put there with truehook fill.",
    ),
    (
        &["child theme", "child", "parent theme", "subtheme"],
        "A theme that changes another is one with a **base** here: base = { path = \"../other\", version = \"^2\" } in [theme], which truehook new NAME --on ../other writes. What it leaves alone comes from the base; truehook adopt takes a template over, replace a callback, detach takes an attachment away.",
    ),
    (
        &["slot", "slots", "outlet"],
        "A hole that others fill is a **region** (with items), a **hook** (with whatever callbacks print) or, inside of a component, {{ place(\"held\") }}, which shows what it holds. A callback's place among those of a point is called a slot in some of the outputs.",
    ),
    (
        &["block", "blocks", "content block"],
        "Content that editors put together is made of **sections**, of which pages are composed, and **pieces**, which sections and other pieces hold; in a region or area, each thing that stands there is an item: { use = \"piece:x\" }. A {% block %} of a template is another thing: templates that extend it can write it anew, with {{ super() }} for what stood there.",
    ),
    (
        &["snippet", "snippets", "include", "template part"],
        "Markup that is used again is a **partial** here: [partial.x] with its inputs, markup/partials/x.html, and {{ place(\"partial:x\", text=\"…\") }} wherever it is wanted. It sees its inputs alone, never what is around it.",
    ),
    (
        &["theme support", "supports", "support"],
        "What the host offers and a theme switches on is a **feature** here: [feature.x], with its arguments. truehook list feature shows those that there are, and enabled(\"feature:x\") asks for one in a template.",
    ),
    (
        &["preprocess", "preprocessor", "preprocess function"],
        "A callback that changes the variables of a template or component before it is rendered is a **preparer** here: attached to it like any other, (inputs, context) → the new inputs.",
    ),
    (
        &["title tag", "title element", "document title"],
        "The title of a page's window is written by **feature:page-titles**, where a theme switches it on: the page's heading, a separator, the site's title. Without it, a template writes the title element itself, from {{ page.title }} and {{ site.title }}.",
    ),
    (
        &["nav menu", "navigation menu", "navigation"],
        "A place for a menu is a **menu spot** here: [menu.x] with a label, and {{ place(\"menu:x\") }} in a template. The site fills it with one of its menus: truehook fill menu:x Home=/ Log=/log/ does so in the preview. levels says how many levels of entries it shows.",
    ),
    (
        &["colour", "color", "colours", "colors", "preset", "presets", "swatch"],
        "Colours that site editors may choose from are the palette of **feature:colours**: palette.mud = { label = \"Mud\", value = \"#4b3f35\" }, which style sheets read as var(--colour-mud). An input with format = \"palette\" takes the name of one.",
    ),
    (
        &["font size", "font sizes", "text size", "type scale"],
        "Sizes of text that site editors may choose from are those of **feature:lettering**, which style sheets read as var(--lettering-NAME). An input with format = \"lettering\" takes the name of one.",
    ),
    (
        &["thumbnail", "thumbnails", "image", "image size"],
        "A leading picture of each page, and widths that pictures come in, are **feature:pictures**; **partial:picture** prints one, with file, alt, class and at, the name of a width: {{ place(\"partial:picture\", file=\"media/boat.svg\", alt=\"A boat\") }}.",
    ),
    (
        &["feed", "rss", "atom"],
        "A feed of the newest pages, and the link to it in the head, are **feature:newsfeed**: truehook declare feature:newsfeed switches it on.",
    ),
    (
        &["cache", "caching", "clear cache"],
        "There is no cache to clear here: what lies on the disk is what is checked and rendered, and addresses of files carry a print of their content, so that a browser asks for what has changed.",
    ),
    (
        &["library", "libraries", "dependency"],
        "A style sheet or script is declared as [style.x] or [script.x], with its file in media/ and with what it needs; the host puts it on the pages that need it, in that order. Several under one address are a **bundle**.",
    ),
    (
        &["nested", "nesting", "children"],
        "A component that others can stand in says what it holds: holds = [\"piece:*\"], and {{ place(\"held\") }} in its template shows that. An item holds others by its own holds = [ … ].",
    ),
    (
        &["hidden", "hide", "disable", "disabled"],
        "What site editors are not to be offered is reserved = true; it still renders. What a layer below declares and a theme does without is dropped = true: placing it prints nothing. What is to run, or show, on some pages alone has a when.",
    ),
    (
        &["description"],
        "Every declaration takes about, one sentence for people, and label, what site editors read. A page says in its data what else its templates print.",
    ),
    (
        &["screenshot", "preview image"],
        "The picture of a theme is picture = \"media/cover.svg\" in [theme]; truehook shelf shows it beside the label. A theme without one shows that of its base.",
    ),
];

/// What callbacks of a role get and return.
pub fn role(role: Role) -> &'static str {
    match role {
        Role::Listener => {
            "A callback attached to a hook: (context) → markup, text or nothing. The outputs of all listeners are joined, in running order. A string that it returns is text, and is escaped; markup comes from html`…`."
        }
        Role::Filter => {
            "A callback attached to a filter: (value, context) → the new value. Each one gets what the one before it returned, and has to return something."
        }
        Role::Arranger => {
            "A callback attached to a region, area or menu spot: (items, context) → the new list. It can add, leave out and reorder; it has to return a list."
        }
        Role::Preparer => {
            "A callback attached to a component or template: (inputs, context) → the new inputs, before they are rendered. It has to return an object with all that it wants to keep."
        }
    }
}

/// The catalogue of all rules, in Markdown.
pub fn rules_page() -> String {
    let mut page = String::from(
        "# Rules\n\nWhat `truehook check` looks for. Each rule has a level: **error** where something is certain to break, \
         **warning** where it works but not as meant, **note** where it may be intended. The examples run as tests: the \
         wrong one gives just this finding, and what is different in the right one takes it away. A `truehook.toml` \
         without a `[theme]` table stands for one with it; what an example does not show is a plain layout and page.\n\n\
         This page is made from the rules themselves; `truehook explain RULE` shows one.\n\n| rule | level | what it finds |\n| --- | --- | --- |\n",
    );
    for rule in ALL {
        let _ = writeln!(page, "| [{0}](#{0}) | {1} | {2} |", rule.name, rule.level.word(), rule.summary);
    }
    for rule in ALL {
        section(&mut page, rule);
    }
    page
}

fn section(page: &mut String, rule: &Rule) {
    let _ = write!(page, "\n## {}\n\n*{}* – {}.\n\n{}\n", rule.name, rule.level.word(), rule.summary, rule.explanation);
    for (title, example) in [("Wrong", &rule.wrong), ("Right, where it differs", &rule.right)] {
        let _ = write!(page, "\n{title}:\n");
        for (path, text) in example.0 {
            if text.is_empty() {
                let _ = write!(page, "\n`{path}` is not there.\n");
                continue;
            }
            let language = path.rsplit_once('.').map_or("", |(_, ending)| ending);
            let fence = if text.contains("```") { "````" } else { "```" };
            let _ = write!(page, "\n`{path}`\n\n{fence}{language}\n{}\n{fence}\n", text.trim_end_matches('\n'));
        }
    }
}
