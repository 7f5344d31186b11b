//! Lists of links in a nav: menus, each taken as a whole.

use std::ops::Range;

use super::html::{Kind, Token, decoded};

/// A list of links.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Menu {
    /// The tokens that it was made of: from the list's start tag to its end tag.
    pub tokens: Vec<Token>,
    pub items: Vec<Item>,
    /// The words of the nav that it stands in: its id, classes and label.
    pub nav: Vec<String>,
    /// The stretches of its text around the items: before the first, between two, behind the last.
    pub lead: Range<usize>,
    pub gap: Option<Range<usize>>,
    pub trail: Range<usize>,
}

/// One entry: `<li class="here"><a href="…">Label</a></li>`.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Item {
    pub label: String,
    /// Where it leads; nothing where it is no link, since it is the page at hand.
    pub href: Option<String>,
    /// The stretch from its first tag to its last.
    pub range: Range<usize>,
    /// The tag of the list item, the one of the link, and where the label stands.
    pub li: Option<Token>,
    pub link: Token,
    pub text: Range<usize>,
}

/// Tokens in which each list of links that stands in a nav is one token.
pub fn collapsed(text: &str, tokens: Vec<Token>) -> (Vec<Token>, Vec<Menu>) {
    let mut found: Vec<Token> = Vec::new();
    let mut menus: Vec<Menu> = Vec::new();
    let mut navs: Vec<Vec<String>> = Vec::new();
    let mut at = 0;
    while at < tokens.len() {
        let token = &tokens[at];
        if token.starts() == Some("nav") {
            let words = ["id", "class", "aria-label"].into_iter().filter_map(|name| token.attribute(name));
            navs.push(words.map(str::to_string).collect());
        } else if token.ends() == Some("nav") {
            navs.pop();
        }
        let is_list = matches!(token.starts(), Some("ul" | "ol" | "menu"));
        let menu = navs.last().filter(|_| is_list).and_then(|nav| menu(text, &tokens, at, nav));
        match menu {
            Some(menu) => {
                let range = token.range.start..menu.tokens[menu.tokens.len() - 1].range.end;
                at += menu.tokens.len();
                found.push(Token { kind: Kind::Menu(menus.len()), range });
                menus.push(menu);
            }
            None => {
                found.push(tokens[at].clone());
                at += 1;
            }
        }
    }
    (found, menus)
}

/// The menu that a list's start tag begins, where it is nothing but links.
fn menu(text: &str, tokens: &[Token], start: usize, nav: &[String]) -> Option<Menu> {
    let list = tokens[start].starts()?;
    let mut items: Vec<Item> = Vec::new();
    let mut at = start + 1;
    let skip = |at: &mut usize| {
        while tokens.get(*at).is_some_and(|token| matches!(token.kind, Kind::Text) && token.is_blank(text)) {
            *at += 1;
        }
    };
    loop {
        skip(&mut at);
        let token = tokens.get(at)?;
        if token.ends() == Some(list) {
            break;
        }
        let first = at;
        if token.starts() != Some("li") {
            return None;
        }
        let li = token.clone();
        at += 1;
        skip(&mut at);
        let link = tokens.get(at).filter(|token| token.starts().is_some_and(|name| LINKS.contains(&name)))?.clone();
        let element = link.starts()?;
        let href = match element {
            "a" => Some(link.attribute("href")?.to_string()),
            _ => None,
        };
        at += 1;
        let label = tokens.get(at).filter(|token| matches!(token.kind, Kind::Text))?;
        let words = label.range.clone();
        at += 1;
        tokens.get(at).filter(|token| token.ends() == Some(element))?;
        let mut last = at;
        at += 1;
        skip(&mut at);
        if tokens.get(at)?.ends() == Some("li") {
            last = at;
            at += 1;
        }
        items.push(Item {
            label: decoded(&text[words.clone()]),
            href,
            range: tokens[first].range.start..tokens[last].range.end,
            li: Some(li),
            link,
            text: words,
        });
    }
    let (first, last) = (items.first()?, items.last()?);
    let gap = (items.len() > 1).then(|| items[0].range.end..items[1].range.start);
    let (lead, trail) = (tokens[start].range.start..first.range.start, last.range.end..tokens[at].range.end);
    let even = items.windows(2).all(|pair| {
        let between = &text[pair[0].range.end..pair[1].range.start];
        gap.as_ref().is_some_and(|gap| &text[gap.clone()] == between)
    });
    let mut links = items.iter().filter(|item| item.href.is_some());
    let shape = links.next()?.shape(text);
    let alike = links.all(|item| item.shape(text) == shape);
    let others = items.iter().filter(|item| item.href.is_none()).count();
    (items.len() > 1 && even && alike && others < 2).then(|| Menu {
        tokens: tokens[start..=at].to_vec(),
        nav: nav.to_vec(),
        lead,
        gap,
        trail,
        items: items.clone(),
    })
}

