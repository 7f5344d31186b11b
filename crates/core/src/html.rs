//! Where the attributes of a tag stand: the tokenizer tells that of their values only nearly.

use std::ops::Range;

/// The attributes of a start tag as they are written: names, and where their values stand (HTML, 13.2.5.32 and on).
pub fn attribute_ranges(text: &str, tag: &Range<usize>) -> Vec<(String, Option<Range<usize>>)> {
    let bytes = text.as_bytes();
    let mut found = Vec::new();
    let mut at = tag.start + 1;
    let end = tag.end.saturating_sub(1);
    let is_blank = |at: usize| bytes[at].is_ascii_whitespace();
    while at < end && !is_blank(at) && bytes[at] != b'/' {
        at += 1;
    }
    while at < end {
        while at < end && (is_blank(at) || bytes[at] == b'/') {
            at += 1;
        }
        let start = at;
        while at < end && !is_blank(at) && bytes[at] != b'/' && (bytes[at] != b'=' || at == start) {
            at += 1;
        }
        let name = text.get(start..at).unwrap_or_default().to_string();
        let mut next = at;
        while next < end && is_blank(next) {
            next += 1;
        }
        let mut value = None;
        if next < end && bytes[next] == b'=' {
            at = next + 1;
            while at < end && is_blank(at) {
                at += 1;
            }
            match bytes.get(at) {
                Some(quote @ (b'"' | b'\'')) if at < end => {
                    let start = at + 1;
                    at = start;
                    while at < end && bytes[at] != *quote {
                        at += 1;
                    }
                    value = Some(start..at);
                    at += 1;
                }
                _ => {
                    let start = at;
                    while at < end && !is_blank(at) {
                        at += 1;
                    }
                    value = Some(start..at);
                }
            }
        }
        if !name.is_empty() {
            found.push((name, value));
        }
    }
    found
}
