//! What pages have alike, from the outside in.

use std::ops::Range;

use super::address::{Leads, Site};
use super::html::{Kind, Token};
use super::parts::Page;

/// Pages with one layout.
#[derive(Clone, Debug)]
pub struct Group {
    /// By their positions.
    pub pages: Vec<usize>,
    /// How many tokens of each body all have alike at its beginning, and how many at its end.
    pub alike: (usize, usize),
}

/// What a token says, for comparing it with one of another page.
pub fn key(site: &Site<'_>, page: &Page, token: &Token, menus: &[String]) -> String {
    says(site, page, token, menus, false)
}

/// What a token says; of one in a body, without what may differ from page to page.
fn says(site: &Site<'_>, page: &Page, token: &Token, menus: &[String], in_body: bool) -> String {
    let text = &page.text[token.range.clone()];
    match &token.kind {
        Kind::Text => text.split_whitespace().collect::<Vec<_>>().join(" "),
        Kind::End { name } => format!("</{name}>"),
        Kind::Comment | Kind::Doctype => text.to_string(),
        Kind::Menu(at) => {
            let menu = menu_key(site, page, *at);
            if menus.contains(&menu) { menu } else { text.to_string() }
        }
        Kind::Start { name, attributes } => {
            let of_body = |attribute: &str| name == "body" && attribute == "class";
            let mut parts: Vec<String> = attributes
                .iter()
                .filter(|attribute| !(of_body(&attribute.name) || in_body && varies(name, &attribute.name)))
                .map(|attribute| format!("{}={}", attribute.name, said(site, page, &attribute.value)))
                .collect();
            parts.sort();
            format!("<{name} {}>", parts.join(" "))
        }
    }
}

/// The attributes in which the same element may differ from page to page: where links lead, and what marks the page at
/// hand.
pub const VARYING: [&str; 3] = ["class", "aria-current", "href"];

/// May an element of the layout have another value there on each page?
fn varies(element: &str, attribute: &str) -> bool {
    match attribute {
        "href" => element == "a",
        _ => VARYING.contains(&attribute) && ["a", "li", "span", "dt", "dd", "td", "b", "strong"].contains(&element),
    }
}

/// An address by where it leads, any other value as it is. A place on the page itself counts as one of the site's where
/// another page leads there, too.
pub fn said(site: &Site<'_>, page: &Page, value: &str) -> String {
    if value.starts_with('#') {
        let whole = format!("{}{value}", page.path);
        return if site.anchors.contains(&whole) { whole } else { value.to_string() };
    }
    match site.leads(&page.file, value) {
        Leads::Page(path, rest) => format!("{path}{rest}"),
        Leads::File(path) => path,
        _ => value.to_string(),
    }
}

/// What a menu says, without what marks the page at hand: `menu1 Label=/path/…`, an entry each line. The number tells
/// how often the page has said it by then, since one spot can't be in two places.
pub fn menu_key(site: &Site<'_>, page: &Page, at: usize) -> String {
    let says = |at: usize| entries(site, page, at);
    let own = says(at);
    let time = (0..at).filter(|earlier| says(*earlier) == own).count() + 1;
    format!("menu{time} {own}")
}

/// The entries of a menu, a line each.
pub fn entries(site: &Site<'_>, page: &Page, at: usize) -> String {
    let menu = &page.menus[at];
    let entries = menu.items.iter().map(|item| match &item.href {
        Some(href) => format!("{}={}", item.label, said(site, page, href)),
        None => format!("{}={}", item.label, page.path),
    });
    entries.collect::<Vec<_>>().join("\n")
}

/// Pages by their layouts. The first group is that of most of them.
pub fn groups(site: &Site<'_>, pages: &[Page], menus: &[String]) -> Vec<Group> {
    let keys: Vec<Vec<String>> = pages
        .iter()
        .map(|page| page.tokens[page.body.clone()].iter().map(|token| says(site, page, token, menus, true)).collect())
        .collect();
    let frame = |page: &Page| {
        let around = page.tokens[page.before.clone()].iter().chain(&page.tokens[page.between.clone()]);
        around.map(|token| key(site, page, token, menus)).collect::<Vec<_>>().join("")
    };
    let frames: Vec<String> = pages.iter().map(frame).collect();
    let most = |frame: &&String| frames.iter().filter(|other| other == frame).count();
    let usual = frames.iter().rev().max_by_key(most).cloned().unwrap_or_default();
    let (mut main, mut others): (Vec<usize>, Vec<usize>) = (0..pages.len()).partition(|at| frames[*at] == usual);
    let size = |group: &[usize]| -> usize {
        let (from, to) = alike(pages, &keys, group);
        let all = &keys[group[0]];
        all[..from].iter().chain(&all[all.len() - to..]).filter(|key| !key.is_empty()).count()
    };
    while main.len() > 2 {
        let all = size(&main);
        let without = main.iter().map(|gone| {
            let rest: Vec<usize> = main.iter().copied().filter(|at| at != gone).collect();
            (size(&rest), *gone)
        });
        match without.max() {
            Some((more, gone)) if more > 2 * all + 8 => {
                main.retain(|at| *at != gone);
                others.push(gone);
            }
            _ => break,
        }
    }
    if main.len() == 2 && size(&main) == 0 {
        others.extend(main.pop());
    }
    others.sort_unstable();
    let mut groups = vec![Group { alike: alike(pages, &keys, &main), pages: main }];
    groups.extend(others.into_iter().map(|page| Group { alike: alike(pages, &keys, &[page]), pages: vec![page] }));
    groups
}

