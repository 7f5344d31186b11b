//! The second step: one file's text becomes its [`Facts`], with no knowledge of any other file.
//!
//! Facts are a [`Shape`] (names only: what the file declares, refers to, places, imports) and the
//! spans beside it. Two texts with the same shape link in the same way.

mod body;
mod compared;
mod condition;
pub mod depth;
mod ignores;
mod items;
mod links;
mod manifest;
mod markup;
mod module;
mod predicate;
mod preview;
mod script;
mod shapes;
mod style;
mod toml;
mod words;
mod wrap;

use crate::name::Name;

use crate::source::{At, Span};
use crate::source::{Content, FileKind, SourceFile, Unreadable};

pub use body::{Address as HtmlAddress, MARKDOWN, html_addresses};
pub use condition::{Condition, Path};
pub use ignores::IgnoreComment;
pub use manifest::{FORMATS, SCHEMA_WORDS, TYPE_WORDS};
pub use markup::{FILTERS, FUNCTIONS, Piece, TESTS, conflict, html_alone, pieces, unbalanced};
pub use module::{BUILT_IN, LANGUAGE, template_literals};
pub use shapes::*;
pub use words::Plurals;

/// What one file says.
#[derive(Clone, Debug)]
pub struct Facts {
    /// The names in it.
    pub shape: Shape,
    /// Where they stand; an [`At`] is a position in this table.
    pub spans: Vec<Span>,
    /// What is wrong with the file by itself.
    pub flaws: Vec<Flaw>,
    /// Comments that silence a rule.
    pub ignores: Vec<IgnoreComment>,
}

impl Facts {
    /// The facts of a page of the preview without what it is composed of and its data; others as they
    /// are.
    pub(crate) fn without_contents(self) -> Facts {
        let Shape::Page(page) = self.shape else { return self };
        let mut spans = Vec::with_capacity(3);
        let mut moved = |named: Option<Named>| {
            let named = named?;
            spans.push(self.spans.get(named.at.0 as usize).copied().unwrap_or_default());
            Some(Named { at: At((spans.len() - 1) as u32), ..named })
        };
        let kept = ["path", "type", "title", "date"];
        let value = page.value.as_object().into_iter().flatten().filter(|(key, _)| kept.contains(&key.as_str()));
        let shape = PageShape {
            broken: page.broken,
            path: moved(page.path),
            page_type: moved(page.page_type),
            body: moved(page.body),
            dropped: page.dropped,
            sections: Vec::new(),
            keys: Vec::new(),
            files: Vec::new(),
            value: serde_json::Value::Object(value.map(|(key, value)| (key.clone(), value.clone())).collect()),
        };
        Facts { shape: Shape::Page(Box::new(shape)), spans, flaws: Vec::new(), ignores: Vec::new() }
    }

    /// The span of a fact.
    pub fn span(&self, at: At) -> Span {
        crate::source::looked::note();
        self.spans.get(at.0 as usize).copied().unwrap_or_default()
    }
}

/// Where in a TOML text a part of a value stands: the value by its span, the part by the keys and
/// positions that lead to it.
pub fn part_of_value(text: &str, value: Span, steps: &[String]) -> Span {
    toml::part(text, value, steps).unwrap_or(value)
}

/// Which rule a flaw of one file belongs to.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum FlawKind {
    /// The manifest is no TOML, or a key has a value of the wrong type.
    ManifestSyntax,
    /// A key that means nothing.
    UnknownKey,
    /// A template that doesn't parse, or uses a filter or test that isn't there.
    MarkupSyntax,
    /// A module that doesn't parse.
    CodeSyntax,
    /// A name that isn't one.
    BadName,
    /// A priority outside 0 to 100.
    PriorityRange,
    /// A condition that doesn't parse.
    ConditionSyntax,
    /// A point named by something else than a literal string, or used where it can't be followed.
    DynamicPoint,
    /// A file that lies outside the theme.
    OutsideTheme,
    /// Wrapping markup that is unbalanced, or does not print the body once.
    WrapBody,
    /// Markup that a module makes and that nothing uses.
    UnusedMarkup,
}

/// Something wrong with one file by itself.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Flaw {
    /// The rule that reports it.
    pub kind: FlawKind,
    /// Where.
    pub at: At,
    /// What is wrong, in one sentence.
    pub message: String,
    /// What to do, or what is wrong at this very place; shown at the place.
    pub label: String,
    /// What was most likely meant, where that is certain enough to write it.
    pub instead: Option<String>,
}

/// Collects the spans and flaws of a file while it is scanned.
#[derive(Default)]
pub(crate) struct Notes {
    pub spans: Vec<Span>,
    pub flaws: Vec<Flaw>,
}

