//! Templates, written with the pages' own bytes.

use std::fmt::Write;
use std::ops::Range;

use camino::Utf8PathBuf;

use super::address::{Into, Met, replaced, rewritten};
use super::assets::Assets;
use super::common::{Group, key, own};
use super::html::{Kind, Token};
use super::parts::{Page, Piece};
use super::{Fate, Taken, Whole, said};

pub type File = (Utf8PathBuf, Vec<u8>);

/// What writes the files of a theme.
pub struct Writing<'w, 's> {
    pub whole: &'w Whole<'s>,
    pub met: &'w mut Met,
    pub taken: &'w mut Taken,
    /// The pages whose layout is being written.
    pub group: Option<Group>,
}

/// A piece of a head or tail, and the pages that have it.
struct Shared<'p> {
    page: usize,
    piece: &'p Piece,
    says: String,
    pages: Vec<usize>,
    /// Is it declared on these pages, so that it is gone from the markup?
    gone: bool,
    /// A key of the pages' data that has what differs.
    data: Option<String>,
}

/// Which pieces of pages.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Where {
    Head,
    /// The scripts at the body's end.
    Tail,
    /// What stands behind the body.
    Rear,
}

impl Writing<'_, '_> {
    /// The template of each group.
    pub fn templates(&mut self, assets: &Assets) -> Vec<File> {
        let mut files: Vec<File> = Vec::new();
        for (number, group) in self.whole.groups.iter().enumerate() {
            let text = self.template(group, assets);
            let name = if number == 0 { "layout".to_string() } else { self.whole.template_of(group.pages[0]) };
            files.push((format!("markup/{name}.html").into(), text.into_bytes()));
        }
        files.push(("markup/page.html".into(), b"{% extends \"layout.html\" %}\n".to_vec()));
        files
    }

    fn template(&mut self, group: &Group, assets: &Assets) -> String {
        let whole = self.whole;
        let first = group.pages[0];
        let page = &whole.pages[first];
        let own = own(page, group);
        let mut out = self.markup(page, page.before.clone(), Into::Template);
        out.push_str(&self.pieces(group, assets, Where::Head));
        out.push_str(&self.between(group, page));
        self.group = Some(group.clone());
        out.push_str(&self.markup(page, page.body.start..own.start, Into::Template));
        out.push_str("{% block main %}{{ place(\"region:main\") }}{% endblock %}");
        out.push_str(&self.markup(page, own.end..page.body.end, Into::Template));
        self.group = None;
        self.tell_own(group);
        out.push_str(&self.pieces(group, assets, Where::Tail));
        out.push_str("{{ place(\"hook:document-end\") }}\n");
        out.push_str(self.pieces(group, assets, Where::Rear).trim_start_matches(['\r', '\n']));
        out.push('\n');
        let line = page.line(own.start);
        let count = group.pages.len();
        let now = match count {
            1 => "the text of the page, in the preview".to_string(),
            _ => format!("the texts of {count} pages, in the preview; what is around them is the layout"),
        };
        let what = "what is between the first and the last thing that all have alike".to_string();
        self.taken.turned.push(Fate { file: page.file.clone(), line, what, now });
        out
    }

    /// What stands between head and body, with the body's class where pages differ in it.
    fn between(&mut self, group: &Group, page: &Page) -> String {
        let text = self.markup(page, page.between.clone(), Into::Template);
        let classes: Vec<Option<&str>> =
            group.pages.iter().map(|at| self.whole.pages[*at].attribute("body", "class")).collect();
        if classes.windows(2).all(|pair| pair[0] == pair[1]) {
            return text;
        }
        let guarded = "{% if page.data.body_class %} class=\"{{ page.data.body_class }}\"{% endif %}";
        let Some(tag) = page.tokens[page.between.clone()].iter().find(|token| token.starts() == Some("body")) else {
            return text;
        };
        let mut written = format!("<body{guarded}");
        for attribute in tag.attributes().iter().filter(|attribute| attribute.name != "class") {
            let value =
                attribute.range.clone().map(|range| format!("=\"{}\"", page.text[range].replace('"', "&quot;")));
            let _ = write!(written, " {}{}", attribute.name, value.unwrap_or_default());
        }
        written.push('>');
        let old = self.markup(page, position(page, tag)..position(page, tag) + 1, Into::Template);
        text.replacen(&old, &written, 1)
    }

