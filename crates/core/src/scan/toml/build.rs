//! Builds a tree from the events of the parser, as they come. It knows which texts are TOML, and nothing to say of
//! others: those are read by the library, which says why.

use std::borrow::Cow;
use std::ops::Range;

use toml_parser::decoder::{Encoding, ScalarKind};
use toml_parser::parser::{EventReceiver, RecursionGuard, ValidateWhitespace, parse_document};
use toml_parser::{ErrorSink, ParseError, Raw, Source, Span};

use super::tree::{Entries, Form, Key, Node, Value};

/// How deep values may lie in each other, and how many steps a dotted key may have: the limit of the library.
const DEEPEST: u32 = 80;

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

/// The tree of a text; nothing where it is not TOML.
pub(super) fn build<'t>(text: &'t str) -> Option<Entries<'t>> {
    Builder::build(text)
}

impl<'t> Builder<'t> {
    fn build(text: &'t str) -> Option<Entries<'t>> {
        let source = Source::new(text);
        // Blanks and signs are tokens, too.
        let mut tokens = Vec::with_capacity(text.len() / 2 + 8);
        tokens.extend(source.lex());
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
            let made = Entries::of(form);
            table.push(key.clone(), Node::new(key.start as usize..key.end as usize, Value::Table(made)))
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
        let table = Entries::of(Form { inline: true, ..Form::default() });
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