/// Adds to a list that mostly has one thing in it, or none: it gets room for that one alone.
fn add<T>(list: &mut Vec<T>, thing: T) {
    if list.is_empty() {
        list.reserve_exact(1);
    }
    list.push(thing);
}

/// A text for messages, cut where it is long.
fn short(text: &str) -> String {
    const LONGEST: usize = 80;
    match text.char_indices().nth(LONGEST) {
        Some((end, _)) => format!("{}…", &text[..end]),
        None => text.to_string(),
    }
}

impl Notes {
    pub fn at(&mut self, start: usize, end: usize) -> At {
        self.spans.push(Span::new(start, end));
        At((self.spans.len() - 1) as u32)
    }

    pub fn flaw(&mut self, kind: FlawKind, at: At, message: impl Into<String>, label: impl Into<String>) {
        self.flaws.push(Flaw { kind, at, message: message.into(), label: label.into(), instead: None });
    }

    /// Where a text doesn't parse, what else seems wrong with it is most likely the same mistake.
    pub fn only_syntax(&mut self, broken: bool) {
        if broken {
            self.flaws.truncate(1);
        }
    }

    pub fn facts(self, shape: Shape) -> Facts {
        Facts { shape, spans: self.spans, flaws: self.flaws, ignores: Vec::new() }
    }
}

/// A span, made as much larger as it has to be to begin and end between two letters of a text.
fn inside(text: &str, span: Span) -> Span {
    let (start, end) = ((span.start as usize).min(text.len()), (span.end as usize).min(text.len()));
    let end = end.max(start);
    let start = (0..=start).rev().find(|at| text.is_char_boundary(*at)).unwrap_or(0);
    let end = (end..=text.len()).find(|at| text.is_char_boundary(*at)).unwrap_or(text.len());
    Span::new(start, end)
}

/// Scans one file.
pub fn scan_file(file: &SourceFile) -> Facts {
    let text = match &file.content {
        Content::Text { text, .. } => text,
        Content::Unread => return Notes::default().facts(Shape::Opaque),
        Content::Broken(why) => return unreadable(file.kind, why),
    };
    let mut facts = scan_text(file, text);
    // Parsers count in their own ways; a place begins and ends between two letters of the text.
    for span in facts.spans.iter_mut().filter(|span| text.get(span.range()).is_none()) {
        *span = inside(text, *span);
    }
    let comment = match file.kind {
        FileKind::Template => ("{#", "#}"),
        FileKind::Module | FileKind::Script => ("//", "\n"),
        FileKind::Style => ("/*", "*/"),
        _ => return facts,
    };
    let mut notes = Notes { spans: std::mem::take(&mut facts.spans), flaws: Vec::new() };
    facts.ignores = ignores::comments(text, comment.0, comment.1, &mut notes);
    facts.spans = notes.spans;
    facts
}

fn scan_text(file: &SourceFile, text: &str) -> Facts {
    match file.kind {
        FileKind::Manifest => manifest::scan(text, file.path == "truehook.toml"),
        FileKind::Template => markup::scan(text),
        FileKind::Module => module::scan(text),
        FileKind::Site => preview::scan_site(text),
        FileKind::Page => preview::scan_page(text),
        FileKind::Style => style::scan(text),
        FileKind::Script => script::scan(text),
        FileKind::Words => words::scan(text),
        FileKind::Body => body::scan(text, file.path.extension() == Some("html")),
        FileKind::Media => Notes::default().facts(Shape::Opaque),
    }
}

/// The rule that speaks of a file of this kind which can't be understood.
fn syntax_rule(kind: FileKind) -> FlawKind {
    match kind {
        FileKind::Manifest | FileKind::Site | FileKind::Page | FileKind::Words => FlawKind::ManifestSyntax,
        FileKind::Template | FileKind::Body | FileKind::Media => FlawKind::MarkupSyntax,
        FileKind::Module | FileKind::Style | FileKind::Script => FlawKind::CodeSyntax,
    }
}

fn unreadable(kind: FileKind, why: &Unreadable) -> Facts {
    let mut notes = Notes::default();
    let at = notes.at(0, 0);
    let rule = match why {
        Unreadable::LeavesFolder(_) => FlawKind::OutsideTheme,
        _ => syntax_rule(kind),
    };
    notes.flaw(rule, at, why.to_string(), "");
    notes.facts(Shape::broken(kind))
}

/// What a script for browsers says, by its text.
pub(crate) fn script_shape(text: &str) -> Shape {
    script::scan(text).shape
}

/// A text as an interned name.
pub(crate) fn name(text: &str) -> Name {
    text.into()
}
