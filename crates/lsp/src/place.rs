//! Positions as editors count them, and bytes as everything else here does.

use std::sync::Arc;

use lsp_types::{Position, PositionEncodingKind, Range};
use truehook_core::source::Span;

/// How an editor counts the letters of a line.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Encoding {
    /// In bytes.
    Utf8,
    /// In units of UTF-16, which every editor can.
    Utf16,
}

impl Encoding {
    /// The first that we can, of those that an editor can; UTF-16 where it says nothing.
    pub fn agreed(offered: Option<&[PositionEncodingKind]>) -> Encoding {
        let known = |kind: &PositionEncodingKind| match kind.as_str() {
            "utf-8" => Some(Encoding::Utf8),
            "utf-16" => Some(Encoding::Utf16),
            _ => None,
        };
        offered.into_iter().flatten().find_map(known).unwrap_or(Encoding::Utf16)
    }

    /// Its name in the protocol.
    pub fn kind(self) -> PositionEncodingKind {
        match self {
            Encoding::Utf8 => PositionEncodingKind::UTF8,
            Encoding::Utf16 => PositionEncodingKind::UTF16,
        }
    }

    fn width(self, letter: char) -> usize {
        match self {
            Encoding::Utf8 => letter.len_utf8(),
            Encoding::Utf16 => letter.len_utf16(),
        }
    }
}

/// Where the lines of a text begin, as the protocol counts them: after `\n`, `\r\n`, and a `\r` by itself.
pub struct Ruler<'t> {
    text: &'t str,
    starts: Arc<[usize]>,
    encoding: Encoding,
}

/// Where the lines of a text begin.
pub fn starts(text: &str) -> Arc<[usize]> {
    let bytes = text.as_bytes();
    let ends = bytes.iter().enumerate().filter(|(at, byte)| match byte {
        b'\n' => true,
        b'\r' => bytes.get(at + 1) != Some(&b'\n'),
        _ => false,
    });
    std::iter::once(0).chain(ends.map(|(at, _)| at + 1)).collect()
}

impl<'t> Ruler<'t> {
    /// Reads a text once.
    pub fn new(text: &'t str, encoding: Encoding) -> Ruler<'t> {
        Ruler::with(text, starts(text), encoding)
    }

    /// Over a text that has been read before.
    pub fn with(text: &'t str, starts: Arc<[usize]>, encoding: Encoding) -> Ruler<'t> {
        Ruler { text, starts, encoding }
    }

    /// A line's bytes, without its end.
    fn line(&self, at: usize) -> std::ops::Range<usize> {
        let start = self.starts[at];
        let end = self.starts.get(at + 1).copied().unwrap_or(self.text.len());
        let kept = self.text[start..end].trim_end_matches(['\r', '\n']).len();
        start..start + kept
    }

    /// Where a byte is. One within a letter is where that letter begins.
    pub fn position(&self, offset: usize) -> Position {
        let mut offset = offset.min(self.text.len());
        while !self.text.is_char_boundary(offset) {
            offset -= 1;
        }
        let line = self.starts.partition_point(|start| *start <= offset) - 1;
        let before = &self.text[self.starts[line]..offset];
        let column: usize = match self.encoding {
            Encoding::Utf8 => before.len(),
            Encoding::Utf16 => before.chars().map(|letter| self.encoding.width(letter)).sum(),
        };
        Position { line: line as u32, character: column as u32 }
    }

    /// The byte at a place. Past a line's end it is the line's end, past the last line the text's.
    pub fn offset(&self, position: Position) -> usize {
        let line = position.line as usize;
        if line >= self.starts.len() {
            return self.text.len();
        }
        let range = self.line(line);
        let mut column = 0;
        for (at, letter) in self.text[range.clone()].char_indices() {
            column += self.encoding.width(letter);
            if column > position.character as usize {
                return range.start + at;
            }
        }
        range.end
    }

    /// Where a stretch of bytes is.
    pub fn range(&self, span: Span) -> Range {
        Range { start: self.position(span.start as usize), end: self.position(span.end as usize) }
    }

    /// The bytes of a range.
    pub fn span(&self, range: Range) -> Span {
        Span::new(self.offset(range.start), self.offset(range.end))
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// The lines of a text as the protocol has them, each with its end.
    fn lines(text: &str) -> Vec<String> {
        let mut lines = vec![String::new()];
        let mut letters = text.chars().peekable();
        while let Some(letter) = letters.next() {
            let last = lines.len() - 1;
            lines[last].push(letter);
            if letter == '\n' || letter == '\r' && letters.peek() != Some(&'\n') {
                lines.push(String::new());
            }
        }
        lines
    }

    fn width(text: &str, encoding: Encoding) -> usize {
        match encoding {
            Encoding::Utf8 => text.len(),
            Encoding::Utf16 => text.encode_utf16().count(),
        }
    }

    proptest::proptest! {
        #[test]
        fn each_letter_is_where_the_protocol_counts_it(text in "[a-c é→😀\u{301}\r\n]{0,40}", utf8 in proptest::bool::ANY) {
            let encoding = if utf8 { Encoding::Utf8 } else { Encoding::Utf16 };
            let ruler = Ruler::new(&text, encoding);
            let mut start = 0;
            for (number, line) in lines(&text).iter().enumerate() {
                let kept = line.trim_end_matches(['\r', '\n']);
                for (at, _) in kept.char_indices().chain([(kept.len(), ' ')]) {
                    let position = Position::new(number as u32, width(&line[..at], encoding) as u32);
                    proptest::prop_assert_eq!(ruler.position(start + at), position);
                    proptest::prop_assert_eq!(ruler.offset(position), start + at);
                }
                // Past the line's end is its end.
                let far = Position::new(number as u32, 1000);
                proptest::prop_assert_eq!(ruler.offset(far), start + kept.len());
                start += line.len();
            }
            proptest::prop_assert_eq!(ruler.offset(Position::new(1000, 0)), text.len());
        }

        /// Whatever an editor names, it is a place between two letters.
        #[test]
        fn any_place_is_between_two_letters(text in "[é😀\r\na]{0,12}", line in 0u32..6, character in 0u32..12) {
            for encoding in [Encoding::Utf8, Encoding::Utf16] {
                let offset = Ruler::new(&text, encoding).offset(Position::new(line, character));
                proptest::prop_assert!(text.is_char_boundary(offset));
            }
        }
    }

    #[test]
    fn the_first_that_both_can_is_agreed_on() {
        let all = |words: &[&'static str]| words.iter().map(|word| PositionEncodingKind::new(word)).collect::<Vec<_>>();
        assert_eq!(Encoding::agreed(None), Encoding::Utf16);
        assert_eq!(Encoding::agreed(Some(&all(&["utf-32", "utf-8", "utf-16"]))), Encoding::Utf8);
        assert_eq!(Encoding::agreed(Some(&all(&["utf-32"]))), Encoding::Utf16);
    }
}
