//! Where the attributes of a tag stand, which the tokenizer tells of their values only nearly; and what in a piece of
//! markup a browser would carry out.

use std::ops::Range;

use html5gum::emitters::default::DefaultEmitter;
use html5gum::{Token, Tokenizer};

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

/// Something in markup that a browser carries out.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Script {
    /// The bytes of it: of an attribute, those of its tag.
    pub range: Range<usize>,
    /// What it is, as it is shown to people: `<script>`, `onclick`, `href="javascript:…"`.
    pub what: String,
}

/// Elements of which the content is text, whatever stands in it (HTML, 13.2.5). In foreign content it isn't so.
const RAW_TEXT: [&[u8]; 9] =
    [b"title", b"textarea", b"style", b"xmp", b"iframe", b"noembed", b"noframes", b"noscript", b"plaintext"];

/// What a browser would carry out of a piece of markup that belongs to a page: scripts, handlers of events, addresses
/// that run as code, documents in attributes, and what changes where a page leads. Where it can't be told, as with
/// markup inside of what may be text, that counts, too.
pub fn scripts(html: &str) -> Vec<Script> {
    let mut emitter = DefaultEmitter::<usize>::new_with_span();
    emitter.naively_switch_states(true);
    let mut found = Vec::new();
    let mut is_raw = false;
    for token in Tokenizer::new_with_emitter(html, emitter) {
        let Ok(token) = token;
        match token {
            Token::StartTag(tag) => {
                let range = tag.span.start..tag.span.end;
                let name = String::from_utf8_lossy(&tag.name).to_ascii_lowercase();
                is_raw = RAW_TEXT.contains(&name.as_bytes());
                let mut push = |what: String| found.push(Script { range: range.clone(), what });
                if matches!(name.as_str(), "script" | "base" | "meta" | "plaintext") {
                    push(format!("<{name}>"));
                    continue;
                }
                for (key, value) in &tag.attributes {
                    let key = String::from_utf8_lossy(key).to_ascii_lowercase();
                    let value = String::from_utf8_lossy(&value.value);
                    if key.starts_with("on") || key == "srcdoc" {
                        push(key);
                    } else if !is_safe_address(&value) && key != "alt" && key != "title" {
                        push(format!("{key}=\"{}…\"", value.trim().chars().take(11).collect::<String>()));
                    }
                }
            }
            Token::EndTag(_) => is_raw = false,
            Token::String(text) if is_raw && text.contains(&b'<') => {
                found.push(Script { range: text.span.start..text.span.end, what: "markup inside of text".into() });
            }
            _ => {}
        }
    }
    found
}

/// Can this stand in an address? Schemes that run as code, and documents in the address itself, can't. Browsers leave
/// out blanks and control characters before they look (URL Standard, 4.4).
pub fn is_safe_address(address: &str) -> bool {
    let plain: String = address.chars().filter(|c| !c.is_control() && !c.is_whitespace()).take(24).collect();
    let plain = plain.to_ascii_lowercase();
    let runs = ["javascript:", "vbscript:"].iter().any(|scheme| plain.starts_with(scheme));
    let document = plain.starts_with("data:") && !plain.starts_with("data:image/") && !plain.starts_with("data:font/");
    !runs && !document
}

#[cfg(test)]
mod tests {
    use super::scripts;

    #[test]
    fn what_a_browser_carries_out_is_found() {
        for (html, what) in [
            ("<p>x</p><script>alert(1)</script>", "<script>"),
            ("<SCRIPT src=x>", "<script>"),
            ("<a href=\" java\tscript:alert(1)\">x</a>", "href=\"java\tscript…\""),
            ("<a href=\"&#106;avascript:alert(1)\">x</a>", "href=\"javascript:…\""),
            ("<img src=x onerror=alert(1)>", "onerror"),
            ("<svg><animate attributeName=href to=javascript:alert(1)>", "to=\"javascript:…\""),
            ("<iframe srcdoc=\"x\"></iframe>", "srcdoc"),
            ("<meta http-equiv=refresh content=0>", "<meta>"),
            ("<svg><style><img src=x onerror=alert(1)></style></svg>", "markup inside of text"),
            ("<object data=\"data:text/html,x\">", "data=\"data:text/h…\""),
        ] {
            let found = scripts(html);
            assert!(found.iter().any(|script| script.what == what), "{html}: {found:?}");
        }
        for harmless in [
            "<p class=\"on\" data-on=\"x\">javascript: is a scheme</p>",
            "<a href=\"/log/\" title=\"javascript: what it is\">x</a><img src=\"data:image/png;base64,AA\" alt=\"\">",
            "<style>a > b { color: red }</style><title>x</title><form action=\"/find/\"><input name=q></form>",
            "<!-- <script> --> &lt;script&gt;",
        ] {
            assert_eq!(scripts(harmless), [], "{harmless}");
        }
    }
}
