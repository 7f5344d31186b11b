//! The elements of a template's HTML, and the selectors that find them.

use std::str::FromStr;

use html5gum::emitters::default::DefaultEmitter;
use html5gum::{Token, Tokenizer};

use super::EditError;
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
}

/// An element of a template.
#[derive(Clone, Debug)]
pub(super) struct Element {
    pub name: String,
    id: Option<String>,
    classes: Vec<String>,
    parent: Option<usize>,
    /// Its start tag.
    pub open: Span,
    /// Its end tag, if it has one.
    pub close: Option<Span>,
}

impl Element {
    /// How it may be found, the shortest first.
    pub fn selectors(&self) -> Vec<String> {
        let classes = self.classes.iter().map(|class| format!("{}.{class}", self.name));
        let id = self.id.iter().map(|id| format!("#{id}"));
        [self.name.clone()].into_iter().chain(id).chain(classes).collect()
    }
}

/// All elements of a text, in their order.
pub(super) fn elements(html: &str) -> Vec<Element> {
    let mut emitter = DefaultEmitter::<usize>::new_with_span();
    emitter.naively_switch_states(true);
    let mut found: Vec<Element> = Vec::new();
    let mut open: Vec<usize> = Vec::new();
    for token in Tokenizer::new_with_emitter(html, emitter) {
        let Ok(token) = token;
        match token {
            Token::StartTag(tag) => {
                let text = |bytes: &[u8]| String::from_utf8_lossy(bytes).into_owned();
                let attribute = |name: &[u8]| tag.attributes.get(name).map(|value| text(&value.value));
                let name = text(&tag.name);
                let classes = attribute(b"class").unwrap_or_default();
                let is_void = tag.self_closing || VOID.contains(&name.as_str());
                found.push(Element {
                    name,
                    id: attribute(b"id"),
                    classes: classes.split_ascii_whitespace().map(str::to_string).collect(),
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

/// One step of a selector: what an element has to be.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
struct Step {
    name: Option<String>,
    id: Option<String>,
    classes: Vec<String>,
}

/// Finds elements: a tag, `#id`, `.class`, any of them together, and descendants by a blank, as in
/// `footer .notes`. These are the plainest of CSS selectors.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Selector {
    steps: Vec<Step>,
}

impl FromStr for Selector {
    type Err = EditError;

    fn from_str(text: &str) -> Result<Selector, EditError> {
        let bad = || {
            EditError::new(format!(
                "`{text}` is no selector; write a tag, #id or .class, or several with blanks, as in \"footer .notes\""
            ))
        };
        let steps: Option<Vec<Step>> = text.split_ascii_whitespace().map(step).collect();
        let steps = steps.filter(|steps| !steps.is_empty()).ok_or_else(bad)?;
        Ok(Selector { steps })
    }
}

fn step(word: &str) -> Option<Step> {
    let mut step = Step::default();
    let mut rest = word;
    while !rest.is_empty() {
        let (mark, name) = match rest.chars().next()? {
            mark @ ('#' | '.') => (mark, &rest[1..]),
            _ if rest.len() == word.len() => (' ', rest),
            _ => return None,
        };
        let end = name.find(['#', '.']).unwrap_or(name.len());
        let (name, after) = name.split_at(end);
        let good = !name.is_empty() && name.chars().all(|c| c.is_alphanumeric() || c == '-' || c == '_');
        match mark {
            _ if !good => return None,
            '#' => step.id = Some(name.to_string()),
            '.' => step.classes.push(name.to_string()),
            _ => step.name = Some(name.to_ascii_lowercase()),
        }
        rest = after;
    }
    Some(step)
}

impl Step {
    fn fits(&self, element: &Element) -> bool {
        self.name.as_ref().is_none_or(|name| *name == element.name)
            && self.id.as_ref().is_none_or(|id| element.id.as_ref() == Some(id))
            && self.classes.iter().all(|class| element.classes.contains(class))
    }
}

impl Selector {
    /// The elements that fit.
    pub(super) fn find<'e>(&self, elements: &'e [Element]) -> Vec<&'e Element> {
        elements.iter().filter(|element| self.fits(elements, element)).collect()
    }

    fn fits(&self, elements: &[Element], element: &Element) -> bool {
        let Some((last, above)) = self.steps.split_last() else { return false };
        if !last.fits(element) {
            return false;
        }
        let mut above = above.iter().rev().peekable();
        let mut parent = element.parent;
        while let (Some(step), Some(at)) = (above.peek(), parent) {
            if step.fits(&elements[at]) {
                above.next();
            }
            parent = elements[at].parent;
        }
        above.peek().is_none()
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn found(html: &str, selector: &str) -> Vec<String> {
        let elements = elements(html);
        let selector: Selector = selector.parse().unwrap();
        selector.find(&elements).iter().map(|element| html[element.open.range()].to_string()).collect()
    }

    #[test]
    fn selectors_find_tags_ids_classes_and_descendants() {
        let html = r#"<main id="text" class="wide plain"><p>a<p class=b>c<br></main><footer><p>d</p></footer>"#;
        assert_eq!(found(html, "main.wide"), [r#"<main id="text" class="wide plain">"#]);
        assert_eq!(found(html, "#text .b"), ["<p class=b>"]);
        assert_eq!(found(html, "footer p"), ["<p>"]);
        assert_eq!(found(html, "main footer"), [""; 0]);
    }

    #[test]
    fn elements_know_their_end_tags_and_scripts_hold_none() {
        let html = "<div><script>if (a<b) '<p>'</script><img src=x></div>";
        let elements = elements(html);
        let names: Vec<&str> = elements.iter().map(|element| element.name.as_str()).collect();
        assert_eq!(names, ["div", "script", "img"]);
        assert_eq!(&html[elements[0].close.unwrap().range()], "</div>");
    }

    #[test]
    fn what_is_no_selector_is_refused() {
        for bad in ["", " ", "a > b", "[href]", "a:hover", "#", "p..x"] {
            assert!(bad.parse::<Selector>().is_err(), "{bad}");
        }
    }
}
