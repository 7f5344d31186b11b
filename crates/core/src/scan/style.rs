//! What a style sheet says: the addresses in it, and the custom properties that it reads and sets.
//!
//! This is the adapter for the parser of CSS; none of its tokens leaves this file.

use cssparser::{ParseError, Parser, Token};
use rustc_hash::FxHashSet;

use super::*;

pub(super) fn scan(text: &str) -> Facts {
    let mut notes = Notes::default();
    let mut shape = StyleShape::default();
    let mut reader = Reader { text, notes: &mut notes, shape: &mut shape, known: FxHashSet::default() };
    reader.tokens(&mut Parser::new(text), Inside::Block);
    if let Some(open) = unclosed(text) {
        let at = notes.at(open, open + 1);
        notes.flaw(FlawKind::CodeSyntax, at, "the style sheet doesn't parse: this { is not closed", "it opens here");
    }
    notes.facts(Shape::Style(Box::new(shape)))
}

/// Where a block begins that is not closed (CSS Syntax, 5.4.8); a browser takes all that follows for a part of it.
fn unclosed(text: &str) -> Option<usize> {
    let (opens, closes) = (memchr::memchr_iter(b'{', text.as_bytes()), memchr::memchr_iter(b'}', text.as_bytes()));
    if opens.count() <= closes.count() {
        return None;
    }
    let mut parser = Parser::new(text);
    loop {
        let start = parser.position().byte_index();
        match parser.next_including_whitespace_and_comments() {
            Err(_) => return None,
            Ok(Token::CurlyBracketBlock) => {}
            Ok(_) => continue,
        }
        let inner = parser.parse_nested_block(|parser| {
            while parser.next_including_whitespace_and_comments().is_ok() {}
            Ok::<usize, ParseError<()>>(parser.position().byte_index())
        });
        // Behind a block that is closed stands its bracket.
        if inner.is_ok_and(|end| parser.position().byte_index() == end) {
            return Some(start);
        }
    }
}

/// What stands around a token.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Inside {
    Block,
    Var,
    Url,
}

struct Reader<'t> {
    text: &'t str,
    notes: &'t mut Notes,
    shape: &'t mut StyleShape,
    /// The custom properties that it reads.
    known: FxHashSet<Name>,
}

impl Reader<'_> {
    fn tokens(&mut self, parser: &mut Parser<'_>, inside: Inside) {
        let mut imports = false;
        loop {
            let start = parser.position().byte_index();
            let Ok(token) = parser.next_including_whitespace_and_comments().cloned() else { return };
            let end = parser.position().byte_index();
            let imported = std::mem::take(&mut imports);
            let nested = match &token {
                Token::WhiteSpace(_) | Token::Comment(_) => {
                    imports = imported;
                    None
                }
                Token::AtKeyword(word) => {
                    imports = word.eq_ignore_ascii_case("import");
                    None
                }
                Token::UnquotedUrl(address) => {
                    let span = self.within(start, end, address);
                    self.address(address, span);
                    None
                }
                Token::QuotedString(address) if imported || inside == Inside::Url => {
                    self.address(address, (start + 1, end.saturating_sub(1)));
                    None
                }
                Token::Ident(word) if word.starts_with("--") => {
                    match inside {
                        Inside::Var => self.reads(word, start, end),
                        // What a declaration sets stands before its colon.
                        _ if self.text[end..].trim_start().starts_with(':') => self.shape.sets.push(name(word)),
                        _ => {}
                    }
                    None
                }
                Token::Function(word) if word.eq_ignore_ascii_case("var") => Some(Inside::Var),
                Token::Function(word) if word.eq_ignore_ascii_case("url") => Some(Inside::Url),
                Token::Function(_) | Token::ParenthesisBlock | Token::SquareBracketBlock | Token::CurlyBracketBlock => {
                    Some(Inside::Block)
                }
                _ => None,
            };
            if let Some(inside) = nested {
                let _ = parser.parse_nested_block(|parser| {
                    self.tokens(parser, inside);
                    Ok::<(), ParseError<()>>(())
                });
            }
        }
    }

    /// Where in a token a text stands.
    fn within(&self, start: usize, end: usize, part: &str) -> (usize, usize) {
        match self.text.get(start..end).and_then(|token| token.find(part)) {
            Some(at) => (start + at, start + at + part.len()),
            None => (start, end),
        }
    }

    fn address(&mut self, address: &str, (start, end): (usize, usize)) {
        let at = self.notes.at(start, end);
        self.shape.addresses.push(Named { name: name(address), at });
    }

    fn reads(&mut self, word: &str, start: usize, end: usize) {
        let word = name(word);
        if self.known.insert(word) {
            let at = self.notes.at(start, end);
            self.shape.reads.push(Named { name: word, at });
        }
    }
}
