//! The text of a page, in Markdown or HTML: the addresses in it.

use std::ops::Range;

use html5gum::Token;
use html5gum::Tokenizer;
use html5gum::emitters::default::DefaultEmitter;
use pulldown_cmark::{Event, Options, Parser, Tag};

use super::*;
use crate::html;
use crate::loads::{candidates, urls};

/// The Markdown that page bodies are written in: CommonMark with tables, footnotes and strikethrough.
pub const MARKDOWN: Options =
    Options::ENABLE_TABLES.union(Options::ENABLE_FOOTNOTES).union(Options::ENABLE_STRIKETHROUGH);

/// An address in HTML: where it stands, as written, and whether it is one that people follow.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Address {
    /// The bytes of it.
    pub range: Range<usize>,
    /// The address, as written.
    pub text: String,
    /// Is it followed by people, and not loaded with the page?
    pub followed: bool,
}

pub(super) fn scan(text: &str, is_html: bool) -> Facts {
    let mut notes = Notes::default();
    let mut shape = BodyShape::default();
    let found = if is_html { html_addresses(text) } else { markdown(text) };
    for address in found {
        let at = notes.at(address.range.start, address.range.end);
        let named = Named { name: name(&address.text), at };
        if address.followed { &mut shape.links } else { &mut shape.files }.push(named);
    }
    for (range, what) in scripts(text, is_html) {
        let at = notes.at(range.start, range.end);
        shape.scripts.push(Named { name: name(&what), at });
    }
    notes.facts(Shape::Body(Box::new(shape)))
}

/// What a browser would carry out of a body, with its place in the text.
fn scripts(text: &str, is_html: bool) -> Vec<(Range<usize>, String)> {
    let within = |range: Range<usize>| {
        let found = html::scripts(text.get(range.clone()).unwrap_or_default()).into_iter();
        found.map(move |script| (script.range.start + range.start..script.range.end + range.start, script.what))
    };
    if is_html {
        return within(0..text.len()).collect();
    }
    let mut found = Vec::new();
    for (event, range) in Parser::new_ext(text, MARKDOWN).into_offset_iter() {
        match event {
            Event::Start(Tag::HtmlBlock) | Event::InlineHtml(_) => found.extend(within(range)),
            Event::Start(Tag::Link { dest_url: url, .. } | Tag::Image { dest_url: url, .. })
                if !html::is_safe_address(&url) =>
            {
                found.push((range, format!("({}…)", url.chars().take(11).collect::<String>())));
            }
            _ => {}
        }
    }
    found
}

fn markdown(text: &str) -> Vec<Address> {
    let mut found: Vec<Address> = Vec::new();
    for (event, range) in Parser::new_ext(text, MARKDOWN).into_offset_iter() {
        match event {
            Event::Start(Tag::Link { dest_url, .. }) => found.extend(at(text, range, &dest_url, true)),
            Event::Start(Tag::Image { dest_url, .. }) => found.extend(at(text, range, &dest_url, false)),
            Event::Html(_) | Event::InlineHtml(_) => {
                let inside = html_addresses(text.get(range.clone()).unwrap_or_default());
                found.extend(inside.into_iter().map(|address| Address {
                    range: address.range.start + range.start..address.range.end + range.start,
                    ..address
                }));
            }
            _ => {}
        }
    }
    found
}

/// The address in a link or image; one that is defined elsewhere is shown where it is used.
fn at(text: &str, range: Range<usize>, url: &str, followed: bool) -> Option<Address> {
    let inside = text.get(range.clone())?;
    // What comes last is the address, whatever the words of the link say.
    let range = match inside.rfind(url) {
        Some(start) if !url.is_empty() => range.start + start..range.start + start + url.len(),
        _ => range,
    };
    Some(Address { range, text: url.to_string(), followed })
}

/// Finds the addresses in the value of an attribute that has several.
type Several = fn(&str) -> Vec<Range<usize>>;

/// The addresses in a piece of HTML.
pub fn html_addresses(html: &str) -> Vec<Address> {
    let mut found = Vec::new();
    let mut emitter = DefaultEmitter::<usize>::new_with_span();
    emitter.naively_switch_states(true);
    for token in Tokenizer::new_with_emitter(html, emitter) {
        let Ok(Token::StartTag(tag)) = token else { continue };
        let element = String::from_utf8_lossy(&tag.name).to_ascii_lowercase();
        for (key, value) in &tag.attributes {
            let several: Option<Several> = match &key[..] {
                b"srcset" | b"imagesrcset" => Some(candidates),
                b"style" => Some(urls),
                _ => None,
            };
            let followed = match (element.as_str(), &key[..]) {
                ("a" | "area", b"href") => true,
                ("link", b"href") | (_, b"src" | b"poster" | b"background") | ("object", b"data") => false,
                _ if several.is_some() => false,
                _ => continue,
            };
            let written = String::from_utf8_lossy(&value.value).into_owned();
            // Values are searched for from where the library says they are: unquoted ones are off by one.
            let from = value.span.start.saturating_sub(1).max(tag.span.start);
            let Some(start) = html.get(from..tag.span.end).and_then(|rest| rest.find(&written)) else { continue };
            let range = from + start..from + start + written.len();
            if let Some(several) = several {
                found.extend(several(&written).into_iter().map(|part| Address {
                    text: written[part.clone()].to_string(),
                    range: range.start + part.start..range.start + part.end,
                    followed,
                }));
                continue;
            }
            found.push(Address { range, text: written.trim().to_string(), followed });
        }
    }
    found.sort_by_key(|address| address.range.start);
    found
}
