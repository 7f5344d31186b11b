//! A TOML text as a tree with places, made from the parser's events as they come. What is not TOML is told by the
//! library that knows best how to: see [`Tree::parse`].

use std::borrow::Cow;
use std::ops::Range;

use rustc_hash::FxHashMap;
use toml::de::{DeTable, DeValue};
use toml_parser::decoder::{Encoding, ScalarKind};
use toml_parser::parser::{EventReceiver, RecursionGuard, ValidateWhitespace, parse_document};
use toml_parser::{ErrorSink, ParseError, Raw, Source, Span};

/// How deep values may lie in each other, and how many steps a dotted key may have: the limit of the library.
const DEEPEST: u32 = 80;
/// From this many entries on, keys are looked up in an index.
const MANY: usize = 16;

/// A value with its place.
pub(in crate::scan) struct Node<'t> {
    start: u32,
    end: u32,
    value: Value<'t>,
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
struct Key<'t> {
    word: Cow<'t, str>,
    start: u32,
    end: u32,
}

/// How a table came to be.
#[derive(Clone, Copy, Default, PartialEq, Eq)]
struct Form {
    /// Only as a step on the way to another one.
    implicit: bool,
    /// By a dotted key.
    dotted: bool,
    /// In braces.
    inline: bool,
}

/// The entries of a table, in their order.
#[derive(Default)]
pub(in crate::scan) struct Entries<'t> {
    all: Vec<(Key<'t>, Node<'t>)>,
    /// Where each key is, once there are many.
    index: Option<Box<FxHashMap<Cow<'t, str>, u32>>>,
    form: Form,
}

