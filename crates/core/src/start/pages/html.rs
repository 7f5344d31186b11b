//! A page's HTML as a row of tokens, each a stretch of its text: whatever is made of them keeps the bytes.

use std::ops::Range;

use html5gum::emitters::default::DefaultEmitter;
use html5gum::{Token as Gum, Tokenizer};

use crate::html::attribute_ranges;

/// An attribute: its name in small letters, and its value with references resolved.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Attribute {
    pub name: String,
    pub value: String,
    /// Where the value is written, without quotes; nothing where the attribute has none.
    pub range: Option<Range<usize>>,
}

/// What a token is.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Kind {
    Start {
        name: String,
        attributes: Vec<Attribute>,
    },
    End {
        name: String,
    },
    Text,
    Comment,
    Doctype,
    /// A menu, taken as a whole: its position among those of the page.
    Menu(usize),
}

/// A stretch of a page.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Token {
    pub kind: Kind,
    pub range: Range<usize>,
}

impl Token {
    /// The name of the element that it begins.
    pub fn starts(&self) -> Option<&str> {
        match &self.kind {
            Kind::Start { name, .. } => Some(name),
            _ => None,
        }
    }

    /// The name of the element that it ends.
    pub fn ends(&self) -> Option<&str> {
        match &self.kind {
            Kind::End { name } => Some(name),
            _ => None,
        }
    }

    pub fn attributes(&self) -> &[Attribute] {
        match &self.kind {
            Kind::Start { attributes, .. } => attributes,
            _ => &[],
        }
    }

    pub fn attribute(&self, name: &str) -> Option<&str> {
        self.attributes().iter().find(|attribute| attribute.name == name).map(|attribute| attribute.value.as_str())
    }

    /// Is there nothing to see of it?
    pub fn is_blank(&self, text: &str) -> bool {
        match self.kind {
            Kind::Comment => true,
            Kind::Text => text[self.range.clone()].trim().is_empty(),
            _ => false,
        }
    }
}

/// The tokens of a page; together they are all of its text.
pub fn tokens(text: &str) -> Vec<Token> {
    let mut emitter = DefaultEmitter::<usize>::new_with_span();
    emitter.naively_switch_states(true);
    let mut found: Vec<Token> = Vec::new();
    let mut at = 0;
    for token in Tokenizer::new_with_emitter(text, emitter) {
        let Ok(token) = token;
        let utf8 = |bytes: &[u8]| String::from_utf8_lossy(bytes).into_owned();
        let (kind, range) = match token {
            Gum::StartTag(tag) => {
                let range = tag.span.start..tag.span.end;
                let written = attribute_ranges(text, &range);
                let attributes = tag.attributes.iter().map(|(key, value)| {
                    let name = utf8(key);
                    let range = written.iter().find(|(known, _)| known.eq_ignore_ascii_case(&name));
                    Attribute { value: utf8(&value.value), range: range.and_then(|(_, range)| range.clone()), name }
                });
                (Kind::Start { name: utf8(&tag.name), attributes: attributes.collect() }, range)
            }
            Gum::EndTag(tag) => (Kind::End { name: utf8(&tag.name) }, tag.span.start..tag.span.end),
            Gum::Comment(comment) => (Kind::Comment, comment.span.start..comment.span.end),
            Gum::Doctype(doctype) => (Kind::Doctype, doctype.span.start..doctype.span.end),
            _ => continue,
        };
        if range.start < at || text.get(range.clone()).is_none() {
            continue;
        }
        if at < range.start {
            found.push(Token { kind: Kind::Text, range: at..range.start });
        }
        at = range.end;
        found.push(Token { kind, range });
    }
    if at < text.len() {
        found.push(Token { kind: Kind::Text, range: at..text.len() });
    }
    found
}

/// A text as HTML in which character references mean what they say.
pub fn decoded(text: &str) -> String {
    let mut found = String::new();
    let mut emitter = DefaultEmitter::<usize>::new_with_span();
    emitter.naively_switch_states(false);
    for token in Tokenizer::new_with_emitter(text, emitter) {
        let Ok(token) = token;
        if let Gum::String(text) = token {
            found.push_str(&String::from_utf8_lossy(&text.value));
        }
    }
    found
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    #[test]
    fn attributes_are_found_where_they_are_written() {
        let text =
            "<!DOCTYPE html><A HREF=a.html class='b c' data-x = \"d&amp;e\" disabled/>x</a><script>if (a<b) 1</script>";
        let all = tokens(text);
        let values: Vec<(&str, Option<&str>)> = all[1]
            .attributes()
            .iter()
            .map(|attribute| (attribute.name.as_str(), attribute.range.clone().map(|range| &text[range])))
            .collect();
        assert_eq!(
            values,
            [("class", Some("b c")), ("data-x", Some("d&amp;e")), ("disabled", None), ("href", Some("a.html"))]
        );
        assert_eq!(all[1].attribute("data-x"), Some("d&e"));
        assert_eq!(decoded("a &lt; b&nbsp;&copy;"), "a < b\u{a0}©");
    }

    proptest! {
        #[test]
        fn tokens_are_all_of_the_text(text in "[<>/a-c='\" !\\-&;\n]{0,60}") {
            let together: String = tokens(&text).iter().map(|token| &text[token.range.clone()]).collect();
            prop_assert_eq!(together, text);
        }
    }
}