/// Elements that an entry's label stands in; only the first of them leads anywhere.
const LINKS: [&str; 5] = ["a", "span", "strong", "b", "em"];
/// Attributes that tell whether an entry is the page at hand.
const MARKS: [&str; 2] = ["class", "aria-current"];

impl Item {
    /// All of it but the label, the address and the marks of the present page.
    fn shape(&self, text: &str) -> String {
        let mut shape = String::new();
        let mut at = self.range.start;
        let tags = [self.li.as_ref(), Some(&self.link)];
        for tag in tags.into_iter().flatten() {
            shape.push_str(&text[at..tag.range.start]);
            shape.push_str(tag.starts().unwrap_or_default());
            let kept = tag
                .attributes()
                .iter()
                .filter(|attribute| !MARKS.contains(&attribute.name.as_str()) && attribute.name != "href");
            shape.extend(kept.map(|attribute| format!(" {}={}", attribute.name, attribute.value)));
            at = tag.range.end;
        }
        shape.push_str(&text[at..self.text.start]);
        shape.push_str(&text[self.text.end..self.range.end]);
        shape
    }

    /// What its tags say in place of the marks.
    pub fn marks(&self) -> Vec<Option<String>> {
        let tags = [self.li.as_ref(), Some(&self.link)];
        let all = tags.into_iter().flatten().flat_map(|tag| MARKS.map(|name| tag.attribute(name).map(str::to_string)));
        all.collect()
    }

    /// The item as a template writes it where it is no link, with the label by this text.
    pub fn unlinked(&self, text: &str, label: &str) -> String {
        format!("{}{label}{}", &text[self.range.start..self.text.start], &text[self.text.end..self.range.end])
    }

    /// The item as a template writes it, with other marks, the address and the label by these texts.
    pub fn written(&self, text: &str, marks: &[String], href: &str, label: &str) -> String {
        let mut out = String::new();
        let mut at = self.range.start;
        let mut marks = marks.iter();
        for tag in [self.li.as_ref(), Some(&self.link)].into_iter().flatten() {
            out.push_str(&text[at..tag.range.start]);
            out.push('<');
            out.push_str(tag.starts().unwrap_or_default());
            for attribute in tag.attributes().iter().filter(|attribute| !MARKS.contains(&attribute.name.as_str())) {
                match (attribute.name.as_str(), &attribute.range) {
                    ("href", _) => out.push_str(&format!(" href=\"{href}\"")),
                    (name, None) => out.push_str(&format!(" {name}")),
                    (name, Some(range)) => {
                        out.push_str(&format!(" {name}=\"{}\"", text[range.clone()].replace('"', "&quot;")))
                    }
                }
            }
            for _ in MARKS {
                out.push_str(marks.next().map(String::as_str).unwrap_or_default());
            }
            out.push('>');
            at = tag.range.end;
        }
        out.push_str(&text[at..self.text.start]);
        out.push_str(label);
        out.push_str(&text[self.text.end..self.range.end]);
        out
    }
}

/// The names of the attributes in the order of [`Item::marks`].
pub fn mark_names(items: &[Item]) -> Vec<&'static str> {
    let tags = items.first().map_or(0, |item| usize::from(item.li.is_some()) + 1);
    MARKS.into_iter().cycle().take(tags * MARKS.len()).collect()
}
