//! CSS selectors (Selectors Level 4), as far as they can be told of a template as it stands in the file: tags, ids,
//! classes, attributes, descendants and children.

use std::fmt;
use std::str::FromStr;

use cssparser::{Parser as CssParser, ToCss};
use selectors::attr::{AttrSelectorOperator, CaseSensitivity, ParsedCaseSensitivity};
use selectors::parser::{
    Combinator, Component, NonTSPseudoClass, ParseRelative, Parser, PseudoElement, SelectorImpl, SelectorList,
    SelectorParseErrorKind,
};

use super::EditError;
use super::elements::Element;

/// Finds elements of a template.
#[derive(Clone, Debug)]
pub struct Selector {
    written: String,
    list: SelectorList<Plain>,
}

/// What selectors are made of here: texts.
#[derive(Clone, Debug)]
struct Plain;

/// A piece of a selector.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
struct Text(String);

/// There are no pseudo-classes and pseudo-elements in a file.
#[derive(Clone, Debug, PartialEq, Eq)]
enum Never {}

impl<'a> From<&'a str> for Text {
    fn from(text: &'a str) -> Text {
        Text(text.to_string())
    }
}

impl AsRef<str> for Text {
    fn as_ref(&self) -> &str {
        &self.0
    }
}

impl ToCss for Text {
    fn to_css<W: fmt::Write>(&self, out: &mut W) -> fmt::Result {
        cssparser::serialize_identifier(&self.0, out)
    }
}

impl precomputed_hash::PrecomputedHash for Text {
    fn precomputed_hash(&self) -> u32 {
        // Only filters over many selectors would ask for it, and there are none.
        0
    }
}

impl ToCss for Never {
    fn to_css<W: fmt::Write>(&self, _: &mut W) -> fmt::Result {
        match *self {}
    }
}

impl NonTSPseudoClass for Never {
    fn is_active_or_hover(&self) -> bool {
        match *self {}
    }
    fn is_user_action_state(&self) -> bool {
        match *self {}
    }
}

impl PseudoElement for Never {}

impl SelectorImpl for Plain {
    type ExtraMatchingData<'a> = ();
    type AttrValue = Text;
    type Identifier = Text;
    type LocalName = Text;
    type NamespaceUrl = Text;
    type NamespacePrefix = Text;
    type BorrowedNamespaceUrl = Text;
    type BorrowedLocalName = Text;
    type NonTSPseudoClass = Never;
    type PseudoElement = Never;
}

impl<'i> Parser<'i> for Plain {
    type Impl = Plain;
    type Error = SelectorParseErrorKind;
}

impl FromStr for Selector {
    type Err = EditError;

    fn from_str(text: &str) -> Result<Selector, EditError> {
        let mut parser = CssParser::new(text);
        let list = SelectorList::parse(&Plain, &mut parser, ParseRelative::No);
        let list =
            list.ok().filter(|list| list.slice().iter().all(|selector| selector.iter_raw_match_order().all(is_known)));
        let Some(list) = list else {
            return Err(EditError::new(format!(
                "`{text}` is no selector that can be told of a file; write a tag, #id, .class or [attribute], with blanks or > \
                 for what it is in, as in \"footer > .notes\""
            )));
        };
        Ok(Selector { written: text.to_string(), list })
    }
}

fn is_known(part: &Component<Plain>) -> bool {
    match part {
        Component::Combinator(combinator) => matches!(combinator, Combinator::Child | Combinator::Descendant),
        Component::LocalName(_)
        | Component::ID(_)
        | Component::Class(_)
        | Component::AttributeInNoNamespaceExists { .. }
        | Component::AttributeInNoNamespace { .. }
        | Component::ExplicitUniversalType => true,
        _ => false,
    }
}

impl fmt::Display for Selector {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(&self.written)
    }
}

impl Selector {
    /// The elements that fit, in their order.
    pub(super) fn find<'e>(&self, elements: &'e [Element]) -> Vec<&'e Element> {
        let fits = |element: &&Element| self.list.slice().iter().any(|selector| fits(selector, elements, element));
        elements.iter().filter(fits).collect()
    }
}

fn fits(selector: &selectors::parser::Selector<Plain>, elements: &[Element], element: &Element) -> bool {
    // From right to left: what the element itself has to be, and then what it is in.
    let parts: Vec<&Component<Plain>> = selector.iter_raw_match_order().collect();
    let mut steps = parts.split(|part| matches!(part, Component::Combinator(_)));
    let combinators = parts.iter().filter_map(|part| match part {
        Component::Combinator(combinator) => Some(*combinator),
        _ => None,
    });
    let Some(own) = steps.next() else { return false };
    own.iter().all(|part| is(part, element))
        && are_above(&steps.zip(combinators).collect::<Vec<_>>(), elements, element)
}

