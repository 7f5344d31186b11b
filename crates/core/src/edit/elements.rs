//! The elements of a template's HTML, as they stand in the file.

use html5gum::emitters::default::DefaultEmitter;
use html5gum::{Token, Tokenizer};

use super::Selector;
use crate::html::attribute_ranges;
use crate::scan::html_alone;
use crate::source::Span;

/// Elements that have no content (HTML, 13.1.2 "Elements").
const VOID: [&str; 13] =
    ["area", "base", "br", "col", "embed", "hr", "img", "input", "link", "meta", "source", "track", "wbr"];

/// Where something goes, seen from an element.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Position {
    /// Right before it.
    Before,
    /// Right after it.
    After,
    /// As its last child.
    Inside,
    /// In the place of all that it holds.
    Instead,
}

/// An element of a template.
#[derive(Clone, Debug)]
pub(super) struct Element {
    /// In small letters.
    pub name: String,
    attributes: Vec<(String, Held)>,
    /// The element that it is in, by its number.
    pub parent: Option<usize>,
    /// Its start tag.
    pub open: Span,
    /// Its end tag, if it has one.
    pub close: Option<Span>,
}

/// What an attribute holds.
#[derive(Clone, Debug)]
pub(super) struct Held {
    /// All of it; nothing where an expression stands in it.
    pub whole: Option<String>,
    /// The words that stand there in full.
    pub words: Vec<String>,
}

impl Element {
    /// What an attribute holds; its name in small letters.
    pub fn attribute(&self, name: &str) -> Option<&Held> {
        self.attributes.iter().find(|(known, _)| known == name).map(|(_, held)| held)
    }

    /// How it may be found, the shortest first.
    pub fn selectors(&self) -> Vec<String> {
        let classes = self.attribute("class").into_iter().flat_map(|held| &held.words);
        let classes = classes.map(|class| format!("{}.{class}", self.name));
        let id = self.attribute("id").and_then(|held| held.whole.as_ref()).map(|id| format!("#{id}"));
        [self.name.clone()].into_iter().chain(id).chain(classes).collect()
    }

    /// Does it stand between two places?
    pub fn is_within(&self, span: Span) -> bool {
        span.start <= self.open.start && self.close.unwrap_or(self.open).end <= span.end
    }
}

/// All elements of a template, in their order. Nothing where its tags can't be told apart.
pub(super) fn elements(text: &str) -> Option<Vec<Element>> {
    Some(elements_of(text, &html_alone(text)?))
}

/// The elements of a page that a selector finds: the start tag of each, and all of it.
pub fn find_in_page(html: &str, selector: &Selector) -> Vec<(Span, Span)> {
    let elements = elements_of(html, html);
    let whole = |element: &Element| Span { end: element.close.unwrap_or(element.open).end, ..element.open };
    selector.find(&elements).into_iter().map(|element| (element.open, whole(element))).collect()
}

/// The elements of a text; `html` is the same without what prints in it.
fn elements_of(text: &str, html: &str) -> Vec<Element> {
    let mut emitter = DefaultEmitter::<usize>::new_with_span();
    emitter.naively_switch_states(true);
    let mut found: Vec<Element> = Vec::new();
    let mut open: Vec<usize> = Vec::new();
    for token in Tokenizer::new_with_emitter(html, emitter) {
        let Ok(token) = token;
        match token {
            Token::StartTag(tag) => {
                let name = String::from_utf8_lossy(&tag.name).into_owned();
                let is_void = tag.self_closing || VOID.contains(&name.as_str());
                let written = attribute_ranges(html, &(tag.span.start..tag.span.end));
                let attributes = tag.attributes.iter().map(|(key, value)| {
                    let key = String::from_utf8_lossy(key).into_owned();
                    let range = written.iter().find(|(known, _)| known.eq_ignore_ascii_case(&key));
                    let range = range.and_then(|(_, range)| range.clone()).unwrap_or(0..0);
                    let decoded = String::from_utf8_lossy(&value.value).into_owned();
                    let held = held(text, html, range, decoded);
                    (key, held)
                });
                found.push(Element {
                    name,
                    attributes: attributes.collect(),
                    parent: open.last().copied(),
                    open: Span::new(tag.span.start, tag.span.end),
                    close: None,
                });
                if !is_void {
                    open.push(found.len() - 1);
                }
            }
            Token::EndTag(tag) => {
                // An element that was not closed ends with the one that it is in.
                let known = open.iter().rposition(|at| found[*at].name.as_bytes() == &**tag.name);
                if let Some(level) = known {
                    found[open[level]].close = Some(Span::new(tag.span.start, tag.span.end));
                    open.truncate(level);
                }
            }
            _ => {}
        }
    }
    found
}

/// What an attribute holds: `text` is the template, `html` the same without its expressions.
fn held(text: &str, html: &str, range: std::ops::Range<usize>, decoded: String) -> Held {
    let (Some(written), Some(alone)) = (text.get(range.clone()), html.get(range)) else {
        return Held { whole: None, words: Vec::new() };
    };
    if written == alone {
        let words = decoded.split_ascii_whitespace().map(str::to_string).collect();
        return Held { whole: Some(decoded), words };
    }
    let start = alone.as_ptr() as usize;
    let is_literal = |word: &&str| {
        let at = word.as_ptr() as usize - start;
        written.get(at..at + word.len()) == Some(*word)
    };
    Held { whole: None, words: alone.split_ascii_whitespace().filter(is_literal).map(str::to_string).collect() }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn elements_know_their_end_tags_and_scripts_hold_none() {
        let html = "<div><script>if (a<b) '<p>'</script><img src=x></div>";
        let elements = elements(html).unwrap();
        let names: Vec<&str> = elements.iter().map(|element| element.name.as_str()).collect();
        assert_eq!(names, ["div", "script", "img"]);
        assert_eq!(&html[elements[0].close.unwrap().range()], "</div>");
    }
}
