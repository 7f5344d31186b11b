//! Elements of a template's HTML that load files, or that a feature may write.

use std::ops::Range;
use std::sync::LazyLock;

use aho_corasick::packed::Searcher;
use html5gum::emitters::default::{DefaultEmitter, StartTag};
use html5gum::{Token, Tokenizer};
use memchr::memmem;

use super::{html_alone, name};
use crate::scan::script::inline;
use crate::scan::{Element, ElementKind, Inline, Named, Notes};

/// What a text has to hold for any such element to be in it.
const SIGNS: [&str; 11] =
    ["<script", "src", "poster", "<link", "<title", "<meta", "<object", "media/", "url(", "data-", "SRC"];

/// Do these stand in a text? Most texts hold none of them, so that all are looked for in one go.
fn has_signs(text: &str) -> bool {
    // Not every machine can do that.
    static SEARCHER: LazyLock<Option<Searcher>> = LazyLock::new(|| Searcher::new(SIGNS));
    match &*SEARCHER {
        Some(searcher) => searcher.find(text).is_some(),
        None => SIGNS.iter().any(|sign| memmem::find(text.as_bytes(), sign.as_bytes()).is_some()),
    }
}

/// Finds them, and the scripts that stand in the markup itself.
pub(super) fn elements(text: &str, notes: &mut Notes) -> (Vec<Element>, Vec<Inline>) {
    if !has_signs(text) && !is_loud(text) {
        return Default::default();
    }
    let Some(html) = html_alone(text) else { return Default::default() };
    let mut scripts = Vec::new();
    // The start tag of a script, and whether it is a module.
    let mut script: Option<(Range<usize>, bool)> = None;
    let mut emitter = DefaultEmitter::<usize>::new_with_span();
    emitter.naively_switch_states(true);
    let mut found = Vec::new();
    // An element that has an end tag, and where it begins.
    let mut open: Option<(Vec<u8>, usize)> = None;
    // How many elements are open in which a title is none of the page.
    let mut apart = 0usize;
    for token in Tokenizer::new_with_emitter(html.as_str(), emitter) {
        let Ok(token) = token;
        match token {
            Token::StartTag(tag) => {
                if is_apart(&tag.name) && !tag.self_closing {
                    apart += 1;
                }
                if apart > 0 && tag.name.eq_ignore_ascii_case(b"title") {
                    continue;
                }
                script = kind_of_script(&tag).map(|module| (tag.span.start..tag.span.end, module));
                let mut reader = Reader { text, html: &html, notes, found: &mut found };
                if reader.tag(&tag) {
                    open = Some((tag.name.to_vec(), found.len() - 1));
                }
            }
            Token::EndTag(tag) => {
                if is_apart(&tag.name) {
                    apart = apart.saturating_sub(1);
                }
                if let Some((start, module)) = script.take() {
                    let read = inline(text, &html, start.end..tag.span.start, module, notes);
                    let at = notes.at(start.start, start.end);
                    scripts.extend(read.map(|script| Inline { at, script }));
                }
                if let Some((_, at)) = open.take_if(|(name, _)| name.as_slice() == &**tag.name) {
                    let span = &mut notes.spans[found[at].at.0 as usize];
                    span.end = tag.span.end as u32;
                }
            }
            _ => {}
        }
    }
    (found, scripts)
}

/// Is this an element in which a title is none of the page: a drawing, or what a script may put somewhere?
fn is_apart(name: &[u8]) -> bool {
    name.eq_ignore_ascii_case(b"svg") || name.eq_ignore_ascii_case(b"template")
}

/// Is HTML written in capitals?
fn is_loud(text: &str) -> bool {
    let capital = |at: usize| text.as_bytes().get(at + 1).is_some_and(u8::is_ascii_uppercase);
    memchr::memchr_iter(b'<', text.as_bytes()).any(capital)
}

/// Of the start tag of a script that stands in the markup: is it a module?
fn kind_of_script(tag: &StartTag<usize>) -> Option<bool> {
    let value = |key: &str| {
        tag.attributes.get(key.as_bytes()).map(|value| String::from_utf8_lossy(&value.value).to_ascii_lowercase())
    };
    if tag.name.as_slice() != b"script" || value("src").is_some() {
        return None;
    }
    match value("type").unwrap_or_default().trim() {
        "module" => Some(true),
        "" | "text/javascript" | "application/javascript" => Some(false),
        _ => None,
    }
}

struct Reader<'t> {
    text: &'t str,
    html: &'t str,
    notes: &'t mut Notes,
    found: &'t mut Vec<Element>,
}