/// How much of their bodies pages have alike at the beginning and at the end, so that what is open at the one is
/// closed at the other.
fn alike(pages: &[Page], keys: &[Vec<String>], group: &[usize]) -> (usize, usize) {
    let Some((first, rest)) = group.split_first() else { return (0, 0) };
    let page = &pages[*first];
    let own = &keys[*first];
    if rest.is_empty() {
        return outside(page);
    }
    let mut from = own.len();
    for other in rest {
        from = own.iter().zip(&keys[*other]).take(from).take_while(|(one, other)| one == other).count();
    }
    let shortest = group.iter().map(|at| keys[*at].len()).min().unwrap_or(0);
    from = from.min(shortest);
    let mut to = shortest - from;
    for other in rest {
        to = own.iter().rev().zip(keys[*other].iter().rev()).take(to).take_while(|(one, other)| one == other).count();
    }
    balanced(page, from, to)
}

/// Elements that are not cut.
const WHOLE: [&str; 20] = [
    "p", "h1", "h2", "h3", "h4", "h5", "h6", "li", "dt", "dd", "a", "span", "b", "i", "em", "strong", "tr", "ul", "ol",
    "pre",
];

/// Less of the beginning or the end, until what is open behind the one is what the other closes.
fn balanced(page: &Page, mut from: usize, mut to: usize) -> (usize, usize) {
    let body = &page.tokens[page.body.clone()];
    // Elements that are not closed tell nothing of what is open.
    let closed = |name: &str| {
        let starts = body.iter().filter(|token| token.starts() == Some(name)).count();
        starts == body.iter().filter(|token| token.ends() == Some(name)).count()
    };
    loop {
        let mut open: Vec<(usize, &str)> = Vec::new();
        for (at, token) in body[..from].iter().enumerate() {
            match (token.starts(), token.ends()) {
                (Some(name), _) if closed(name) => open.push((at, name)),
                (_, Some(name)) if open.last().is_some_and(|(_, open)| *open == name) => drop(open.pop()),
                _ => {}
            }
        }
        let mut inner: Vec<&str> = Vec::new();
        let mut closes: Vec<(usize, &str)> = Vec::new();
        for (at, token) in body.iter().enumerate().skip(body.len() - to) {
            match (token.starts(), token.ends()) {
                (Some(name), _) if closed(name) => inner.push(name),
                (_, Some(name)) if inner.last() == Some(&name) => drop(inner.pop()),
                (_, Some(name)) if closed(name) => closes.push((at, name)),
                _ => {}
            }
        }
        let same = open.iter().rev().map(|(_, name)| name).eq(closes.iter().map(|(_, name)| name));
        // A page's text is made of whole paragraphs.
        let inside = open.last().is_some_and(|(_, name)| WHOLE.contains(name));
        if same && !inside {
            return (from, to);
        }
        let (last_open, first_close) = (open.last().map(|(at, _)| *at), closes.first().map(|(at, _)| *at));
        match (last_open, first_close) {
            (Some(at), _) if open.len() > closes.len() => from = at,
            (_, Some(at)) if closes.len() > open.len() => to = body.len() - at - 1,
            (Some(open), Some(close)) => (from, to) = (open, body.len() - close - 1),
            _ => return (from, to),
        }
    }
}

/// Of a single page, what stands outside of its text: outside of main, else of what is between the first header or
/// nav and the last footer.
fn outside(page: &Page) -> (usize, usize) {
    let body = &page.tokens[page.body.clone()];
    let start = |names: &[&str]| body.iter().position(|token| token.starts().is_some_and(|name| names.contains(&name)));
    let end = |name: &str, from: usize| {
        let mut depth = 0usize;
        body.iter().enumerate().skip(from).find_map(|(at, token)| {
            if token.starts() == Some(name) {
                depth += 1;
            } else if token.ends() == Some(name) {
                depth = depth.saturating_sub(1);
                return (depth == 0).then_some(at);
            }
            None
        })
    };
    if let Some(main) = start(&["main"]) {
        let close = end("main", main).unwrap_or(body.len());
        return (main + 1, body.len() - close);
    }
    let first = start(&["header", "nav"]);
    let from = first.and_then(|at| Some(end(body[at].starts()?, at)? + 1)).unwrap_or(0);
    let last = body.iter().rposition(|token| token.starts() == Some("footer")).filter(|at| *at >= from);
    balanced(page, from, body.len() - last.unwrap_or(body.len()))
}

/// The tokens of a page's body that are its own.
pub fn own(page: &Page, group: &Group) -> Range<usize> {
    let end = page.body.end.saturating_sub(group.alike.1);
    (page.body.start + group.alike.0).min(end)..end
}
