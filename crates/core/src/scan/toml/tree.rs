//! A TOML text as a tree with places, made from the parser's events as they come. What is not TOML is told by the
//! library that knows best how to: see [`Tree::recovered`].

use std::borrow::Cow;
use std::ops::Range;

use rustc_hash::FxHashMap;
use toml::de::{DeTable, DeValue};

/// From this many entries on, keys are looked up in an index.
const MANY: usize = 16;

/// A value with its place.
pub(in crate::scan) struct Node<'t> {
    start: u32,
    end: u32,
    pub(super) value: Value<'t>,
}

/// A value.
pub(in crate::scan) enum Value<'t> {
    String(Cow<'t, str>),
    /// Its digits, and their radix.
    Integer(Cow<'t, str>, u32),
    Float(Cow<'t, str>),
    Boolean(bool),
    Datetime(toml::value::Datetime),
    /// A list; true where it consists of tables with headers of their own.
    Array(Vec<Node<'t>>, bool),
    Table(Entries<'t>),
}

/// A key with its place.
#[derive(Clone)]
pub(super) struct Key<'t> {
    pub word: Cow<'t, str>,
    pub start: u32,
    pub end: u32,
}

/// How a table came to be.
#[derive(Clone, Copy, Default, PartialEq, Eq)]
pub(super) struct Form {
    /// Only as a step on the way to another one.
    pub implicit: bool,
    /// By a dotted key.
    pub dotted: bool,
    /// In braces.
    pub inline: bool,
}

/// The entries of a table, in their order.
#[derive(Default)]
pub(in crate::scan) struct Entries<'t> {
    pub(super) all: Vec<(Key<'t>, Node<'t>)>,
    /// Where each key is, once there are many.
    index: Option<Box<FxHashMap<Cow<'t, str>, u32>>>,
    pub(super) form: Form,
}

impl<'t> Node<'t> {
    pub(super) fn new(span: Range<usize>, value: Value<'t>) -> Node<'t> {
        Node { start: span.start as u32, end: span.end as u32, value }
    }

    pub fn get_ref(&self) -> &Value<'t> {
        &self.value
    }

    /// Where the letters of a string begin, where it is written without escapes: then a place in the string is a place in
    /// the file.
    pub fn letters(&self) -> Option<usize> {
        let Value::String(Cow::Borrowed(text)) = &self.value else { return None };
        let around = self.span().len().checked_sub(text.len())?;
        let quotes = if around == 2 { 1 } else { 3 };
        (around == 2 || (6..=8).contains(&around)).then(|| self.end as usize - quotes - text.len())
    }

    /// Where it stands; of a table with a header of its own, where that stands.
    pub fn span(&self) -> Range<usize> {
        self.start as usize..self.end as usize
    }
}

impl<'t> Value<'t> {
    pub fn as_str(&self) -> Option<&str> {
        match self {
            Value::String(text) => Some(text),
            _ => None,
        }
    }

    pub fn as_bool(&self) -> Option<bool> {
        match self {
            Value::Boolean(truth) => Some(*truth),
            _ => None,
        }
    }

    pub fn as_integer(&self) -> Option<i64> {
        match self {
            Value::Integer(digits, radix) => i64::from_str_radix(digits, *radix).ok(),
            _ => None,
        }
    }

    pub fn as_array(&self) -> Option<&[Node<'t>]> {
        match self {
            Value::Array(items, _) => Some(items),
            _ => None,
        }
    }

    pub fn as_table(&self) -> Option<&Entries<'t>> {
        match self {
            Value::Table(table) => Some(table),
            _ => None,
        }
    }

    pub fn is_datetime(&self) -> bool {
        matches!(self, Value::Datetime(_))
    }
}

impl<'t> Entries<'t> {
    /// None yet.
    pub(super) fn of(form: Form) -> Entries<'t> {
        Entries { form, ..Entries::default() }
    }

    pub fn get(&self, key: &str) -> Option<&Node<'t>> {
        Some(&self.all[self.position(key)?].1)
    }

    pub fn len(&self) -> usize {
        self.all.len()
    }

    /// The keys, their places, and the values.
    pub fn iter(&self) -> impl Iterator<Item = (&str, Range<usize>, &Node<'t>)> {
        self.all.iter().map(|(key, node)| (&*key.word, key.start as usize..key.end as usize, node))
    }

    pub(super) fn position(&self, key: &str) -> Option<usize> {
        match &self.index {
            Some(index) => index.get(key).map(|at| *at as usize),
            None => self.all.iter().position(|(known, _)| known.word == key),
        }
    }

    /// Adds an entry whose key is not there yet.
    pub(super) fn push(&mut self, key: Key<'t>, node: Node<'t>) -> &mut Node<'t> {
        if let Some(index) = &mut self.index {
            index.insert(key.word.clone(), self.all.len() as u32);
        }
        self.all.push((key, node));
        if self.index.is_none() && self.all.len() > MANY {
            self.reindex();
        }
        let last = self.all.len() - 1;
        &mut self.all[last].1
    }

    pub(super) fn remove(&mut self, key: &str) -> Option<Node<'t>> {
        let (_, node) = self.all.remove(self.position(key)?);
        if self.index.is_some() {
            self.reindex();
        }
        Some(node)
    }

    fn reindex(&mut self) {
        let keys = self.all.iter().enumerate().map(|(at, (key, _))| (key.word.clone(), at as u32));
        self.index = Some(Box::new(keys.collect()));
    }
}

/// A whole text.
pub(in crate::scan) struct Tree<'t> {
    pub root: Entries<'t>,
    /// What is wrong with it first, and where.
    pub error: Option<(String, Range<usize>)>,
}

impl<'t> Tree<'t> {
    /// What the library makes of a text.
    pub(super) fn recovered(text: &'t str) -> Tree<'t> {
        let (table, errors) = DeTable::parse_recoverable(text);
        // One slip of the pen often gives several errors; the first is the one to mend.
        let error = errors.first().map(|error| (error.message().to_string(), error.span().unwrap_or(0..0)));
        Tree { root: entries(table.into_inner()), error }
    }
}

fn entries<'t>(table: DeTable<'t>) -> Entries<'t> {
    let mut all = Entries::default();
    for (key, value) in table {
        let (start, end) = (key.span().start as u32, key.span().end as u32);
        let span = value.span();
        all.push(Key { word: key.into_inner(), start, end }, Node::new(span, of_library(value.into_inner())));
    }
    all
}

fn of_library(value: DeValue<'_>) -> Value<'_> {
    match value {
        DeValue::String(text) => Value::String(text),
        DeValue::Integer(number) => Value::Integer(number.as_str().to_string().into(), number.radix()),
        DeValue::Float(number) => Value::Float(number.as_str().to_string().into()),
        DeValue::Boolean(truth) => Value::Boolean(truth),
        DeValue::Datetime(date) => Value::Datetime(date),
        DeValue::Array(items) => {
            let items = items.into_iter().map(|item| Node::new(item.span(), of_library(item.into_inner())));
            Value::Array(items.collect(), false)
        }
        DeValue::Table(table) => Value::Table(entries(table)),
    }
}
