//! Where things stand: files, byte spans, and their lines and columns.

mod file;
pub(crate) mod looked;
mod request;

pub use file::{Content, FileKind, LARGEST, LayerRole, SourceFile, Unreadable};
pub use request::{LayerRequest, Versions};

use std::borrow::Cow;

use serde::{Deserialize, Serialize};

/// One layer of the stack, by its position: 0 is the host.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
pub struct LayerId(pub u16);

/// One file of the project, by its position in [`Project::files`](crate::read::Project::files).
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
pub struct FileId(pub u32);

impl LayerId {
    /// As an index.
    pub fn index(self) -> usize {
        usize::from(self.0)
    }
}

impl FileId {
    /// As an index.
    pub fn index(self) -> usize {
        self.0 as usize
    }
}

/// A range of bytes in a file's text; the end is exclusive.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, PartialOrd, Ord, Hash, serde::Serialize, serde::Deserialize)]
pub struct Span {
    /// The first byte.
    pub start: u32,
    /// One past the last byte.
    pub end: u32,
}

impl Span {
    /// A span from byte offsets.
    pub fn new(start: usize, end: usize) -> Span {
        // Files over 4 MiB are refused when they are read, so offsets fit.
        Span { start: start as u32, end: end.max(start) as u32 }
    }

    /// As a range that can index a text.
    pub fn range(self) -> std::ops::Range<usize> {
        self.start as usize..self.end as usize
    }

    /// The span without the quotes around it, where it has some.
    pub fn unquoted(self, text: &str) -> Span {
        let part = &text[self.range()];
        let quoted = part.len() >= 2 && part.starts_with(['"', '\'']) && part.ends_with(['"', '\'']);
        if quoted { Span { start: self.start + 1, end: self.end - 1 } } else { self }
    }
}

/// One of a file's spans, by its position in the table beside the file's shape. An edit that moves
/// text but changes no name leaves it as it is.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
pub struct At(pub u32);

/// A place: a file, and one of the spans of its facts.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
pub struct Place {
    /// The file.
    pub file: FileId,
    /// The span, in that file's table.
    pub at: At,
}

/// A replacement of some bytes of a file.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub struct Edit {
    /// The file.
    pub file: FileId,
    /// The bytes that go.
    pub span: Span,
    /// What comes in their place.
    pub new: String,
}

/// What tells one state of a text from another: its SHA-256 in hexadecimal, after `sha256-`.
pub fn print_of(text: &str) -> String {
    use sha2::{Digest, Sha256};
    let digest = Sha256::digest(text.as_bytes());
    digest.iter().fold("sha256-".to_string(), |print, byte| print + &format!("{byte:02x}"))
}

/// Does a path lead out of the folder that it is relative to?
pub fn leaves(path: &str) -> bool {
    let mut depth = 0i32;
    for part in path.split('/') {
        match part {
            ".." => depth -= 1,
            "" | "." => {}
            _ => depth += 1,
        }
        if depth < 0 {
            return true;
        }
    }
    path.starts_with('/')
}

/// Where the lines of a text begin.
pub struct LineIndex<'t> {
    text: &'t str,
    lines: Cow<'t, Lines>,
}

/// What is known of a text's lines.
#[derive(Clone, Debug)]
pub struct Lines {
    /// Where each begins.
    starts: Vec<usize>,
    /// How many characters begin before each [`STEP`]th byte, so that a place on a long line is soon found.
    characters: Vec<usize>,
}

/// So many bytes are counted one by one at most.
const STEP: usize = 1024;

fn characters(bytes: &[u8]) -> usize {
    bytes.iter().filter(|byte| **byte & 0xC0 != 0x80).count()
}

impl Lines {
    /// Reads a text once.
    pub fn of(text: &str) -> Lines {
        let mut count = 0;
        let mut counted = vec![0];
        for part in text.as_bytes().chunks(STEP) {
            count += characters(part);
            counted.push(count);
        }
        let mut starts = vec![0];
        starts.extend(memchr::memchr_iter(b'\n', text.as_bytes()).map(|at| at + 1));
        Lines { starts, characters: counted }
    }
}

impl<'t> LineIndex<'t> {
    /// Reads the text once.
    pub fn new(text: &'t str) -> LineIndex<'t> {
        LineIndex { text, lines: Cow::Owned(Lines::of(text)) }
    }

    /// With lines that have been read before.
    pub fn with(text: &'t str, lines: &'t Lines) -> LineIndex<'t> {
        LineIndex { text, lines: Cow::Borrowed(lines) }
    }

    /// The line of a byte offset, from 1.
    pub fn line(&self, offset: u32) -> usize {
        self.lines.starts.partition_point(|start| *start <= offset as usize)
    }

    /// How many characters begin before a byte.
    fn before(&self, offset: usize) -> usize {
        let step = offset / STEP;
        self.lines.characters[step] + characters(&self.text.as_bytes()[step * STEP..offset])
    }

    /// Line and column of a byte offset, both from 1, the column in Unicode characters.
    pub fn position(&self, offset: u32) -> (usize, usize) {
        let mut offset = (offset as usize).min(self.text.len());
        while !self.text.is_char_boundary(offset) {
            offset -= 1;
        }
        let line = self.line(offset as u32);
        let start = self.lines.starts[line - 1];
        let column = match offset - start < STEP {
            true => characters(&self.text.as_bytes()[start..offset]),
            false => self.before(offset) - self.before(start),
        };
        (line, column + 1)
    }

    /// The bytes of the lines from `first` to `last`, counted from 1, without the last line's end.
    pub fn lines(&self, first: usize, last: usize) -> std::ops::Range<usize> {
        let starts = &self.lines.starts;
        let start = starts[first.clamp(1, starts.len()) - 1];
        let end = starts.get(last).map_or(self.text.len(), |next| next - 1);
        start..end.max(start)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_place_on_a_long_line_is_counted_in_characters() {
        let text = format!("first\n{}\nlast", "aé→ö".repeat(1000));
        let index = LineIndex::new(&text);
        for (at, (offset, _)) in text[6..].char_indices().enumerate().filter(|(at, _)| *at <= 4000) {
            assert_eq!(index.position(6 + offset as u32), (2, at + 1));
            assert_eq!(index.line(6 + offset as u32), 2);
        }
    }

    #[test]
    fn columns_count_characters_and_offsets_past_the_end_are_the_end() {
        let index = LineIndex::new("aé\r\nöb\n");
        assert_eq!(index.position(0), (1, 1));
        assert_eq!(index.position(3), (1, 3));
        assert_eq!(index.position(5), (2, 1));
        assert_eq!(index.position(7), (2, 2));
        assert_eq!(index.position(99), (3, 1));
    }
}
