//! What a site would bring: `preview/site.toml` and the pages beside it.

use super::condition;
use super::toml::{Node, Table, json, parse, table_json, wrong};
use super::*;

pub(super) fn scan_site(text: &str) -> Facts {
    let mut notes = Notes::default();
    let (table, broken) = parse(text, &mut notes);
    let root = Table::new(&table, "the site");
    root.known(&["title", "motto", "language", "now", "options", "menus", "fill", "data"], &mut notes);
    for key in ["title", "motto", "language"] {
        root.string(key, &mut notes);
    }
    for key in ["options", "menus", "data"] {
        root.table(key, &mut notes);
    }
    if let Some(node) = root.get("now")
        && !node.get_ref().is_datetime()
    {
        wrong(node, "`now` in the site", "a date", &mut notes);
    }
    let mut fills = Vec::new();
    if let Some(table) = root.table("fill", &mut notes) {
        for (word, span, node) in table.entries() {
            let at = notes.at(span.start, span.end);
            let to = PointRef::new(word, at);
            let items = items(node, &format!("the content of `{word}`"), &mut notes);
            fills.push(Fill { to, items });
        }
    }
    notes.only_syntax(broken);
    notes.facts(Shape::Site(Box::new(SiteShape { broken, fills, value: table_json(&table) })))
}

pub(super) fn scan_page(text: &str) -> Facts {
    let mut notes = Notes::default();
    let (table, broken) = parse(text, &mut notes);
    let root = Table::new(&table, "the page");
    let known = ["path", "type", "title", "body", "date", "summary", "data"];
    root.known(&known, &mut notes);
    if !broken {
        let start = notes.at(0, 0);
        for key in ["path", "type", "title"] {
            root.needs(key, start, &mut notes);
        }
    }
    root.string("title", &mut notes);
    root.string("summary", &mut notes);
    root.table("data", &mut notes);
    let path = root.string("path", &mut notes).filter(|path| is_path(path, &mut notes));
    let shape = PageShape {
        broken,
        path,
        page_type: root.string("type", &mut notes),
        body: root.string("body", &mut notes),
        value: table_json(&table),
    };
    notes.only_syntax(broken);
    notes.facts(Shape::Page(Box::new(shape)))
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

fn items(node: &Node<'_>, title: &str, notes: &mut Notes) -> Vec<Item> {
    let Some(array) = node.get_ref().as_array() else {
        wrong(node, title, "a list of items", notes);
        return Vec::new();
    };
    array.iter().filter_map(|node| item(node, title, notes)).collect()
}

fn item(node: &Node<'_>, title: &str, notes: &mut Notes) -> Option<Item> {
    let table = Table::from(node, format!("each of {title}"), notes)?;
    let at = notes.at(node.span().start, node.span().end);
    table.needs("use", at, notes);
    let component = table.text("use", notes).map(|(text, at)| PointRef::new(text, at));
    let (when, when_broken) = condition::read(&table, notes);
    let mut inputs = Vec::new();
    for (word, span, node) in table.entries() {
        if word != "use" && word != "when" {
            let at = notes.at(span.start, span.end);
            inputs.push((Named { name: name(word), at }, json(node.get_ref())));
        }
    }
    Some(Item { component: component?, inputs, when, when_broken })
}
