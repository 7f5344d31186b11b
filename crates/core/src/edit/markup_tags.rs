//! The tags of a template, as its language has them: `{% … %}` and `{{ … }}`, token by token.

use std::ops::Range;

use minijinja::machinery::{Token, tokenize};

/// A tag of the template language: its tokens, with their places.
#[derive(Debug)]
pub(super) struct Tag<'t> {
    pub range: Range<usize>,
    pub printed: bool,
    pub tokens: Vec<(Token<'t>, Range<usize>)>,
}

pub(super) fn tags(text: &str) -> Vec<Tag<'_>> {
    let mut found: Vec<Tag<'_>> = Vec::new();
    let mut open = false;
    for token in tokenize(text, false, Default::default()) {
        let Ok((token, span)) = token else { break };
        let range = span.start_offset as usize..span.end_offset as usize;
        match token {
            Token::TemplateData(_) => {}
            Token::VariableStart | Token::BlockStart => {
                let printed = matches!(token, Token::VariableStart);
                found.push(Tag { range, printed, tokens: Vec::new() });
                open = true;
            }
            Token::VariableEnd | Token::BlockEnd => {
                if let Some(tag) = found.last_mut() {
                    tag.range.end = range.end;
                }
                open = false;
            }
            token if open => {
                if let Some(tag) = found.last_mut() {
                    tag.tokens.push((token, range));
                }
            }
            _ => {}
        }
    }
    found
}

impl Tag<'_> {
    pub fn text(&self, at: usize) -> Option<&str> {
        match &self.tokens.get(at)?.0 {
            Token::Str(text) => Some(text),
            Token::String(text) => Some(text),
            _ => None,
        }
    }

    pub fn is_word(&self, at: usize, word: &str) -> bool {
        matches!(self.tokens.get(at), Some((Token::Ident(ident), _)) if *ident == word)
    }

    /// `place("…")` alone, with whatever it is given: of which point.
    pub fn placed(&self) -> Option<&str> {
        let call = self.printed && self.is_word(0, "place") && matches!(self.tokens.get(1)?.0, Token::ParenOpen);
        let whole = self.end_of_call(1)? + 1 == self.tokens.len();
        self.text(2).filter(|_| call && whole)
    }

    /// `if filled("…")` alone: of which point.
    pub fn guards(&self) -> Option<&str> {
        let asks = !self.printed && self.is_word(0, "if") && self.is_word(1, "filled") && self.tokens.len() == 5;
        self.text(3).filter(|_| asks)
    }

    /// `if filled("…") or filled("…")`, or with `elif`, and nothing else: which points, each with the place of its call.
    pub fn filled(&self) -> Option<Vec<(&str, Range<usize>)>> {
        if self.printed || !(self.is_word(0, "if") || self.is_word(0, "elif")) {
            return None;
        }
        let mut found = Vec::new();
        let mut at = 1;
        loop {
            let call = self.is_word(at, "filled") && matches!(self.tokens.get(at + 1)?.0, Token::ParenOpen);
            let close = self.end_of_call(at + 1).filter(|close| call && *close == at + 3)?;
            found.push((self.text(at + 2)?, self.tokens[at].1.start..self.tokens[close].1.end));
            at = close + 2;
            match self.tokens.get(close + 1) {
                None => return Some(found),
                Some(_) if self.is_word(close + 1, "or") => {}
                Some(_) => return None,
            }
        }
    }

    /// The parenthesis that closes the one at a place.
    pub fn end_of_call(&self, open: usize) -> Option<usize> {
        let mut depth = 0usize;
        for (at, (token, _)) in self.tokens.iter().enumerate().skip(open) {
            match token {
                Token::ParenOpen => depth += 1,
                Token::ParenClose => depth = depth.checked_sub(1)?,
                _ => {}
            }
            if depth == 0 {
                return Some(at);
            }
        }
        None
    }
}

/// What stands between `if` and its end, or its next branch.
#[derive(Debug)]
pub(super) struct Branch<'t> {
    /// The tag that begins it.
    pub tag: Tag<'t>,
    /// The text of it.
    pub inner: Range<usize>,
    /// Does it begin with `if`, and end with `endif`, so that it is all there is?
    pub only: bool,
    /// Behind the tag that ends it.
    pub end: usize,
}

/// The branches of `if` in a template, those that are in others before them.
pub(super) fn branches(text: &str) -> Vec<Branch<'_>> {
    let mut found = Vec::new();
    let mut open: Vec<Tag<'_>> = Vec::new();
    for tag in tags(text).into_iter().filter(|tag| !tag.printed) {
        let is = |word: &str| tag.is_word(0, word);
        if is("if") || is("for") {
            open.push(tag);
            continue;
        }
        let (ends, goes_on) = (is("endif") || is("endfor"), is("elif") || is("else"));
        if !ends && !goes_on {
            continue;
        }
        let Some(begun) = open.pop() else { continue };
        let (inner, end) = (begun.range.end..tag.range.start, tag.range.end);
        let only = begun.is_word(0, "if") && is("endif");
        found.push(Branch { tag: begun, inner, only, end });
        if goes_on {
            open.push(tag);
        }
    }
    found
}