    /// The pieces of heads, or of ends, that stay in the markup, those of all pages together.
    fn pieces(&mut self, group: &Group, assets: &Assets, place: Where) -> String {
        let whole = self.whole;
        let head = place == Where::Head;
        let of = |at: usize| match place {
            Where::Head => &whole.pages[at].head,
            Where::Tail => &whole.pages[at].tail,
            Where::Rear => &whole.pages[at].rear,
        };
        let mut shared: Vec<Shared<'_>> = Vec::new();
        for at in &group.pages {
            let mut behind = 0;
            for piece in of(*at) {
                let says = whole.piece_says(*at, piece);
                let gone = assets.gone.contains(&(*at, piece.tokens.start));
                let known = shared
                    .iter()
                    .position(|known| known.says == says && known.gone == gone && !known.pages.contains(at));
                let place = known.unwrap_or_else(|| {
                    let data = meta_key(&whole.pages[*at], piece);
                    let new = Shared { page: *at, piece, says, pages: Vec::new(), gone, data };
                    shared.insert(behind, new);
                    behind
                });
                shared[place].pages.push(*at);
                behind = place + 1;
            }
        }
        let first = &whole.pages[group.pages[0]];
        let hook = assets.head[group.pages[0]].filter(|_| head).map(|at| first.head[at].tokens.start);
        let mut out = String::new();
        let mut done: Vec<String> = Vec::new();
        let mut placed = !head;
        for one in &shared {
            let page = &whole.pages[one.page];
            if !placed && one.page == group.pages[0] && Some(one.piece.tokens.start) == hook {
                out.push_str(&lead(page, one.piece));
                out.push_str("{{ place(\"hook:document-head\") }}");
                placed = true;
            }
            if one.gone {
                if !head && out.is_empty() {
                    out.push_str(&lead(page, one.piece));
                }
                continue;
            }
            if let Some(data) = &one.data
                && shared.iter().filter(|other| other.data.as_ref() == Some(data)).count() > 1
            {
                if !done.contains(data) {
                    done.push(data.clone());
                    out.push_str(&self.meta(page, one.piece, data));
                }
                continue;
            }
            let text = self.piece(page, one.piece);
            match one.pages.len() == group.pages.len() || text.is_empty() {
                true => out.push_str(&text),
                false => {
                    let _ = write!(out, "{{% if {} %}}{text}{{% endif %}}", whole.condition(&one.pages));
                }
            }
        }
        if !placed {
            out.push_str("\n{{ place(\"hook:document-head\") }}\n");
        }
        // What stands before the end tag.
        if head {
            let page = &whole.pages[group.pages[0]];
            let end = page.head.last().map_or(page.before.end, |piece| piece.tokens.end);
            out.push_str(page.text_of(&(end..page.between.start)));
        }
        out
    }

    fn piece(&mut self, page: &Page, piece: &Piece) -> String {
        if page.is_title(piece) {
            if self.whole.titles().is_some() {
                let now = "feature:page-titles".to_string();
                self.taken.turned.push(Fate {
                    file: page.file.clone(),
                    line: page.line(piece.at),
                    what: "<title>".into(),
                    now,
                });
                return String::new();
            }
            let tag = self.markup(page, piece.tokens.start..piece.at + 1, Into::Template);
            return format!("{tag}{{{{ page.title }}}}</title>");
        }
        self.markup(page, piece.tokens.clone(), Into::Template)
    }

    /// A `meta` element whose content is the pages' own.
    fn meta(&mut self, page: &Page, piece: &Piece, data: &str) -> String {
        let token = &page.tokens[piece.at];
        let content = token.attributes().iter().find(|attribute| attribute.name == "content");
        let Some(range) = content.and_then(|attribute| attribute.range.clone()) else { return String::new() };
        let new = vec![(range, format!("{{{{ page.data.{data} }}}}"))];
        let tag = replaced(&page.text, token.range.clone(), new);
        format!("{{% if page.data.{data} %}}{}{tag}{{% endif %}}", lead(page, piece))
    }

    /// The text of some tokens, with the theme's addresses; in a template, with what it would read as its own
    /// language written out.
    pub fn markup(&mut self, page: &Page, range: Range<usize>, into: Into) -> String {
        let mut out = String::new();
        let mut inside: Option<String> = None;
        // An element that would stand empty without its menu.
        let mut guarded: Option<usize> = None;
        for number in range.clone() {
            let token = &page.tokens[number];
            if let Some((name, end)) = self.holds_menu(page, number, range.end).filter(|_| into == Into::Template) {
                let _ = write!(out, "{{% if filled(\"menu:{name}\") %}}");
                guarded = Some(end);
            }
            if guarded == Some(number) {
                guarded = None;
                out.push_str(&self.token(page, token, into, &mut inside));
                out.push_str("{% endif %}");
                continue;
            }
            if into == Into::Template
                && let Some(tag) = self.varied(page, number)
            {
                inside = None;
                out.push_str(&tag);
                continue;
            }
            if let Kind::Menu(at) = token.kind {
                let says = said(&self.whole.site, page, at);
                let name = self.whole.menus.iter().find(|(known, _)| *known == says).map(|(_, name)| name);
                match name.filter(|_| into == Into::Template) {
                    Some(name) => {
                        let _ = write!(out, "{{{{ place(\"menu:{name}\", with=\"partial:{name}-entries\") }}}}");
                    }
                    None => page.menus[at]
                        .tokens
                        .iter()
                        .for_each(|token| out.push_str(&self.token(page, token, into, &mut None))),
                }
                continue;
            }
            out.push_str(&self.token(page, token, into, &mut inside));
        }
        out
    }

