//! The parts of a page: what stands before its head, what the head holds, the body, the scripts at its end.

use std::ops::Range;

use super::html::{Kind, Token, decoded, tokens};
use super::menu::{self, Menu};

/// A page that is taken apart.
#[derive(Debug)]
pub struct Page {
    /// Its file, from the common folder.
    pub file: String,
    /// The path that it gets.
    pub path: String,
    pub text: String,
    pub tokens: Vec<Token>,
    pub menus: Vec<Menu>,
    /// The tokens up to and with the head's start tag.
    pub before: Range<usize>,
    /// What the head holds, piece by piece.
    pub head: Vec<Piece>,
    /// The tokens from the head's end tag up to and with the body's start tag.
    pub between: Range<usize>,
    /// The tokens of the body.
    pub body: Range<usize>,
    /// The scripts at the body's end.
    pub tail: Vec<Piece>,
    /// What stands behind them, piece by piece.
    pub rear: Vec<Piece>,
    /// Its tokens.
    pub after: Range<usize>,
}

/// An element of the head, or a script at the end.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Piece {
    pub what: What,
    /// Its tokens, with the blanks before it.
    pub tokens: Range<usize>,
    /// Its start tag.
    pub at: usize,
}

/// What a piece is.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum What {
    Title(String),
    /// A style sheet, by its address, and where it applies.
    Style {
        href: String,
        media: String,
    },
    /// A plain script, by its address.
    Script {
        src: String,
        defer: bool,
        module: bool,
    },
    /// A script that is written out.
    Inline,
    /// A script or style that has to stay where it is, among others of its sort.
    Other {
        styles: bool,
        runs: bool,
    },
    /// Anything else: metadata, icons, comments.
    Plain,
}

/// Elements of a head (HTML, 3.2.5.2.1 "Metadata content"), and those around.
const IN_HEAD: [&str; 11] =
    ["html", "head", "title", "meta", "link", "script", "style", "base", "noscript", "template", "basefont"];

impl Page {
    /// A page, in which each list of links that is wanted is one token.
    pub fn new(file: String, path: String, text: String, wanted: &dyn Fn(&Menu) -> bool) -> Page {
        let (tokens, menus) = menu::collapsed(&text, tokens(&text), wanted);
        let mut page = Page {
            file,
            path,
            text,
            tokens,
            menus,
            before: 0..0,
            head: Vec::new(),
            between: 0..0,
            body: 0..0,
            tail: Vec::new(),
            rear: Vec::new(),
            after: 0..0,
        };
        page.take_apart();
        page
    }

    fn take_apart(&mut self) {
        let starts = |name: &str| self.tokens.iter().position(|token| token.starts() == Some(name));
        let ends = |name: &str| self.tokens.iter().position(|token| token.ends() == Some(name));
        let last_end = |name: &str| self.tokens.iter().rposition(|token| token.ends() == Some(name));
        let count = self.tokens.len();
        // Tags that may be left out are where they would be.
        let head_start = starts("head").or_else(|| starts("html")).map_or_else(
            || {
                self.tokens
                    .iter()
                    .take_while(|token| matches!(token.kind, Kind::Doctype) || token.is_blank(&self.text))
                    .count()
            },
            |at| at + 1,
        );
        let body_tag = starts("body");
        let mut inside: Option<&str> = None;
        let first_of_body = self.tokens.iter().enumerate().skip(head_start).find(|(_, token)| {
            if let Some(open) = inside {
                if token.ends() == Some(open) {
                    inside = None;
                }
                return false;
            }
            match token.starts() {
                Some(name @ ("title" | "script" | "style" | "noscript" | "template")) => {
                    inside = Some(name);
                    false
                }
                Some(name) => !IN_HEAD.contains(&name),
                None => !token.is_blank(&self.text) && token.ends().is_none(),
            }
        });
        let first_of_body = first_of_body.map_or(count, |(at, _)| at);
        let head_end = ends("head").or(body_tag).unwrap_or(first_of_body).max(head_start);
        let body_start = body_tag.map_or_else(|| head_end.max(first_of_body), |at| at + 1).max(head_end);
        let body_end = last_end("body").or_else(|| last_end("html")).unwrap_or(count).max(body_start);
        self.before = 0..head_start.min(head_end);
        self.head = pieces(&self.text, &self.tokens, head_start..head_end);
        self.between = head_end..body_start;
        let tail = tail(&self.text, &self.tokens, body_start..body_end);
        self.body = body_start..tail;
        self.tail = pieces(&self.text, &self.tokens, tail..body_end);
        self.rear = pieces(&self.text, &self.tokens, body_end..count);
        self.after = body_end..count;
    }

