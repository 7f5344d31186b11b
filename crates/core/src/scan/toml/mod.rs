//! The adapter for TOML: walks a parsed table, notes what is unknown or of the wrong type, and
//! gives the rest with its place. The syntax of the parser stays in here.

mod build;
#[cfg(test)]
mod tests;
mod title;
mod tree;

use serde_json::{Map, Number, Value as Json};

use super::{Flaw, FlawKind, Named, Notes, name};
use crate::keys;
use crate::names;
use crate::source::{At, Span};

pub(super) use title::Title;
pub(super) use tree::{Entries, Node};
use tree::{Tree, Value};

/// A text as a tree. Where it is not TOML, what can be understood is there all the same.
fn tree(text: &str) -> Tree<'_> {
    match build::build(text) {
        Some(root) => Tree { root, error: None },
        None => Tree::recovered(text),
    }
}

/// Parses a text. What can't be understood is noted; what can is returned all the same.
pub(super) fn parse<'t>(text: &'t str, notes: &mut Notes) -> (Entries<'t>, bool) {
    let Tree { root, error } = tree(text);
    let broken = error.is_some();
    if let Some((message, span)) = error {
        let at = notes.at(span.start.min(text.len()), span.end.min(text.len()));
        let message = message.trim_end_matches('.').replace('\n', ", ");
        notes.flaw(FlawKind::ManifestSyntax, at, format!("this is not TOML: {message}"), "");
    }
    (root, broken)
}

/// A table that is being read.
pub(super) struct Table<'t> {
    table: &'t Entries<'t>,
    /// How it is called in messages.
    title: Title<'t>,
}