impl<'t> Node<'t> {
    fn new(span: Range<usize>, value: Value<'t>) -> Node<'t> {
        Node { start: span.start as u32, end: span.end as u32, value }
    }

    pub fn get_ref(&self) -> &Value<'t> {
        &self.value
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

    fn position(&self, key: &str) -> Option<usize> {
        match &self.index {
            Some(index) => index.get(key).map(|at| *at as usize),
            None => self.all.iter().position(|(known, _)| known.word == key),
        }
    }

    /// Adds an entry whose key is not there yet.
    fn push(&mut self, key: Key<'t>, node: Node<'t>) -> &mut Node<'t> {
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

    fn remove(&mut self, key: &str) -> Option<Node<'t>> {
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
    /// Parses a text. Where it is not TOML, what can be understood is there all the same.
    pub fn parse(text: &'t str) -> Tree<'t> {
        match Builder::build(text) {
            Some(root) => Tree { root, error: None },
            None => Tree::recovered(text),
        }
    }

    /// What the library makes of a text.
    fn recovered(text: &'t str) -> Tree<'t> {
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

/// A list or a table in braces that is still open.
enum Open<'t> {
    Array(Vec<Node<'t>>),
    Table(Entries<'t>),
}

/// The header of a table.
struct Header<'t> {
    path: Vec<Key<'t>>,
    key: Key<'t>,
    span: Range<usize>,
    is_array: bool,
}

/// What fails is read by the library, which says why.
struct Failed;

type Fine<T> = Result<T, Failed>;

/// Builds a tree. It knows which texts are TOML, and nothing to say of others.
struct Builder<'t> {
    source: Source<'t>,
    root: Entries<'t>,
    /// The table that lines belong to now, and its header.
    current: Entries<'t>,
    header: Option<Header<'t>>,
    /// Where a header has begun.
    begun: usize,
    /// The steps of the key that was read last.
    keys: Vec<Key<'t>>,
    /// What is open: where it begins, and the key that it is to be the value of.
    open: Vec<(usize, Open<'t>, Vec<Key<'t>>)>,
    failed: bool,
}

/// Is anything wrong?
struct Wrong(bool);

impl ErrorSink for Wrong {
    fn report_error(&mut self, _error: ParseError) {
        self.0 = true;
    }
}

impl<'t> Builder<'t> {
    fn build(text: &'t str) -> Option<Entries<'t>> {
        let source = Source::new(text);
        let tokens = source.lex().into_vec();
        let mut builder = Builder {
            source,
            root: Entries::default(),
            current: Entries::default(),
            header: None,
            begun: 0,
            keys: Vec::new(),
            open: Vec::new(),
            failed: false,
        };
        let mut wrong = Wrong(false);
        {
            let mut receiver = ValidateWhitespace::new(&mut builder, source);
            let mut receiver = RecursionGuard::new(&mut receiver, DEEPEST);
            parse_document(&tokens, &mut receiver, &mut wrong);
        }
        builder.finish_table().ok()?;
        (!builder.failed && !wrong.0 && builder.open.is_empty()).then_some(builder.root)
    }

    fn raw(&self, span: Span, encoding: Option<Encoding>) -> Option<Raw<'t>> {
        let text = self.source.input().get(span.start()..span.end())?;
        Some(Raw::new_unchecked(text, encoding, span))
    }

    fn note(&mut self, result: Fine<()>) {
        self.failed |= result.is_err();
    }

    /// The key that was read; the steps before it stay.
    fn key(&mut self) -> Fine<Key<'t>> {
        let key = self.keys.pop().ok_or(Failed)?;
        if self.keys.len() as u32 >= DEEPEST {
            return Err(Failed);
        }
        Ok(key)
    }

    /// Takes a value that has come to its end.
    fn take(&mut self, node: Node<'t>) -> Fine<()> {
        if let Some((_, Open::Array(items), _)) = self.open.last_mut() {
            items.push(node);
            return Ok(());
        }
        let key = self.key()?;
        let path = self.keys.as_slice();
        let table = match self.open.last_mut() {
            Some((_, Open::Table(table), _)) => {
                let table = descend_inline(table, path)?;
                if table.form.dotted == path.is_empty() {
                    return Err(Failed);
                }
                table
            }
            _ => {
                let table = descend(&mut self.current, path, !path.is_empty())?;
                if !path.is_empty() && !table.form.implicit {
                    return Err(Failed);
                }
                table
            }
        };
        match table.position(&key.word) {
            Some(_) => return Err(Failed),
            None => table.push(key, node),
        };
        self.keys.clear();
        Ok(())
    }

    fn begin_header(&mut self, span: Span) {
        let finished = self.finish_table();
        self.note(finished);
        self.keys.clear();
        self.begun = span.start();
    }

    fn end_header(&mut self, end: usize, is_array: bool) -> Fine<()> {
        let key = self.key()?;
        let path = std::mem::take(&mut self.keys);
        if !is_array {
            let parent = descend(&mut self.root, &path, false)?;
            match parent.remove(&key.word).map(|node| node.value) {
                None => {}
                // Tables below it may come before it.
                Some(Value::Table(table)) if table.form.implicit && !table.form.dotted => self.current = table,
                Some(_) => return Err(Failed),
            }
        }
        (self.current.form.implicit, self.current.form.dotted) = (false, false);
        self.header = Some(Header { path, key, span: self.begun..end, is_array });
        Ok(())
    }

    /// Puts the table that lines belonged to in its place.
    fn finish_table(&mut self) -> Fine<()> {
        let table = std::mem::take(&mut self.current);
        let Some(Header { path, key, span, is_array }) = self.header.take() else {
            self.root = table;
            return Ok(());
        };
        let parent = descend(&mut self.root, &path, false)?;
        let node = Node::new(span.clone(), Value::Table(table));
        if !is_array {
            parent.push(key, node);
            return Ok(());
        }
        let list = match parent.position(&key.word) {
            Some(at) => &mut parent.all[at].1,
            None => parent.push(key, Node::new(span, Value::Array(Vec::new(), true))),
        };
        match &mut list.value {
            Value::Array(items, true) => items.push(node),
            _ => return Err(Failed),
        }
        Ok(())
    }

    fn close(&mut self, end: usize) -> Fine<()> {
        let (start, open, keys) = self.open.pop().ok_or(Failed)?;
        let value = match open {
            Open::Array(items) => Value::Array(items, false),
            Open::Table(table) => Value::Table(table),
        };
        self.keys = keys;
        self.take(Node::new(start..end, value))
    }

    fn scalar(&mut self, span: Span, encoding: Option<Encoding>, error: &mut dyn ErrorSink) -> Fine<()> {
        let raw = self.raw(span, encoding).ok_or(Failed)?;
        let mut text = Cow::Borrowed("");
        let value = match raw.decode_scalar(&mut text, error) {
            ScalarKind::String => Value::String(text),
            ScalarKind::Boolean(truth) => Value::Boolean(truth),
            ScalarKind::DateTime => Value::Datetime(text.parse().map_err(|_| Failed)?),
            ScalarKind::Float => Value::Float(text),
            ScalarKind::Integer(radix) => Value::Integer(text, radix.value()),
        };
        self.take(Node::new(span.start()..span.end(), value))
    }
}

/// The table to which a path leads, from another one; tables on the way are made.
fn descend<'a, 't>(mut table: &'a mut Entries<'t>, path: &[Key<'t>], dotted: bool) -> Fine<&'a mut Entries<'t>> {
    for key in path {
        let node = step(table, key, Form { implicit: true, dotted, inline: false });
        let found = match &mut node.value {
            Value::Array(items, true) => items.last_mut().map(|item| &mut item.value),
            value => Some(value),
        };
        let Some(Value::Table(next)) = found else { return Err(Failed) };
        if next.form.inline || dotted && !next.form.implicit {
            return Err(Failed);
        }
        next.form.dotted |= dotted;
        table = next;
    }
    Ok(table)
}

/// As [`descend`], inside of a table in braces.
fn descend_inline<'a, 't>(mut table: &'a mut Entries<'t>, path: &[Key<'t>]) -> Fine<&'a mut Entries<'t>> {
    for key in path {
        let node = step(table, key, Form { implicit: true, dotted: true, inline: true });
        match &mut node.value {
            Value::Table(next) if next.form.implicit => table = next,
            _ => return Err(Failed),
        }
    }
    Ok(table)
}

/// The value of a key; a table where there is none.
fn step<'a, 't>(table: &'a mut Entries<'t>, key: &Key<'t>, form: Form) -> &'a mut Node<'t> {
    match table.position(&key.word) {
        Some(at) => &mut table.all[at].1,
        None => {
            let made = Entries { form, ..Entries::default() };
            table.push(key.clone(), Node { start: key.start, end: key.end, value: Value::Table(made) })
        }
    }
}

impl EventReceiver for Builder<'_> {
    fn std_table_open(&mut self, span: Span, _error: &mut dyn ErrorSink) {
        self.begin_header(span);
    }

    fn std_table_close(&mut self, span: Span, _error: &mut dyn ErrorSink) {
        let ended = self.end_header(span.end(), false);
        self.note(ended);
    }

    fn array_table_open(&mut self, span: Span, _error: &mut dyn ErrorSink) {
        self.begin_header(span);
    }

    fn array_table_close(&mut self, span: Span, _error: &mut dyn ErrorSink) {
        let ended = self.end_header(span.end(), true);
        self.note(ended);
    }

    fn inline_table_open(&mut self, span: Span, _error: &mut dyn ErrorSink) -> bool {
        let table = Entries { form: Form { inline: true, ..Form::default() }, ..Entries::default() };
        self.open.push((span.start(), Open::Table(table), std::mem::take(&mut self.keys)));
        true
    }

    fn inline_table_close(&mut self, span: Span, _error: &mut dyn ErrorSink) {
        let closed = self.close(span.end());
        self.note(closed);
    }

    fn array_open(&mut self, span: Span, _error: &mut dyn ErrorSink) -> bool {
        self.open.push((span.start(), Open::Array(Vec::new()), std::mem::take(&mut self.keys)));
        true
    }

    fn array_close(&mut self, span: Span, _error: &mut dyn ErrorSink) {
        let closed = self.close(span.end());
        self.note(closed);
    }

    fn simple_key(&mut self, span: Span, encoding: Option<Encoding>, error: &mut dyn ErrorSink) {
        let Some(raw) = self.raw(span, encoding) else { return self.note(Err(Failed)) };
        let mut word = Cow::Borrowed("");
        raw.decode_key(&mut word, error);
        self.keys.push(Key { word, start: span.start() as u32, end: span.end() as u32 });
    }

    fn scalar(&mut self, span: Span, encoding: Option<Encoding>, error: &mut dyn ErrorSink) {
        let taken = Builder::scalar(self, span, encoding, error);
        self.note(taken);
    }

    fn error(&mut self, _span: Span, _error: &mut dyn ErrorSink) {
        self.failed = true;
    }
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    /// A value with all that is known of it, to be compared.
    fn told(value: &Value<'_>) -> String {
        match value {
            Value::String(text) => format!("{text:?}"),
            Value::Integer(digits, radix) => format!("{digits} of {radix}"),
            Value::Float(digits) => format!("float {digits}"),
            Value::Boolean(truth) => truth.to_string(),
            Value::Datetime(date) => date.to_string(),
            Value::Array(items, _) => {
                items.iter().map(|node| format!("{:?} {}, ", node.span(), told(&node.value))).collect()
            }
            Value::Table(table) => format!("{{{}}}", all(table)),
        }
    }

    fn all(table: &Entries<'_>) -> String {
        table
            .iter()
            .map(|(key, span, node)| format!("{key:?} {span:?} {:?} {}; ", node.span(), told(&node.value)))
            .collect()
    }

    /// Is a text read as the library reads it? Where it finds nothing wrong, nothing is to be left to it.
    fn agrees(text: &str) -> Result<(), TestCaseError> {
        let library = Tree::recovered(text);
        match Builder::build(text) {
            Some(root) => {
                prop_assert!(library.error.is_none(), "{text}\nis not TOML: {:?}", library.error);
                prop_assert_eq!(all(&root), all(&library.root), "{}", text);
            }
            None => prop_assert!(library.error.is_some(), "{text}\nis TOML"),
        }
        Ok(())
    }

    #[test]
    fn texts_are_read_as_the_library_reads_them() {
        let deep = |open: &str, close: &str, times| format!("a = {}1{}", open.repeat(times), close.repeat(times));
        let many: String = (0..60).map(|at| format!("[h.n{at}]\nx = {at}\n")).collect();
        for text in [
            "",
            "a = 1",
            "a.b.c = 1\na.b.d = 2",
            "a.b = 1\na = 2",
            "a = 1\na.b = 2",
            "[a]\nb = 1\n[a]\nc = 1",
            "[a.b]\nx = 1\n[a]\ny = 2",
            "[a]\n[a.b]\n[a.c]",
            "[[a]]\nx = 1\n[[a]]\n[a.b]\ny = 1\n[[a.c]]",
            "[a]\n[[a]]",
            "[[a]]\n[a]",
            "a = []\n[[a]]",
            "a = { b = 1, c.d = 2, c.e = 3 }\n",
            "a = { b = 1 }\na.c = 2",
            "a = { b = 1 }\n[a.c]",
            "a = { b.c = 1, b = 2 }",
            "a = { b = {}, b.c = 1 }",
            "[a]\nb.c = 1\n[a.b]\nd = 1",
            "[a.b.c]\n[a]\nb.d = 1",
            "a.b = 1\n[a.c]\nd = 1",
            "[a]\nb.c = 1\n[a.b.d]\ne = 1",
            "\"a b\".'c' = \"\"\"\nx\"\"\"",
            "a = 0x_1",
            "a = 0xff\nb = 0o17\nc = 1_000\nd = 1e3\ne = -inf",
            "a = 1979-05-27T07:32:00Z\nb = 1979-13-01",
            "a = [1, [2, {b = 3}],\n# c\n4]",
            "a = {\n b = 1,\n}",
            "= 1",
            "a =",
            "[a",
            "[]",
            "a = \"\\q\"",
            "\u{feff}a = 1",
            "a = 1 b = 2",
            "a = 'x\ny'",
            "\r\na = 1\r\n",
            "a\t=\t1",
            "a..b = 1",
            "[a.b]\n[a.b.c]\n[a.b]",
            "[ a . b ]\nc = 1",
            &deep("[", "]", 79),
            &deep("[", "]", 90),
            &deep("{a=", "}", 85),
            &many,
            &format!("{many}[h.n3]\n"),
        ] {
            agrees(text).unwrap();
        }
    }

    proptest! {
        #![proptest_config(ProptestConfig::with_cases(3000))]

        #[test]
        fn so_are_any_lines_of_it(lines in prop::collection::vec(
            prop_oneof![
                ("[ab]|[ab]\\.[ab]|[ab]\\.[ab]\\.[ab]").prop_map(|key| format!("[{key}]")),
                ("[ab]|[ab]\\.[ab]").prop_map(|key| format!("[[{key}]]")),
                ("[abc]|[abc]\\.[abc]|\"[a ]\"\\.[bc]", "1|\"x\"|\\[1, 2\\]|\\{\\}|\\{ a = 1, b\\.c = 2 \\}|\\{ a\\.b = 1, a\\.c = \\{\\} \\}|'''\n'''|1\\.5|true|\\[\\{ a = 1 \\}\\]")
                    .prop_map(|(key, value)| format!("{key} = {value}")),
                "[a=\\[\\]{}\".# ]{0,6}".prop_map(|line| line),
            ],
            0..8,
        )) {
            agrees(&lines.join("\n"))?;
        }
    }
}
