//! Lists of links: menus, each taken as a whole.

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

/// Tokens in which each list of links is one token, as far as it is wanted.
pub fn collapsed(text: &str, tokens: Vec<Token>, wanted: &dyn Fn(&Menu) -> bool) -> (Vec<Token>, Vec<Menu>) {
    let mut found: Vec<Token> = Vec::new();
    let mut menus: Vec<Menu> = Vec::new();
    let mut around: Vec<Vec<String>> = Vec::new();
    let mut at = 0;
    while at < tokens.len() {
        let token = &tokens[at];
        if token.starts() == Some("nav") {
            around.push(words(token));
        } else if token.ends() == Some("nav") {
            around.pop();
        }
        let near = || around.last().cloned().unwrap_or_else(|| words(token));
        let menu = match token.starts() {
            Some("ul" | "ol" | "menu") => list(text, &tokens, at, near()),
            Some("a") if is_first(text, &tokens, at) => run(text, &tokens, at, near()),
            _ => None,
        };
        match menu.filter(wanted) {
            Some(menu) => {
                let range = menu.lead.start..menu.trail.end;
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

/// The words of an element by which a menu may be called: its id, classes and label.
fn words(token: &Token) -> Vec<String> {
    let words = ["id", "class", "aria-label"].into_iter().filter_map(|name| token.attribute(name));
    words.map(str::to_string).collect()
}

/// Does an element begin another one that holds nothing but links?
fn is_first(text: &str, tokens: &[Token], at: usize) -> bool {
    let before = tokens[..at].iter().rev().find(|token| !token.is_blank(text));
    before.and_then(Token::starts).is_some_and(|name| HOLDERS.contains(&name))
}

fn skip(text: &str, tokens: &[Token], at: &mut usize) {
    while tokens.get(*at).is_some_and(|token| matches!(token.kind, Kind::Text) && token.is_blank(text)) {
        *at += 1;
    }
}

/// The menu that a list's start tag begins, where it is nothing but links.
fn list(text: &str, tokens: &[Token], start: usize, nav: Vec<String>) -> Option<Menu> {
    let list = tokens[start].starts()?;
    let mut items: Vec<Item> = Vec::new();
    let mut at = start + 1;
    loop {
        skip(text, tokens, &mut at);
        let token = tokens.get(at)?;
        if token.ends() == Some(list) {
            break;
        }
        if token.starts() != Some("li") {
            return None;
        }
        let first = at;
        let li = token.clone();
        at += 1;
        skip(text, tokens, &mut at);
        let (item, last) = item(text, tokens, at)?;
        at = last + 1;
        skip(text, tokens, &mut at);
        let mut end = last;
        if tokens.get(at)?.ends() == Some("li") {
            end = at;
            at += 1;
        }
        items.push(Item { range: tokens[first].range.start..tokens[end].range.end, li: Some(li), ..item });
    }
    let lead = tokens[start].range.start..items.first()?.range.start;
    let trail = items.last()?.range.end..tokens[at].range.end;
    even(text, items, nav, lead, trail, tokens[start..=at].to_vec())
}

/// The menu that the first link of an element begins which holds nothing but links, and the same between any two.
fn run(text: &str, tokens: &[Token], start: usize, nav: Vec<String>) -> Option<Menu> {
    let mut items: Vec<Item> = Vec::new();
    let mut at = start;
    let mut last = start;
    loop {
        let (item, end) = item(text, tokens, at)?;
        items.push(item);
        last = last.max(end);
        at = end + 1;
        // A text between two links parts them; what comes behind the last is the element's end.
        while tokens.get(at).is_some_and(|token| matches!(token.kind, Kind::Text)) {
            at += 1;
        }
        let token = tokens.get(at)?;
        if token.ends().is_some_and(|name| HOLDERS.contains(&name)) {
            break;
        }
        token.starts().filter(|name| LINKS.contains(name))?;
    }
    let rest = &text[tokens[last].range.end..tokens[at].range.start];
    let (first, end) = (items.first()?.range.start, items.last()?.range.end);
    rest.trim().is_empty().then_some(())?;
    even(text, items, nav, first..first, end..end, tokens[start..=last].to_vec())
}

/// One link with its label, and its last token.
fn item(text: &str, tokens: &[Token], start: usize) -> Option<(Item, usize)> {
    let link = tokens.get(start).filter(|token| token.starts().is_some_and(|name| LINKS.contains(&name)))?.clone();
    let element = link.starts()?;
    let href = match element {
        "a" => Some(link.attribute("href")?.to_string()),
        _ => None,
    };
    let end = start + tokens[start..].iter().position(|token| token.ends() == Some(element))?;
    let inside = &tokens[start + 1..end];
    let is_plain = inside.iter().all(|token| match &token.kind {
        Kind::Text => true,
        Kind::Start { name, attributes } => {
            INLINE.contains(&name.as_str()) && attributes.iter().all(|attribute| attribute.name != "id")
        }
        Kind::End { name } => INLINE.contains(&name.as_str()),
        _ => false,
    });
    let mut labels = inside.iter().filter(|token| matches!(token.kind, Kind::Text) && !token.is_blank(text));
    let label = labels.next().filter(|_| is_plain && labels.next().is_none())?;
    let written = &text[label.range.clone()];
    let from = label.range.start + (written.len() - written.trim_start().len());
    let words = from..from + written.trim().len();
    let range = link.range.start..tokens[end].range.end;
    Some((Item { label: decoded(&text[words.clone()]), href, range, li: None, link, text: words }, end))
}

/// A menu, where its entries are written alike, and what stands between any two of them.
fn even(
    text: &str,
    items: Vec<Item>,
    nav: Vec<String>,
    lead: Range<usize>,
    trail: Range<usize>,
    tokens: Vec<Token>,
) -> Option<Menu> {
    let gap = (items.len() > 1).then(|| items[0].range.end..items[1].range.start);
    let even = items.windows(2).all(|pair| {
        let between = &text[pair[0].range.end..pair[1].range.start];
        gap.as_ref().is_some_and(|gap| &text[gap.clone()] == between)
    });
    let mut links = items.iter().filter(|item| item.href.is_some());
    let shape = links.next()?.shape(text);
    let alike = links.all(|item| item.shape(text) == shape);
    let others = items.iter().filter(|item| item.href.is_none()).count();
    (items.len() > 1 && even && alike && others < 2).then_some(Menu { tokens, items, nav, lead, gap, trail })
}

/// Elements that may hold links and nothing else.
const HOLDERS: [&str; 8] = ["nav", "div", "p", "td", "header", "footer", "section", "span"];
/// What may stand around a label, inside of its link.
const INLINE: [&str; 8] = ["span", "i", "b", "strong", "em", "small", "svg", "path"];
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