impl<'t> Table<'t> {
    pub fn new(table: &'t Entries<'t>, title: impl Into<Title<'t>>) -> Table<'t> {
        Table { table, title: title.into() }
    }

    /// Reads a node as a table.
    pub fn from(node: &'t Node<'t>, title: impl Into<Title<'t>>, notes: &mut Notes) -> Option<Table<'t>> {
        let title = title.into();
        match node.get_ref() {
            Value::Table(table) => Some(Table { table, title }),
            _ => {
                wrong(node, &title.to_string(), "a table", notes);
                None
            }
        }
    }

    /// Notes every key that is not among the known ones.
    pub fn known(&self, known: &[&str], notes: &mut Notes) {
        for (word, span, _) in self.entries() {
            if known.contains(&word) {
                continue;
            }
            let at = notes.at(span.start, span.end);
            unknown_key(word, at, &self.title.to_string(), known, notes);
        }
    }

    /// All entries: the key, its place, and the value.
    pub fn entries(&self) -> impl Iterator<Item = (&'t str, std::ops::Range<usize>, &'t Node<'t>)> + use<'t> {
        self.table.iter()
    }

    pub fn get(&self, key: &str) -> Option<&'t Node<'t>> {
        self.table.get(key)
    }

    /// Where the value of a key stands.
    pub fn place(&self, key: &str, notes: &mut Notes) -> Option<At> {
        let span = self.get(key)?.span();
        Some(notes.at(span.start, span.end))
    }

    fn path(&self, key: &str) -> String {
        format!("`{key}` in {}", self.title)
    }

    pub fn string(&self, key: &str, notes: &mut Notes) -> Option<Named> {
        self.text(key, notes).map(|(text, at)| Named { name: name(text), at })
    }

    pub fn text(&self, key: &str, notes: &mut Notes) -> Option<(&'t str, At)> {
        let node = self.get(key)?;
        text(node, || self.path(key), notes)
    }

    pub fn boolean(&self, key: &str, notes: &mut Notes) -> Option<bool> {
        let node = self.get(key)?;
        let value = node.get_ref().as_bool();
        if value.is_none() {
            wrong(node, &self.path(key), "true or false", notes);
        }
        value
    }

    pub fn integer(&self, key: &str, notes: &mut Notes) -> Option<(i64, At)> {
        let node = self.get(key)?;
        let value = node.get_ref().as_integer();
        match value {
            Some(value) => Some((value, notes.at(node.span().start, node.span().end))),
            None => {
                wrong(node, &self.path(key), "a whole number", notes);
                None
            }
        }
    }

    pub fn table(&self, key: &'t str, notes: &mut Notes) -> Option<Table<'t>> {
        let node = self.get(key)?;
        Table::from(node, Title::Key(key, Box::new(self.title.clone())), notes)
    }

    pub fn array(&self, key: &str, notes: &mut Notes) -> Vec<&'t Node<'t>> {
        let Some(node) = self.get(key) else { return Vec::new() };
        match node.get_ref().as_array() {
            Some(array) => array.iter().collect(),
            None => {
                wrong(node, &self.path(key), "a list", notes);
                Vec::new()
            }
        }
    }

    pub fn strings(&self, key: &str, notes: &mut Notes) -> Vec<Named> {
        let nodes = self.array(key, notes);
        nodes
            .into_iter()
            .filter_map(|node| text(node, || format!("each of {}", self.path(key)), notes))
            .map(|(text, at)| Named { name: name(text), at })
            .collect()
    }

    /// Notes that a key has to be there.
    pub fn needs(&self, key: &str, at: At, notes: &mut Notes) {
        if self.get(key).is_none() {
            let message = format!("{} has no `{key}`", self.title);
            notes.flaw(FlawKind::ManifestSyntax, at, message, format!("`{key}` belongs here"));
        }
    }
}

/// Notes a key that means nothing there.
fn unknown_key(word: &str, at: At, title: &str, known: &[&str], notes: &mut Notes) {
    let suggestion = names::nearest(word, known.iter().copied());
    let label = match suggestion {
        Some(near) => format!("did you mean `{near}`?"),
        None => format!("known here: {}", known.join(", ")),
    };
    let message = format!("{title} has no key `{word}`");
    let instead = names::certain(word, known.iter().copied()).map(str::to_string);
    notes.flaws.push(Flaw { kind: FlawKind::UnknownKey, at, message, label, instead });
}

/// Reads a node as a string. The title is made only where it has to be told.
pub(super) fn text<'t>(node: &'t Node<'t>, title: impl FnOnce() -> String, notes: &mut Notes) -> Option<(&'t str, At)> {
    match node.get_ref().as_str() {
        Some(text) => Some((text, notes.at(node.span().start, node.span().end))),
        None => {
            wrong(node, &title(), "a string", notes);
            None
        }
    }
}

/// Notes a value of the wrong type.
pub(super) fn wrong(node: &Node<'_>, title: &str, wanted: &str, notes: &mut Notes) {
    let at = notes.at(node.span().start, node.span().end);
    let message = format!("{title} has to be {wanted}, not {}", type_word(node.get_ref()));
    let label = match keys::example_of(title) {
        Some(example) => format!("{wanted} belongs here, as in {example}"),
        None => format!("{wanted} belongs here"),
    };
    notes.flaw(FlawKind::ManifestSyntax, at, message, label);
}

fn type_word(value: &Value<'_>) -> &'static str {
    match value {
        Value::String(_) => "a string",
        Value::Integer(..) => "a whole number",
        Value::Float(_) => "a number",
        Value::Boolean(_) => "true or false",
        Value::Datetime(_) => "a date",
        Value::Array(..) => "a list",
        Value::Table(_) => "a table",
    }
}

/// The value as JSON; dates become RFC 3339 text.
pub(super) fn json(value: &Value<'_>) -> Json {
    match value {
        Value::String(text) => Json::String(text.to_string()),
        Value::Integer(..) => value.as_integer().map_or(Json::Null, Json::from),
        Value::Float(number) => number.parse().ok().and_then(Number::from_f64).map_or(Json::Null, Json::Number),
        Value::Boolean(truth) => Json::Bool(*truth),
        Value::Datetime(date) => Json::String(date.to_string()),
        Value::Array(items, _) => items.iter().map(|item| json(item.get_ref())).collect(),
        Value::Table(table) => table_json(table),
    }
}

pub(super) fn table_json(table: &Entries<'_>) -> Json {
    let entries = table.iter().map(|(key, _, value)| (key.to_string(), json(value.get_ref())));
    Json::Object(entries.collect::<Map<_, _>>())
}

/// Where in a text a part of a value stands: the value by its span, the part by the keys and
/// positions that lead to it. What isn't there gives the place of what would hold it.
pub(super) fn part(text: &str, value: Span, steps: &[String]) -> Option<Span> {
    let Tree { root, .. } = tree(text);
    let mut open: Vec<&Node<'_>> = root.iter().map(|(_, _, node)| node).collect();
    let found = loop {
        let node = open.pop()?;
        if Span::new(node.span().start, node.span().end) == value {
            break node;
        }
        match node.get_ref() {
            Value::Table(table) => open.extend(table.iter().map(|(_, _, node)| node)),
            Value::Array(items, _) => open.extend(items.iter()),
            _ => {}
        }
    };
    let mut at = found;
    for step in steps {
        let next = match at.get_ref() {
            Value::Table(table) => table.get(step),
            Value::Array(items, _) => step.parse::<usize>().ok().and_then(|step| items.get(step)),
            _ => None,
        };
        match next {
            Some(next) => at = next,
            None => break,
        }
    }
    Some(Span::new(at.span().start, at.span().end))
}
