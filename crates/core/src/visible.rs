//! Texts of a theme as they are shown: nothing in them steers a terminal or turns the order of letters around.

use std::borrow::Cow;
use std::fmt::Write;

/// Does a character steer what shows it, rather than being shown: the control characters of Unicode (C0, DEL, C1) but
/// for tabs and line feeds, what sets the direction of writing, and the separators of lines and paragraphs?
pub fn is_hidden_control(c: char) -> bool {
    match c {
        '\t' | '\n' => false,
        '\u{61c}' | '\u{200e}' | '\u{200f}' | '\u{2028}'..='\u{202e}' | '\u{2066}'..='\u{2069}' => true,
        c => c.is_control(),
    }
}

/// Has a text any such character?
pub fn has_hidden_control(text: &str) -> bool {
    // Most texts are told by their bytes: what is beyond ASCII begins with 0xc2 at least.
    let may_be = |byte: u8| byte < 0x20 && byte != b'\n' && byte != b'\t' || byte == 0x7f || byte >= 0xc2;
    text.bytes().any(may_be) && text.chars().any(is_hidden_control)
}

/// A text with each such character written out, as `\u001b`: as JSON and ECMAScript write it. A carriage return at the
/// end of a line stays.
pub fn visible(text: &str) -> Cow<'_, str> {
    if !has_hidden_control(text) {
        return Cow::Borrowed(text);
    }
    let mut shown = String::with_capacity(text.len() + 16);
    let mut chars = text.chars().peekable();
    while let Some(c) = chars.next() {
        match c {
            '\r' if chars.peek() == Some(&'\n') => shown.push(c),
            c if is_hidden_control(c) => push(&mut shown, c),
            c => shown.push(c),
        }
    }
    Cow::Owned(shown)
}

/// Writes one character out.
pub fn push(shown: &mut String, c: char) {
    // A string takes all that is written to it.
    let _ = write!(shown, "\\u{:04x}", u32::from(c));
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_steers_is_written_out_and_all_else_stays() {
        let all: String = (0..=0xffff).filter_map(char::from_u32).collect();
        let shown = visible(&all);
        assert!(!shown.chars().any(is_hidden_control));
        assert!(shown.contains("\\u001b") && shown.contains("\\u009b") && shown.contains("\\u202e"));
        assert_eq!(visible("tide\tüber\r\nלילה 🦀"), "tide\tüber\r\nלילה 🦀");
        assert_eq!(visible("over\rwritten"), "over\\u000dwritten");
        // As JSON, it is the same text.
        let json = serde_json::to_string(&all).unwrap();
        assert_eq!(serde_json::from_str::<String>(&visible(&json)).unwrap(), all);
    }
}