    /// The menu of an element that begins there and holds nothing else, and where it ends.
    fn holds_menu(&self, page: &Page, start: usize, end: usize) -> Option<(String, usize)> {
        let element = page.tokens[start].starts()?;
        let is_blank =
            |at: &usize| matches!(page.tokens[*at].kind, Kind::Text) && page.tokens[*at].is_blank(&page.text);
        let mut rest = (start + 1..end).filter(|at| !is_blank(at));
        let (menu, close) = (rest.next()?, rest.next()?);
        let Kind::Menu(at) = page.tokens[menu].kind else { return None };
        let says = said(&self.whole.site, page, at);
        let (_, name) = self.whole.menus.iter().find(|(known, _)| *known == says)?;
        (page.tokens[close].ends() == Some(element)).then(|| (name.clone(), close))
    }

    fn token(&mut self, page: &Page, token: &Token, into: Into, inside: &mut Option<String>) -> String {
        let site = &self.whole.site;
        let new = match (&token.kind, inside.as_deref()) {
            (Kind::Text, Some("style")) => {
                site.in_css(&page.file, &page.text[token.range.clone()], token.range.start, into, self.met)
            }
            (Kind::Start { name, .. }, _) => {
                *inside = Some(name.clone());
                if name == "form" && into == Into::Template {
                    let fate = Fate {
                        file: page.file.clone(),
                        line: page.line_at(token.range.start),
                        what: "a form".into(),
                        now: "who answers it is not the theme's to say".into(),
                    };
                    self.taken.left.push(fate);
                }
                site.replacements(&page.file, &page.text, token, into, self.met)
            }
            (Kind::End { .. }, _) => {
                *inside = None;
                Vec::new()
            }
            _ => Vec::new(),
        };
        match into {
            Into::Body => replaced(&page.text, token.range.clone(), new),
            Into::Template => rewritten(&page.text, token.range.clone(), new, written_out),
        }
    }
}

impl Whole<'_> {
    /// On which pages something is, as a condition.
    pub fn condition(&self, pages: &[usize]) -> String {
        let paths: Vec<String> = pages.iter().map(|at| format!("'{}'", self.pages[*at].path)).collect();
        match paths.as_slice() {
            [path] => format!("page.path == {path}"),
            _ => format!("page.path in [{}]", paths.join(", ")),
        }
    }

    fn piece_says(&self, at: usize, piece: &Piece) -> String {
        let page = &self.pages[at];
        if page.is_title(piece) {
            return "title".into();
        }
        page.tokens[piece.tokens.clone()].iter().map(|token| key(&self.site, page, token, &[])).collect()
    }

    /// What a page has of its own in the layout.
    pub fn data(&self, at: usize, group: &Group) -> Vec<(String, String)> {
        let page = &self.pages[at];
        let mut found = Vec::new();
        let others = || group.pages.iter().map(|at| &self.pages[*at]);
        if others().any(|other| other.attribute("body", "class") != page.attribute("body", "class")) {
            found.extend(page.attribute("body", "class").map(|class| ("body_class".to_string(), class.to_string())));
        }
        for piece in &page.head {
            let Some(key) = meta_key(page, piece) else { continue };
            let says = |page: &Page| {
                let piece = page.head.iter().find(|piece| meta_key(page, piece).as_ref() == Some(&key))?;
                page.tokens[piece.at].attribute("content").map(str::to_string)
            };
            let own = says(page);
            if others().filter_map(says).any(|other| Some(other) != own) && found.iter().all(|(known, _)| *known != key)
            {
                found.extend(own.map(|own| (key, own)));
            }
        }
        found
    }
}

/// Under which key of a page's data the content of its `meta` element is kept, where that may be its own.
fn meta_key(page: &Page, piece: &Piece) -> Option<String> {
    let token = page.tokens.get(piece.at).filter(|token| token.starts() == Some("meta"))?;
    let name = token.attribute("name").or(token.attribute("property"))?;
    token.attribute("content")?;
    let key: String =
        name.chars().map(|c| if c.is_ascii_alphanumeric() { c.to_ascii_lowercase() } else { '_' }).collect();
    key.starts_with(|c: char| c.is_ascii_alphabetic()).then_some(key)
}

fn position(page: &Page, token: &Token) -> usize {
    page.tokens.iter().position(|other| other.range == token.range).unwrap_or(0)
}

/// The blanks before a piece.
fn lead(page: &Page, piece: &Piece) -> String {
    page.text_of(&(piece.tokens.start..piece.at))
        .chars()
        .rev()
        .take_while(|c| c.is_whitespace())
        .collect::<Vec<_>>()
        .into_iter()
        .rev()
        .collect()
}

/// A text in which nothing is read as a tag of the template language.
pub(super) fn written_out(text: &str) -> String {
    let mut out = String::with_capacity(text.len());
    let mut rest = text;
    while let Some(at) = rest.find('{') {
        out.push_str(&rest[..at]);
        match rest.as_bytes().get(at + 1) {
            Some(b'{' | b'%' | b'#') => {
                let _ = write!(out, "{{{{ \"{}\" }}}}", &rest[at..at + 2]);
                rest = &rest[at + 2..];
            }
            _ => {
                out.push('{');
                rest = &rest[at + 1..];
            }
        }
    }
    out.push_str(rest);
    out
}
