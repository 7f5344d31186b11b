//! Where everything is printed. What a theme says goes through here as text: no character of it steers the terminal.

use std::io::{self, IsTerminal, StderrLock, StdoutLock, Write};
use std::sync::OnceLock;

use anstream::AutoStream;
use truehook_core::visible::{has_hidden_control, is_hidden_control, push, visible};

/// Standard output, locked.
pub fn stdout() -> Stream<AutoStream<StdoutLock<'static>>> {
    Stream::new(anstream::stdout().lock())
}

/// Standard error, locked.
pub fn stderr() -> Stream<AutoStream<StderrLock<'static>>> {
    Stream::new(anstream::stderr().lock())
}

/// Writes what people hand on as it is, such as a page. On a terminal it is shown as all else.
///
/// # Errors
/// Where nobody reads any more.
pub fn write_whole(bytes: &[u8]) -> io::Result<()> {
    match io::stdout().is_terminal() {
        true => stdout().write_all(bytes),
        false => {
            let mut out = io::stdout().lock();
            out.write_all(bytes)?;
            out.flush()
        }
    }
}

/// The mark in front of each terminal sequence that the program itself writes: an escape and a random number. A theme
/// can't know the number, so it can't write such a sequence.
fn sign() -> &'static str {
    static SIGN: OnceLock<String> = OnceLock::new();
    SIGN.get_or_init(|| {
        use std::hash::{BuildHasher, Hasher, RandomState};
        format!("\u{1b}{:016x}", RandomState::new().build_hasher().finish())
    })
}

/// Text of which the program itself has made the escape sequences, and nobody else any: they go through.
pub fn own(text: &str) -> String {
    text.replace('\u{1b}', sign())
}

/// Lays a text out by its width on a terminal, where the program's own escape sequences take no room. All others are
/// written out before.
pub fn laid_out(text: &str, lay_out: impl Fn(&str) -> String) -> String {
    let parts: Vec<_> = text.split(sign()).map(visible).collect();
    own(&lay_out(&parts.join("\u{1b}")))
}

/// A stream on which text is written out where it would steer the terminal.
pub struct Stream<Inner: Write> {
    inner: Inner,
    /// The end of what was written last, where what comes next tells what it is.
    rest: Vec<u8>,
}

impl<Inner: Write> Stream<Inner> {
    pub fn new(inner: Inner) -> Stream<Inner> {
        Stream { inner, rest: Vec::new() }
    }

    /// Writes a text, and leaves its last character where what follows it counts.
    fn write_text(&mut self, text: &str, is_end: bool) -> io::Result<()> {
        if !has_hidden_control(text) {
            return self.inner.write_all(text.as_bytes());
        }
        let mut shown = String::with_capacity(text.len() + 16);
        let mut rest = text;
        while let Some(c) = rest.chars().next() {
            let behind = &rest[c.len_utf8()..];
            if let Some(after) = rest.strip_prefix(sign()) {
                shown.push('\u{1b}');
                rest = after;
                continue;
            }
            match c {
                '\r' if behind.is_empty() && !is_end => {
                    self.rest.extend_from_slice(b"\r");
                }
                '\r' if behind.starts_with('\n') => shown.push(c),
                c if is_hidden_control(c) => push(&mut shown, c),
                c => shown.push(c),
            }
            rest = behind;
        }
        self.inner.write_all(shown.as_bytes())
    }
}

impl<Inner: Write> Write for Stream<Inner> {
    fn write(&mut self, bytes: &[u8]) -> io::Result<usize> {
        let whole: Vec<u8>;
        let all = match self.rest.is_empty() {
            true => bytes,
            false => {
                whole = [std::mem::take(&mut self.rest).as_slice(), bytes].concat();
                &whole
            }
        };
        // What is no UTF-8 is none of ours, and its end may be the beginning of a character.
        let mut done = 0;
        for chunk in all.utf8_chunks() {
            let invalid = chunk.invalid();
            self.write_text(chunk.valid(), !invalid.is_empty())?;
            done += chunk.valid().len() + invalid.len();
            let is_last = done == all.len();
            match is_last && invalid.len() < 4 {
                true => self.rest.extend_from_slice(invalid),
                false => self.inner.write_all("\u{fffd}".as_bytes())?,
            }
        }
        Ok(bytes.len())
    }

    fn flush(&mut self) -> io::Result<()> {
        let rest = std::mem::take(&mut self.rest);
        let text = String::from_utf8_lossy(&rest);
        self.write_text(&text, true)?;
        self.inner.flush()
    }
}

impl<Inner: Write> Drop for Stream<Inner> {
    fn drop(&mut self) {
        if !self.rest.is_empty() {
            drop(self.flush());
        }
    }
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;
    use truehook_core::visible::visible;

    use super::*;

    fn written(pieces: &[&[u8]]) -> String {
        let mut out = Vec::new();
        let mut stream = Stream::new(&mut out);
        pieces.iter().for_each(|piece| stream.write_all(piece).unwrap());
        drop(stream);
        String::from_utf8(out).unwrap()
    }

    proptest! {
        #[test]
        fn however_a_text_comes_it_is_shown_the_same(text in "[\\x00-\\xa0\u{202a}-\u{202e}üß🦀\r\n]{0,40}", at in proptest::collection::vec(0usize..80, 0..6)) {
            let mut cuts: Vec<usize> = at.into_iter().map(|at| at.min(text.len())).collect();
            cuts.extend([0, text.len()]);
            cuts.sort_unstable();
            let pieces: Vec<&[u8]> = cuts.windows(2).map(|pair| &text.as_bytes()[pair[0]..pair[1]]).collect();
            prop_assert_eq!(written(&pieces), visible(&text));
        }
    }

    #[test]
    fn what_is_ours_goes_through_and_what_looks_like_it_does_not() {
        let ours = own("\u{1b}[31mred\u{1b}[0m");
        assert_eq!(written(&[ours.as_bytes()]), "\u{1b}[31mred\u{1b}[0m");
        assert_eq!(written(&[b"\x1b[31m\x1b0123456789abcdef[0m"]), "\\u001b[31m\\u001b0123456789abcdef[0m");
        assert_eq!(written(&[b"\xff\xfe a"]), "\u{fffd}\u{fffd} a");
    }
}