fn are_above(steps: &[(&[&Component<Plain>], Combinator)], elements: &[Element], element: &Element) -> bool {
    let Some(((step, combinator), rest)) = steps.split_first() else { return true };
    let mut above = element.parent.map(|at| &elements[at]);
    while let Some(parent) = above {
        if step.iter().all(|part| is(part, parent)) && are_above(rest, elements, parent) {
            return true;
        }
        above = parent.parent.filter(|_| *combinator == Combinator::Descendant).map(|at| &elements[at]);
    }
    false
}

fn is(part: &Component<Plain>, element: &Element) -> bool {
    match part {
        Component::ExplicitUniversalType => true,
        Component::LocalName(name) => name.lower_name.0 == element.name,
        Component::ID(id) => element.attribute("id").is_some_and(|value| value.whole.as_deref() == Some(&*id.0)),
        Component::Class(class) => element.attribute("class").is_some_and(|value| value.words.contains(&class.0)),
        Component::AttributeInNoNamespaceExists { local_name_lower, .. } => {
            element.attribute(&local_name_lower.0).is_some()
        }
        Component::AttributeInNoNamespace { local_name, operator, value, case_sensitivity } => {
            let case = match case_sensitivity {
                ParsedCaseSensitivity::AsciiCaseInsensitive
                | ParsedCaseSensitivity::AsciiCaseInsensitiveIfInHtmlElementInHtmlDocument => {
                    CaseSensitivity::AsciiCaseInsensitive
                }
                _ => CaseSensitivity::CaseSensitive,
            };
            element.attribute(&local_name.0).is_some_and(|held| match (&held.whole, operator) {
                (Some(whole), _) => operator.eval_str(whole, &value.0, case),
                // Of what is printed into it only the words that stand there in full are known.
                (None, AttrSelectorOperator::Includes) => {
                    held.words.iter().any(|word| case.eq(word.as_bytes(), value.0.as_bytes()))
                }
                (None, _) => false,
            })
        }
        _ => false,
    }
}

#[cfg(test)]
mod tests {
    use super::super::elements::elements;
    use super::*;

    fn found(text: &str, selector: &str) -> Vec<String> {
        let elements = elements(text).unwrap();
        let selector: Selector = selector.parse().unwrap();
        selector.find(&elements).iter().map(|element| text[element.open.range()].to_string()).collect()
    }

    #[test]
    fn selectors_find_tags_ids_classes_descendants_and_children() {
        let html =
            r#"<main id="text" class="wide plain"><p>a<p class=b>c<br></main><FOOTER><div><p>d</p></div></FOOTER>"#;
        assert_eq!(found(html, "main.wide"), [r#"<main id="text" class="wide plain">"#]);
        assert_eq!(found(html, "#text .b"), ["<p class=b>"]);
        assert_eq!(found(html, "footer p"), ["<p>"]);
        assert_eq!(found(html, "footer > p"), [""; 0]);
        assert_eq!(found(html, "footer > div > p"), ["<p>"]);
        assert_eq!(found(html, "main footer"), [""; 0]);
        assert_eq!(found(html, "br, footer"), ["<br>", "<FOOTER>"]);
    }

    #[test]
    fn of_what_is_printed_into_an_attribute_only_whole_literal_words_count() {
        let html = r#"<a class="note note-{{ kind }} wide" href="/{{ to }}/" data-of='{{ x }}' {% if y %}rel="next"{% endif %}>"#;
        for fitting in [".note", ".wide", "[href]", "[data-of]", "[class~=note]", "[rel=next]", "a[rel^=ne]"] {
            assert_eq!(found(html, fitting).len(), 1, "{fitting}");
        }
        for not in [".note-", "[href='//']", "[href^='/']", "[data-of='x']", "[class=note]", ".note-xxxxxxxxxx"] {
            assert_eq!(found(html, not).len(), 0, "{not}");
        }
    }

    #[test]
    fn what_is_no_selector_is_refused() {
        for bad in ["", " ", "> a", "a:hover", "#", "p..x", "a + b", "a ~ b", "p::before", "p:first-child", ":not(a)"] {
            assert!(bad.parse::<Selector>().is_err(), "{bad}");
        }
    }
}
