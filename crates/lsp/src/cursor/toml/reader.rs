//! Reads a TOML text token by token, up to where a place is and on to the end of its table.

use std::collections::BTreeMap;

use toml_parser::lexer::{Token, TokenKind};
use truehook_core::source::Span;

use super::{Part, TomlPlace, is_header, unquoted};

/// How deeply lists and tables are followed.
const DEEPEST: usize = 200;

/// What is open at a place.
enum Open {
    /// A list in brackets.
    List,
    /// A table in braces: how many keys led there, and what it holds.
    Table(usize, BTreeMap<String, String>),
}

pub(super) struct Reader<'t> {
    text: &'t str,
    offset: usize,
    tokens: Vec<Token>,
    at: usize,
    place: TomlPlace,
    /// What is known of the table under the header.
    own: BTreeMap<String, String>,
    open: Vec<Open>,
    found: Option<TomlPlace>,
    /// How many tables were open where it was found.
    depth: usize,
}

impl<'t> Reader<'t> {
    /// Finds where a byte is.
    pub fn find_place(text: &'t str, offset: usize, tokens: Vec<Token>) -> TomlPlace {
        let mut reader = Reader {
            text,
            offset,
            tokens,
            at: 0,
            place: TomlPlace::default(),
            own: BTreeMap::new(),
            open: Vec::new(),
            found: None,
            depth: 0,
        };
        reader.read();
        reader.found.unwrap_or_default()
    }
}

