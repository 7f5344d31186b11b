//! The keys and texts of a TOML text, each with the keys that lead to it and the place where it is written.

use toml_parser::decoder::Encoding;
use toml_parser::parser::{EventReceiver, parse_document};
use toml_parser::{ErrorSink, Source};

use crate::source::{Edit, FileId, Span};

/// A key, or a text that is a value.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) struct Word {
    /// The keys that lead to it; a key is the last of them itself.
    pub path: Vec<String>,
    pub is_key: bool,
    /// What it says.
    pub text: String,
    /// What is written, with its quotes.
    pub span: Span,
}

impl Word {
    /// Does it stand at these keys?
    pub fn is_at(&self, path: &[&str]) -> bool {
        self.path.iter().map(String::as_str).eq(path.iter().copied())
    }

    /// The edit that writes something else of it, which needs no other quotes.
    pub fn with(&self, file: FileId, text: &str, old: &str, new: &str) -> Edit {
        Edit { file, span: self.span, new: self.rewritten(text, old, new) }
    }

    /// What is written in its place, with another text in it.
    pub fn rewritten(&self, text: &str, old: &str, new: &str) -> String {
        let written = &text[self.span.range()];
        match written.contains(old) {
            true => written.replacen(old, new, 1),
            false => super::texts::string(&self.text.replacen(old, new, 1)),
        }
    }
}

/// All of them, in their order. As far as the text can be told apart.
pub(super) fn words(text: &str) -> Vec<Word> {
    let source = Source::new(text);
    let tokens = source.lex().into_vec();
    let mut reader =
        Reader { text, words: Vec::new(), header: Vec::new(), frames: Vec::new(), path: Vec::new(), joined: false };
    parse_document(&tokens, &mut reader, &mut ());
    reader.words
}

struct Reader<'t> {
    text: &'t str,
    words: Vec<Word>,
    /// The keys of the table at hand.
    header: Vec<String>,
    /// Those of the tables written inline around.
    frames: Vec<Vec<String>>,
    /// Those that lead to the value at hand.
    path: Vec<String>,
    /// Was there a dot?
    joined: bool,
}

impl Reader<'_> {
    fn said(&self, span: toml_parser::Span) -> String {
        let raw = &self.text[span.start()..span.end()];
        match raw.strip_prefix(['"', '\'']) {
            Some(inner) if !raw.contains('\\') && !raw.starts_with("\"\"\"") && !raw.starts_with("'''") => {
                inner[..inner.len().saturating_sub(1)].to_string()
            }
            Some(_) => {
                let table: Option<toml::Table> = format!("x = {raw}").parse().ok();
                table.and_then(|table| Some(table.get("x")?.as_str()?.to_string())).unwrap_or_default()
            }
            None => raw.to_string(),
        }
    }

    fn begin_header(&mut self) {
        self.header.clear();
        self.path.clear();
        self.joined = true;
    }
}

impl EventReceiver for Reader<'_> {
    fn std_table_open(&mut self, _: toml_parser::Span, _: &mut dyn ErrorSink) {
        self.begin_header();
    }
    fn std_table_close(&mut self, _: toml_parser::Span, _: &mut dyn ErrorSink) {
        self.header.clone_from(&self.path);
    }
    fn array_table_open(&mut self, _: toml_parser::Span, _: &mut dyn ErrorSink) {
        self.begin_header();
    }
    fn array_table_close(&mut self, _: toml_parser::Span, _: &mut dyn ErrorSink) {
        self.header.clone_from(&self.path);
    }
    fn inline_table_open(&mut self, _: toml_parser::Span, _: &mut dyn ErrorSink) -> bool {
        self.frames.push(self.path.clone());
        true
    }
    fn inline_table_close(&mut self, _: toml_parser::Span, _: &mut dyn ErrorSink) {
        self.path = self.frames.pop().unwrap_or_default();
    }
    fn simple_key(&mut self, span: toml_parser::Span, _: Option<Encoding>, _: &mut dyn ErrorSink) {
        if !std::mem::take(&mut self.joined) {
            self.path = self.frames.last().unwrap_or(&self.header).clone();
        }
        let text = self.said(span);
        self.path.push(text.clone());
        let span = Span::new(span.start(), span.end());
        self.words.push(Word { path: self.path.clone(), is_key: true, text, span });
    }
    fn key_sep(&mut self, _: toml_parser::Span, _: &mut dyn ErrorSink) {
        self.joined = true;
    }
    fn scalar(&mut self, span: toml_parser::Span, kind: Option<Encoding>, _: &mut dyn ErrorSink) {
        if kind.is_some() {
            let text = self.said(span);
            let span = Span::new(span.start(), span.end());
            self.words.push(Word { path: self.path.clone(), is_key: false, text, span });
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn words_know_the_keys_that_lead_to_them() {
        let text = "[a.\"b c\"]\nd.e = 'x'\nf = [ { g = \"y\", h.i = [\"z\"] }, 3 ]\n[[j]]\nk = \"\\u0041\"\n";
        let found: Vec<String> = words(text)
            .iter()
            .map(|word| {
                format!(
                    "{}{}{}",
                    word.path.join("/"),
                    if word.is_key { "" } else { "=" },
                    if word.is_key { "" } else { &word.text }
                )
            })
            .collect();
        assert_eq!(
            found,
            [
                "a",
                "a/b c",
                "a/b c/d",
                "a/b c/d/e",
                "a/b c/d/e=x",
                "a/b c/f",
                "a/b c/f/g",
                "a/b c/f/g=y",
                "a/b c/f/h",
                "a/b c/f/h/i",
                "a/b c/f/h/i=z",
                "j",
                "j/k",
                "j/k=A"
            ]
        );
    }
}
