//! What a table is called in messages: made only where there is something to tell.

use std::fmt;

use crate::address::Kind;

/// What a table is called in messages.
#[derive(Clone)]
pub(in crate::scan) enum Title<'t> {
    /// In words.
    Words(&'static str),
    /// The same, put together.
    Text(String),
    /// A point: `[hook.under-masthead]`.
    Point(Kind, &'t str),
    /// A key by itself.
    Quoted(&'t str),
    /// A key of another table.
    Key(&'t str, Box<Title<'t>>),
}

impl fmt::Display for Title<'_> {
    fn fmt(&self, out: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Title::Words(words) => out.write_str(words),
            Title::Text(text) => out.write_str(text),
            Title::Point(kind, name) => write!(out, "[{kind}.{name}]"),
            Title::Quoted(key) => write!(out, "`{key}`"),
            Title::Key(key, of) => write!(out, "`{key}` in {of}"),
        }
    }
}

impl From<&'static str> for Title<'_> {
    fn from(words: &'static str) -> Self {
        Title::Words(words)
    }
}

impl From<String> for Title<'_> {
    fn from(text: String) -> Self {
        Title::Text(text)
    }
}