impl Reader<'_> {
    fn kind(&self) -> TokenKind {
        self.tokens.get(self.at).map_or(TokenKind::Eof, Token::kind)
    }

    fn span(&self) -> (usize, usize) {
        let token = self.tokens.get(self.at).map(|token| (token.span().start(), token.span().end()));
        token.unwrap_or((self.text.len(), self.text.len()))
    }

    fn read(&mut self) {
        while self.kind() != TokenKind::Eof {
            match self.kind() {
                TokenKind::Newline | TokenKind::Whitespace => {
                    self.blank();
                    self.at += 1;
                }
                TokenKind::Comment => {
                    self.comment();
                    self.at += 1;
                }
                TokenKind::LeftSquareBracket => self.header(),
                _ => self.statement(),
            }
        }
        self.blank();
        self.leave_table();
    }

    /// The cursor stands where a new key could begin.
    fn blank(&mut self) {
        let (start, end) = self.span();
        let line_is_empty =
            self.text[..self.offset.min(self.text.len())].rsplit('\n').next().unwrap_or("").trim().is_empty();
        let here = (start..=end).contains(&self.offset) && line_is_empty;
        if self.found.is_none() && here && self.open.is_empty() {
            self.find(Part::Key(Span::new(self.offset, self.offset)), None);
        }
    }

    fn comment(&mut self) {
        let (start, end) = self.span();
        if start < self.offset && self.offset <= end && self.found.is_none() {
            self.find(Part::Nothing, None);
        }
    }

    /// Notes where the cursor is.
    fn find(&mut self, part: Part, last: Option<&[String]>) {
        if self.found.is_some() {
            return;
        }
        let mut place = self.place.clone();
        place.keys.extend(last.unwrap_or_default().iter().cloned());
        place.part = part;
        self.depth = self.tables();
        self.found = Some(place);
    }

    fn tables(&self) -> usize {
        self.open.iter().filter(|open| matches!(open, Open::Table(..))).count()
    }

    /// What is known of the innermost table, and of the one under the header, goes to the place as they end.
    fn settle(&mut self, closing: &BTreeMap<String, String>, depth: usize) {
        if let Some(found) = &mut self.found
            && self.depth == depth
            && found.beside.is_empty()
        {
            found.beside = closing.clone();
        }
    }

    fn leave_table(&mut self) {
        let own = std::mem::take(&mut self.own);
        if let Some(found) = &mut self.found
            && found.around.is_empty()
            && found.table == self.place.table
        {
            found.around = own.clone();
            if self.depth == 0 && found.beside.is_empty() {
                found.beside = own;
            }
        }
    }

    fn header(&mut self) {
        if self.found.is_none() || self.found.as_ref().is_some_and(|found| found.around.is_empty()) {
            self.leave_table();
        }
        if self.found.is_some() {
            // All that matters is known.
            self.at = self.tokens.len();
            return;
        }
        let begun = self.span().0;
        let mut listed = false;
        let mut words = Vec::new();
        let mut start = begun + 1;
        while !matches!(self.kind(), TokenKind::Newline | TokenKind::Eof | TokenKind::Comment) {
            let (from, to) = self.span();
            match self.kind() {
                TokenKind::LeftSquareBracket => {
                    listed = from > begun;
                    start = to;
                }
                TokenKind::RightSquareBracket => {}
                kind => words.extend(self.word(kind)),
            }
            self.at += 1;
        }
        let end = self.span().0;
        let within = &self.text[start.min(end)..end];
        let content = start + within.find(']').unwrap_or(within.trim_end().len());
        if start <= self.offset && self.offset <= content.max(start) {
            self.place = TomlPlace { listed, ..TomlPlace::default() };
            self.find(Part::Header(Span::new(start, self.offset)), None);
        }
        self.place = TomlPlace { table: words, listed, ..TomlPlace::default() };
    }

    /// The text of a key.
    fn word(&self, kind: TokenKind) -> Option<String> {
        let (start, end) = self.span();
        let raw = &self.text[start..end];
        match kind {
            TokenKind::Atom => Some(raw.to_string()),
            TokenKind::BasicString | TokenKind::LiteralString => Some(unquoted(raw).to_string()),
            _ => None,
        }
    }

    /// `key.key = value`, up to the line's end or, in braces, the comma.
    fn statement(&mut self) {
        let keys = self.key();
        if self.kind() != TokenKind::Equals {
            // A line that is no statement yet.
            while !matches!(self.kind(), TokenKind::Newline | TokenKind::Eof) && self.open.is_empty() {
                self.at += 1;
            }
            return;
        }
        self.at += 1;
        self.value(keys, false);
        while !matches!(self.kind(), TokenKind::Newline | TokenKind::Eof) && self.open.is_empty() {
            self.comment_or_next();
        }
    }

    fn comment_or_next(&mut self) {
        if self.kind() == TokenKind::Comment {
            self.comment();
        }
        self.at += 1;
    }

    /// The keys before `=`; the cursor may be in one.
    fn key(&mut self) -> Vec<String> {
        let mut keys: Vec<String> = Vec::new();
        loop {
            let (start, end) = self.span();
            match self.kind() {
                kind @ (TokenKind::Atom | TokenKind::BasicString | TokenKind::LiteralString) => {
                    if start <= self.offset && self.offset <= end {
                        self.find(Part::Key(Span::new(start, self.offset)), Some(&keys.clone()));
                    }
                    keys.extend(self.word(kind));
                }
                TokenKind::Dot if end == self.offset => {
                    let next = self.tokens.get(self.at + 1).map(Token::kind);
                    if next != Some(TokenKind::Atom) {
                        self.find(Part::Key(Span::new(end, end)), Some(&keys.clone()));
                    }
                }
                TokenKind::Dot | TokenKind::Whitespace => {}
                _ => return keys,
            }
            self.at += 1;
        }
    }

    fn note(&mut self, keys: &[String], text: &str) {
        let [key] = keys else { return };
        let table = self.open.iter_mut().rev().find_map(|open| match open {
            Open::Table(_, known) => Some(known),
            Open::List => None,
        });
        table.unwrap_or(&mut self.own).insert(key.clone(), text.to_string());
    }

    /// A value; the cursor may be in it.
    fn value(&mut self, keys: Vec<String>, element: bool) {
        let mut begun = false;
        let before = self.span().0;
        loop {
            let (start, end) = self.span();
            match self.kind() {
                TokenKind::Whitespace => {}
                TokenKind::Newline
                | TokenKind::Eof
                | TokenKind::Comment
                | TokenKind::Comma
                | TokenKind::RightCurlyBracket
                | TokenKind::RightSquareBracket => {
                    if !begun && before <= self.offset && self.offset <= start {
                        let here = Span::new(self.offset, self.offset);
                        let part = Part::Value { typed: here, whole: here, quote: None, element };
                        self.find(part, Some(&keys));
                    }
                    return;
                }
                // What is nested deeper than any text may be is skipped.
                TokenKind::LeftSquareBracket | TokenKind::LeftCurlyBracket if self.open.len() >= DEEPEST => {}
                TokenKind::LeftSquareBracket => return self.list(keys),
                TokenKind::LeftCurlyBracket => return self.braces(keys),
                kind => {
                    begun = true;
                    self.scalar(kind, start, end, &keys, element);
                }
            }
            self.at += 1;
            if begun && !matches!(self.kind(), TokenKind::Atom | TokenKind::Dot) {
                return;
            }
        }
    }

    fn scalar(&mut self, kind: TokenKind, start: usize, end: usize, keys: &[String], element: bool) {
        let raw = &self.text[start..end];
        let quote = raw.chars().next().filter(|quote| matches!(quote, '"' | '\''));
        let (from, to) = match quote {
            Some(quote) => {
                let long = matches!(kind, TokenKind::MlBasicString | TokenKind::MlLiteralString);
                let width = if long { 3 } else { 1 };
                let ending = quote.to_string().repeat(width);
                let closed = raw.len() >= 2 * width && raw.ends_with(&ending);
                (start + width.min(raw.len()), if closed { end - width } else { end })
            }
            None => (start, end),
        };
        if !element {
            self.note(keys, &self.text[from.min(to)..to]);
        }
        if from <= self.offset && self.offset <= to {
            let part = Part::Value { typed: Span::new(from, self.offset), whole: Span::new(from, to), quote, element };
            self.find(part, Some(keys));
        }
    }

    /// A list: each element is a value of the same keys.
    fn list(&mut self, keys: Vec<String>) {
        self.open.push(Open::List);
        self.at += 1;
        loop {
            match self.kind() {
                kind @ (TokenKind::RightSquareBracket | TokenKind::Eof) => {
                    if self.span().0 == self.offset {
                        self.find_element(&keys);
                    }
                    if kind == TokenKind::RightSquareBracket {
                        self.at += 1;
                    }
                    break;
                }
                TokenKind::Newline if self.header_follows() => break,
                TokenKind::Comma | TokenKind::Whitespace | TokenKind::Newline | TokenKind::Comment => {
                    let (start, end) = self.span();
                    if self.kind() != TokenKind::Comment && start < self.offset && self.offset <= end {
                        self.find_element(&keys);
                    }
                    self.at += 1;
                }
                TokenKind::RightCurlyBracket | TokenKind::Equals => self.at += 1,
                _ => {
                    let at = self.at;
                    self.value(keys.clone(), true);
                    if self.at == at {
                        self.at += 1;
                    }
                }
            }
        }
        self.open.pop();
    }

    /// The cursor stands where a new element could begin.
    fn find_element(&mut self, keys: &[String]) {
        let here = Span::new(self.offset, self.offset);
        self.find(Part::Value { typed: here, whole: here, quote: None, element: true }, Some(keys));
    }

    /// A table in braces.
    fn braces(&mut self, keys: Vec<String>) {
        let before = self.place.keys.len();
        self.place.keys.extend(keys);
        self.open.push(Open::Table(before, BTreeMap::new()));
        self.at += 1;
        loop {
            let (start, end) = self.span();
            match self.kind() {
                TokenKind::RightCurlyBracket => {
                    if self.found.is_none() && self.offset == start {
                        self.find(Part::Key(Span::new(start, start)), None);
                    }
                    self.at += 1;
                    break;
                }
                TokenKind::Eof => {
                    if self.offset == start {
                        self.find(Part::Key(Span::new(start, start)), None);
                    }
                    break;
                }
                TokenKind::Newline if self.header_follows() => break,
                TokenKind::Comma | TokenKind::Whitespace | TokenKind::Newline | TokenKind::Comment => {
                    if self.kind() != TokenKind::Comment && start < self.offset && self.offset <= end {
                        self.find(Part::Key(Span::new(self.offset, self.offset)), None);
                    }
                    self.at += 1;
                }
                _ => {
                    let at = self.at;
                    self.statement();
                    if self.at == at {
                        self.at += 1;
                    }
                }
            }
        }
        let depth = self.tables();
        if let Some(Open::Table(before, known)) = self.open.pop() {
            self.settle(&known, depth);
            self.place.keys.truncate(before);
        }
    }

    /// Does a header stand on the next line, so that what is open was only not closed yet?
    fn header_follows(&self) -> bool {
        is_header(self.text[self.span().1..].lines().next().unwrap_or_default().trim_end())
    }
}
