//! Where things stand: files, byte spans, and their lines and columns.

mod file;
mod request;

pub use file::{Content, FileKind, LARGEST, LayerRole, SourceFile, Unreadable};
pub use request::LayerRequest;

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
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, PartialOrd, Ord, Hash)]
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
    starts: Cow<'t, [usize]>,
}

impl<'t> LineIndex<'t> {
    /// Reads the text once.
    pub fn new(text: &'t str) -> LineIndex<'t> {
        LineIndex { text, starts: Cow::Owned(LineIndex::starts(text)) }
    }

    /// With the lines' beginnings as [`LineIndex::starts`] found them.
    pub fn with(text: &'t str, starts: &'t [usize]) -> LineIndex<'t> {
        LineIndex { text, starts: Cow::Borrowed(starts) }
    }

    /// Where each line of a text begins.
    pub fn starts(text: &str) -> Vec<usize> {
        std::iter::once(0).chain(text.match_indices('\n').map(|(at, _)| at + 1)).collect()
    }

    /// Line and column of a byte offset, both from 1, the column in Unicode characters.
    pub fn position(&self, offset: u32) -> (usize, usize) {
        let mut offset = (offset as usize).min(self.text.len());
        while !self.text.is_char_boundary(offset) {
            offset -= 1;
        }
        let line = self.starts.partition_point(|start| *start <= offset);
        let column = self.text[self.starts[line - 1]..offset].chars().count();
        (line, column + 1)
    }

    /// The bytes of the lines from `first` to `last`, counted from 1, without the last line's end.
    pub fn lines(&self, first: usize, last: usize) -> std::ops::Range<usize> {
        let start = self.starts[first.clamp(1, self.starts.len()) - 1];
        let end = self.starts.get(last).map_or(self.text.len(), |next| next - 1);
        start..end.max(start)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

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