impl Reader<'_> {
    /// Notes what a start tag is for; true where its end tag belongs to it.
    fn tag(&mut self, tag: &StartTag<usize>) -> bool {
        let text = |key: &str| {
            let value = tag.attributes.get(key.as_bytes()).map(|value| &value.value)?;
            Some(String::from_utf8_lossy(value).to_ascii_lowercase())
        };
        let is = |key: &str, wanted: &str| {
            text(key).is_some_and(|value| value.split_ascii_whitespace().any(|word| word == wanted))
        };
        let element = String::from_utf8_lossy(&tag.name).to_ascii_lowercase();
        match element.as_str() {
            "title" => self.add(ElementKind::Title, tag, None),
            "meta" if is("name", "color-scheme") => self.add(ElementKind::ColourScheme, tag, None),
            "meta" if text("property").is_some_and(|value| value.starts_with("og:")) => {
                self.add(ElementKind::ShareCard, tag, None);
            }
            "link" if is("type", "application/atom+xml") => self.add(ElementKind::FeedLink, tag, None),
            "link" if is("rel", "stylesheet") => self.add(ElementKind::StyleSheet, tag, Some("href")),
            "link" => self.add(ElementKind::Resource, tag, Some("href")),
            "script" if text("src").is_some() => self.add(ElementKind::Script, tag, Some("src")),
            "a" => self.add(ElementKind::Link, tag, Some("href")),
            "object" => self.add(ElementKind::Resource, tag, Some("data")),
            _ => {
                for key in ["src", "poster"] {
                    self.add(ElementKind::Resource, tag, Some(key));
                }
            }
        }
        self.further(tag);
        matches!(element.as_str(), "title" | "script") && text("src").is_some() == (element == "script")
    }

    fn add(&mut self, kind: ElementKind, tag: &StartTag<usize>, key: Option<&str>) {
        let address = match key {
            None => None,
            Some(key) => match self.address(tag, key) {
                Some(found) => Some(found),
                None => return,
            },
        };
        let printed = address.is_some_and(|(_, printed)| printed);
        let at = self.notes.at(tag.span.start, tag.span.end);
        self.found.push(Element { kind, at, address: address.map(|(address, _)| address), printed });
    }

    /// Addresses in the middle of attributes: of `srcset`, of `style`, and those that scripts read.
    fn further(&mut self, tag: &StartTag<usize>) {
        for key in tag.attributes.keys() {
            let key = String::from_utf8_lossy(key).into_owned();
            let data = key.strip_prefix("data-").map(name);
            if !matches!(key.as_str(), "srcset" | "style") && data.is_none() {
                continue;
            }
            let Some((named, _)) = self.address(tag, &key) else { continue };
            let whole = self.notes.spans[named.at.0 as usize].range();
            let Some(text) = self.text.get(whole.clone()) else { continue };
            let parts = match key.as_str() {
                "srcset" => candidates(text),
                "style" => in_urls(text),
                _ => std::iter::once(0..text.len()).collect(),
            };
            for part in parts {
                let written = &text[part.clone()];
                let printed = written.contains("{{") || written.contains("{%");
                let address = self.notes.at(whole.start + part.start, whole.start + part.end);
                let address = Some(Named { name: name(written.trim()), at: address });
                let kind = data.map_or(ElementKind::Resource, ElementKind::Data);
                let at = self.notes.at(tag.span.start, tag.span.end);
                self.found.push(Element { kind, at, address, printed });
            }
        }
    }

    /// The address in an attribute, and whether an expression prints some of it.
    fn address(&mut self, tag: &StartTag<usize>, key: &str) -> Option<(Named, bool)> {
        let value = tag.attributes.get(key.as_bytes())?;
        let masked = String::from_utf8_lossy(&value.value).into_owned();
        let whole = self.html.get(tag.span.start..tag.span.end)?;
        // Values are searched for from where the library says they are: unquoted ones are off by one.
        let from = value.span.start.saturating_sub(1).max(tag.span.start) - tag.span.start;
        let start = tag.span.start + from + whole.get(from..)?.find(&masked)?;
        let end = start + masked.len();
        let written = self.text.get(start..end)?;
        let at = self.notes.at(start, end);
        Some((Named { name: name(written.trim()), at }, written.contains("{{") || written.contains("{%")))
    }
}

/// The addresses in a `srcset` (HTML, 4.8.4.2.1): each ends with a blank, or with a comma at its end. One that is printed
/// may hold both.
fn candidates(text: &str) -> Vec<std::ops::Range<usize>> {
    let mut found = Vec::new();
    let mut at = 0;
    while at < text.len() {
        at += text[at..].find(|c: char| !c.is_ascii_whitespace() && c != ',').unwrap_or(text.len() - at);
        let length = word(&text[at..]);
        let address = text[at..at + length].trim_end_matches(',');
        if !address.is_empty() {
            found.push(at..at + address.len());
        }
        // What follows up to the next comma is a width or density.
        let has_more = address.len() == length;
        at += length;
        if has_more {
            at += text[at..].find(',').unwrap_or(text.len() - at);
        }
    }
    found
}

/// How long a text is up to its first blank that stands in no expression.
fn word(text: &str) -> usize {
    let mut at = 0;
    while let Some(c) = text[at..].chars().next() {
        match text[at..].starts_with("{{") {
            true => at += text[at..].find("}}").map_or(text.len() - at, |end| end + 2),
            false if c.is_ascii_whitespace() => return at,
            false => at += c.len_utf8(),
        }
    }
    at
}

/// The addresses in the `url()` of a style.
fn in_urls(text: &str) -> Vec<std::ops::Range<usize>> {
    let mut found = Vec::new();
    for (at, _) in text.match_indices("url(") {
        let start = at + "url(".len();
        let Some(length) = text[start..].find(')') else { break };
        let inside = &text[start..start + length];
        let plain = inside.trim().trim_matches(['"', '\'']);
        let from = start + inside.find(plain).unwrap_or(0);
        if !plain.is_empty() {
            found.push(from..from + plain.len());
        }
    }
    found
}
