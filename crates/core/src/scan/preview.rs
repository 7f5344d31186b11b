//! What a site would bring: `preview/site.toml` and the pages beside it.

use super::items::{given, items};
use super::toml::{Node, Table, parse, table_json, wrong};
use super::*;
use crate::keys;

pub(super) fn scan_site(text: &str) -> Facts {
    let mut notes = Notes::default();
    let (table, broken) = parse(text, &mut notes);
    let root = Table::new(&table, "the site");
    for key in ["title", "motto", "language"] {
        root.string(key, &mut notes);
    }
    root.table("data", &mut notes);
    if let Some(node) = root.get("now")
        && !node.get_ref().is_datetime()
    {
        wrong(node, "`now` in the site", "a date", &mut notes);
    }
    let known = keys::names(&keys::SITE);
    let further = root.entries().filter(|(word, _, _)| !known.contains(word));
    let (keys, files) = further_keys(further, &mut notes);
    let mut shape = SiteShape { broken, keys, files, value: table_json(&table), ..SiteShape::default() };
    if let Some(options) = root.table("options", &mut notes) {
        shape.options = options.entries().map(|(word, span, node)| given(word, span, node, &mut notes)).collect();
    }
    if let Some(menus) = root.table("menus", &mut notes) {
        for (word, span, node) in menus.entries() {
            let at = notes.at(span.start, span.end);
            entries(node, &format!("the menu `{word}`"), &mut shape.links, &mut notes);
            shape.menus.push(Named { name: name(word), at });
        }
    }
    if let Some(table) = root.table("fill", &mut notes) {
        for (word, span, node) in table.entries() {
            let at = notes.at(span.start, span.end);
            let to = PointRef::new(word, at);
            let content = match node.get_ref().as_str() {
                Some(menu) => {
                    let at = notes.at(node.span().start, node.span().end);
                    FillContent::Menu(Named { name: name(menu), at })
                }
                None => FillContent::Items(items(node, &format!("the content of `{word}`"), &mut notes)),
            };
            shape.fills.push(Fill { to, content });
        }
    }
    notes.only_syntax(broken);
    notes.facts(Shape::Site(Box::new(shape)))
}

/// Notes what is no entry of a menu.
fn entries(node: &Node<'_>, title: &str, links: &mut Vec<Named>, notes: &mut Notes) {
    let Some(array) = node.get_ref().as_array() else {
        return wrong(node, title, "a list of entries", notes);
    };
    for node in array.iter() {
        let Some(table) = Table::from(node, format!("each entry of {title}"), notes) else { continue };
        let at = notes.at(node.span().start, node.span().end);
        table.known(&keys::names(&keys::ENTRY), notes);
        table.needs("label", at, notes);
        table.string("label", notes);
        links.extend(table.string("href", notes));
        if let Some(below) = table.get("entries") {
            entries(below, title, links, notes);
        }
    }
}

pub(super) fn scan_page(text: &str) -> Facts {
    let mut notes = Notes::default();
    let (table, broken) = parse(text, &mut notes);
    let root = Table::new(&table, "the page");
    let known = keys::names(&keys::PAGE);
    let dropped = root.boolean("dropped", &mut notes).unwrap_or(false);
    if !broken {
        let start = notes.at(0, 0);
        let needed: &[&str] = if dropped { &["path"] } else { &["path", "type", "title"] };
        for key in needed {
            root.needs(key, start, &mut notes);
        }
    }
    root.string("title", &mut notes);
    root.table("data", &mut notes);
    let further = root.entries().filter(|(word, _, _)| !known.contains(word));
    let (keys, files) = further_keys(further, &mut notes);
    let path = root.string("path", &mut notes).filter(|path| is_path(path, &mut notes));
    let sections = root.get("sections").map(|node| items(node, "`sections`", &mut notes));
    let shape = PageShape {
        broken,
        path,
        page_type: root.string("type", &mut notes),
        body: root.string("body", &mut notes),
        dropped,
        sections: sections.unwrap_or_default(),
        keys,
        files,
        value: table_json(&table),
    };
    notes.only_syntax(broken);
    notes.facts(Shape::Page(Box::new(shape)))
}

/// Keys that features or types of pages may have, and the files that tables among them name.
fn further_keys<'t, 'n: 't>(
    further: impl Iterator<Item = (&'t str, std::ops::Range<usize>, &'t Node<'n>)>,
    notes: &mut Notes,
) -> (Vec<Given>, Vec<Named>) {
    let (mut keys, mut files) = (Vec::new(), Vec::new());
    for (word, span, node) in further {
        keys.push(given(word, span, node, notes));
        let value = node.get_ref();
        let tables = value.as_array().into_iter().flat_map(|array| array.iter()).map(|item| item.get_ref());
        for table in tables.chain([value]).filter_map(|value| value.as_table()) {
            if let Some(file) = table.get("file")
                && let Some(text) = file.get_ref().as_str()
            {
                let at = notes.at(file.span().start, file.span().end);
                files.push(Named { name: name(text), at });
            }
        }
    }
    (keys, files)
}

/// Is this the path of a page, which also says where its file goes?
fn is_path(path: &Named, notes: &mut Notes) -> bool {
    let text = path.name.as_str();
    let good = text.starts_with('/')
        && !text.contains("//")
        && !text.contains(['\\', '?', '#', '\0'])
        && text.split('/').all(|part| part != "..");
    if !good {
        let label = "begin with /, as in \"/log/\", without .., ? and #";
        notes.flaw(FlawKind::ManifestSyntax, path.at, format!("`{text}` is not the path of a page"), label);
    }
    good
}
