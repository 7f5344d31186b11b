//! Where a place of a TOML text is: in which table, at which key, in which value. The text need not parse.

mod reader;
#[cfg(test)]
mod tests;

use std::collections::BTreeMap;

use toml_parser::Source;
use truehook_core::source::Span;

/// Where a place is.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct TomlPlace {
    /// The table whose header stands above: `["hook", "under-masthead"]`.
    pub table: Vec<String>,
    /// Is that table one of a list, as in `[[attach]]`?
    pub listed: bool,
    /// The keys within it that lead here, also through tables in braces.
    pub keys: Vec<String>,
    /// What is given beside it in the same table, as far as it is text.
    pub beside: BTreeMap<String, String>,
    /// The same of the table that the header begins, where the place is deeper.
    pub around: BTreeMap<String, String>,
    /// What is being typed.
    pub part: Part,
}

/// What is being typed.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub enum Part {
    /// Nothing that could be helped with.
    #[default]
    Nothing,
    /// A header: what stands within its brackets so far.
    Header(Span),
    /// A key, or a part of one behind a dot.
    Key(Span),
    /// A value.
    Value {
        /// The text so far, without its quote.
        typed: Span,
        /// What stands within the quotes altogether.
        whole: Span,
        /// The quote; nothing where there is none.
        quote: Option<char>,
        /// Is it an element of a list?
        element: bool,
    },
}

/// Where a byte of a TOML text is.
pub fn place(text: &str, offset: usize) -> TomlPlace {
    reader::Reader::find_place(text, offset, Source::new(text).lex().into_vec())
}

/// Is a line a table's header, as far as can be seen while others are being typed?
fn is_header(line: &str) -> bool {
    let name = line.trim_start_matches('[').trim_end_matches(']');
    line.starts_with('[')
        && line.ends_with(']')
        && !name.is_empty()
        && name.chars().all(|letter| letter.is_alphanumeric() || "._-\"' ".contains(letter))
}

/// A text without its quotes, which need not both be there.
fn unquoted(raw: &str) -> &str {
    let begun = raw.strip_prefix(['"', '\'']).unwrap_or(raw);
    begun.strip_suffix(['"', '\'']).unwrap_or(begun)
}