    /// The text of some tokens.
    pub fn text_of(&self, range: &Range<usize>) -> &str {
        match (self.tokens.get(range.start), range.end.checked_sub(1).and_then(|last| self.tokens.get(last))) {
            (Some(first), Some(last)) if first.range.start < last.range.end => {
                &self.text[first.range.start..last.range.end]
            }
            _ => "",
        }
    }

    pub fn line(&self, token: usize) -> usize {
        let at = self.tokens.get(token).map_or(self.text.len(), |token| token.range.start);
        self.line_at(at)
    }

    pub fn line_at(&self, at: usize) -> usize {
        self.text[..at.min(self.text.len())].matches('\n').count() + 1
    }

    pub fn title(&self) -> Option<&str> {
        self.head.iter().find_map(|piece| match &piece.what {
            What::Title(title) => Some(title.as_str()),
            _ => None,
        })
    }

    /// Is it the title that browsers show, the first one?
    pub fn is_title(&self, piece: &Piece) -> bool {
        let first = self.head.iter().find(|piece| matches!(piece.what, What::Title(_)));
        first.is_some_and(|first| first.at == piece.at)
    }

    /// An attribute of the element that a name begins first.
    pub fn attribute(&self, element: &str, name: &str) -> Option<&str> {
        self.tokens.iter().find(|token| token.starts() == Some(element))?.attribute(name)
    }
}

/// Where the row of scripts begins that ends a body.
fn tail(text: &str, tokens: &[Token], body: Range<usize>) -> usize {
    let mut first = body.end;
    let mut at = body.end;
    while at > body.start {
        let token = &tokens[at - 1];
        if token.is_blank(text) {
            at -= 1;
            continue;
        }
        if token.ends() != Some("script") {
            break;
        }
        let Some(start) = tokens[body.start..at].iter().rposition(|token| token.starts() == Some("script")) else {
            break;
        };
        at = body.start + start;
        first = at;
        // The blanks before the first one belong to it.
        while first > body.start && matches!(tokens[first - 1].kind, Kind::Text) && tokens[first - 1].is_blank(text) {
            first -= 1;
        }
        at = first.min(at);
    }
    first
}

/// The pieces of a head, or of a row of scripts.
fn pieces(text: &str, tokens: &[Token], range: Range<usize>) -> Vec<Piece> {
    let mut found = Vec::new();
    let mut start = range.start;
    let mut at = range.start;
    while at < range.end {
        if matches!(tokens[at].kind, Kind::Text) && tokens[at].is_blank(text) {
            at += 1;
            continue;
        }
        let name = tokens[at].starts().unwrap_or_default();
        let end = match name {
            "title" | "script" | "style" | "noscript" | "template" => {
                let close = tokens[at..range.end].iter().position(|token| token.ends() == Some(name));
                close.map_or(range.end, |close| at + close + 1)
            }
            _ => at + 1,
        };
        found.push(Piece { what: what(text, tokens, at, end), tokens: start..end, at });
        start = end;
        at = end;
    }
    found
}

fn what(text: &str, tokens: &[Token], at: usize, end: usize) -> What {
    let token = &tokens[at];
    let has = |name: &str| token.attribute(name).is_some();
    match token.starts() {
        Some("title") => {
            let inner = tokens.get(at + 1..end.saturating_sub(1)).unwrap_or_default();
            let inner: String = inner.iter().map(|token| &text[token.range.clone()]).collect();
            What::Title(decoded(&inner).split_whitespace().collect::<Vec<_>>().join(" "))
        }
        Some("link") => {
            let rel = token.attribute("rel").unwrap_or_default().to_ascii_lowercase();
            let is_sheet = rel.split_whitespace().any(|word| word == "stylesheet");
            let plain = token
                .attributes()
                .iter()
                .all(|attribute| ["rel", "href", "type", "media"].contains(&attribute.name.as_str()));
            match (is_sheet, token.attribute("href")) {
                (true, Some(href)) if rel == "stylesheet" && plain => {
                    let media = token.attribute("media").unwrap_or_default().to_string();
                    What::Style { href: href.to_string(), media }
                }
                (true, _) => What::Other { styles: true, runs: false },
                _ => What::Plain,
            }
        }
        Some("style") => What::Other { styles: true, runs: false },
        Some("script") => {
            let kind = token.attribute("type").unwrap_or_default().to_ascii_lowercase();
            let runs = matches!(kind.as_str(), "" | "text/javascript" | "application/javascript" | "module");
            let module = kind == "module";
            let known = ["src", "type", "defer", "charset", "language"];
            let plain = token.attributes().iter().all(|attribute| known.contains(&attribute.name.as_str()));
            match token.attribute("src") {
                _ if !runs => What::Plain,
                Some(src) if plain => What::Script { src: src.to_string(), defer: has("defer") || module, module },
                None if plain && !module => What::Inline,
                _ => What::Other { styles: false, runs: true },
            }
        }
        Some("noscript") => What::Plain,
        _ => What::Plain,
    }
}
