//! Elements of a layout that differ from page to page: in where a link leads, and in what marks the page at hand.

use std::fmt::Write;

use super::Fate;
use super::address::Into;
use super::common::{Group, VARYING, own, said};
use super::html::Token;
use super::markup::{Writing, written_out};
use super::parts::Page;

/// The values of an attribute, each with the pages that have it; nothing where they have none.
type Values = Vec<(Option<String>, Vec<usize>)>;

impl Writing<'_, '_> {
    /// A start tag with what differs under the condition of its pages; nothing where nothing does.
    pub(super) fn varied(&mut self, page: &Page, number: usize) -> Option<String> {
        let group = self.group.clone().filter(|group| group.pages.len() > 1)?;
        let token = &page.tokens[number];
        let name = token.starts()?;
        let others = self.counterparts(page, number, &group)?;
        let differs = |attribute: &&str| {
            let says = |(at, other): &(usize, Token)| {
                other.attribute(attribute).map(|value| said(&self.whole.site, &self.whole.pages[*at], value))
            };
            others.windows(2).any(|pair| says(&pair[0]) != says(&pair[1]))
        };
        let differing: Vec<&str> = VARYING.into_iter().filter(differs).collect();
        if differing.is_empty() {
            return None;
        }
        let mut tag = format!("<{name}");
        for attribute in token.attributes().iter().filter(|attribute| !differing.contains(&attribute.name.as_str())) {
            let value = self.value(page, token, &attribute.name);
            tag.push_str(&written(&attribute.name, value.as_deref()));
        }
        for attribute in differing {
            let mut values: Values = Vec::new();
            for (at, other) in &others {
                let value = self.value(&self.whole.pages[*at], other, attribute);
                match values.iter_mut().find(|(known, _)| *known == value) {
                    Some((_, pages)) => pages.push(*at),
                    None => values.push((value, vec![*at])),
                }
            }
            tag.push_str(&self.chosen(attribute, values));
        }
        tag.push('>');
        Some(tag)
    }

    /// The same token on each page of a group.
    fn counterparts(&self, page: &Page, number: usize, group: &Group) -> Option<Vec<(usize, Token)>> {
        let from_start = number.checked_sub(page.body.start)?;
        let from_end = page.body.end.checked_sub(number)?;
        let is_before = number < own(page, group).start;
        let token = |at: &usize| {
            let other = &self.whole.pages[*at];
            let number =
                if is_before { other.body.start + from_start } else { other.body.end.checked_sub(from_end)? };
            Some((*at, other.tokens.get(number)?.clone()))
        };
        group.pages.iter().map(token).collect()
    }

    /// What a template writes as the value of an attribute; nothing where the element has none.
    fn value(&mut self, page: &Page, token: &Token, attribute: &str) -> Option<String> {
        let known = token.attributes().iter().find(|known| known.name == attribute)?;
        let range = known.range.clone()?;
        let new = self.whole.site.replacements(&page.file, &page.text, token, Into::Template, self.met);
        let own = new.into_iter().filter(|(new, _)| range.start <= new.start && new.end <= range.end).collect();
        let value = super::address::rewritten(&page.text, range, own, written_out);
        Some(value.replace('"', "&quot;").replace("asset(&quot;", "asset(\"").replace("&quot;) }}", "\") }}"))
    }

    /// An attribute with its values by page. The value of most pages is that of any other page, too.
    fn chosen(&self, attribute: &str, mut values: Values) -> String {
        values.sort_by_key(|(_, pages)| pages.len());
        let Some((usual, _)) = values.pop() else { return String::new() };
        let usual = usual.map(|value| written(attribute, Some(&value))).unwrap_or_default();
        let mut out = String::new();
        for (number, (value, pages)) in values.iter().enumerate() {
            let word = if number == 0 { "if" } else { "elif" };
            let value = value.as_ref().map(|value| written(attribute, Some(value))).unwrap_or_default();
            let _ = write!(out, "{{% {word} {} %}}{value}", self.whole.condition(pages));
        }
        match (out.is_empty(), usual.is_empty()) {
            (true, _) => usual,
            (false, true) => out + "{% endif %}",
            (false, false) => format!("{out}{{% else %}}{usual}{{% endif %}}"),
        }
    }

    /// Tells which header or footer stays in the text of each page, since more differs than what can be asked of a page.
    pub(super) fn tell_own(&mut self, group: &Group) {
        if group.pages.len() < 2 {
            return;
        }
        let page = &self.whole.pages[group.pages[0]];
        for at in own(page, group) {
            let Some(name @ ("header" | "nav" | "footer")) = page.tokens[at].starts() else { continue };
            let inside_other = page.tokens[own(page, group).start..at]
                .iter()
                .any(|token| token.starts().is_some_and(|name| ["main", "article", "section"].contains(&name)));
            if inside_other {
                continue;
            }
            let now = "it differs from page to page, so each page's text has its own".to_string();
            let fate = Fate { file: page.file.clone(), line: page.line(at), what: format!("<{name}>"), now };
            if !self.taken.left.contains(&fate) {
                self.taken.left.push(fate);
            }
        }
    }
}

/// ` name="value"`, or the name alone.
fn written(name: &str, value: Option<&str>) -> String {
    value.map_or_else(|| format!(" {name}"), |value| format!(" {name}=\"{value}\""))
}
