//! What could be typed at a place, the likeliest first.

mod condition;
mod items;
mod manifest;
mod module;
mod names;
mod preview;
mod template;
mod words;

pub use manifest::about;

use lsp_types::{
    CompletionItem, CompletionItemKind, CompletionList, CompletionParams, CompletionResponse, CompletionTextEdit,
    Documentation, InsertTextFormat, MarkupContent, MarkupKind, TextEdit,
};
use truehook_core::link::Registry;
use truehook_core::read::FileKind;
use truehook_core::source::{FileId, Span};

use crate::paths::path_of;
use crate::place::Ruler;
use crate::theme::Theme;
use crate::world::World;

/// How many are offered at once. Where there are more, they are looked for again with each letter.
const MOST: usize = 300;

/// A place at which somebody is typing. The registry may be that of a moment ago; the text is that of now.
pub struct Typing<'w> {
    /// The theme.
    pub theme: &'w Theme,
    /// The file.
    pub file: FileId,
    /// Its text.
    pub text: &'w str,
    /// The byte.
    pub offset: usize,
}

impl<'w> Typing<'w> {
    /// All that was known of the theme a moment ago.
    pub fn registry(&self) -> &'w Registry {
        &self.theme.registry
    }
}

/// Something that could be typed.
#[derive(Clone, Debug)]
pub struct Item {
    /// What it is called, and what is written where nothing else is said.
    pub label: String,
    /// What is written.
    pub insert: Option<String>,
    /// Does that have gaps to be filled?
    pub snippet: bool,
    /// A few words beside it.
    pub detail: Option<String>,
    /// What it is, in Markdown.
    pub about: Option<String>,
    /// What sort of thing it is.
    pub kind: CompletionItemKind,
    /// The least comes first.
    pub rank: u8,
}

impl Item {
    /// A name and nothing else.
    pub fn new(label: impl Into<String>, kind: CompletionItemKind, rank: u8) -> Item {
        Item { label: label.into(), insert: None, snippet: false, detail: None, about: None, kind, rank }
    }

    /// With a few words beside it.
    pub fn detail(self, detail: impl Into<String>) -> Item {
        Item { detail: Some(detail.into()).filter(|detail: &String| !detail.is_empty()), ..self }
    }

    /// With what it is.
    pub fn about(self, about: Option<String>) -> Item {
        Item { about, ..self }
    }

    /// With what is written in its place.
    pub fn insert(self, text: impl Into<String>) -> Item {
        Item { insert: Some(text.into()), ..self }
    }

    /// With what is written in its place, and gaps in it.
    pub fn snippet(self, text: impl Into<String>) -> Item {
        Item { insert: Some(text.into()), snippet: true, ..self }
    }
}

/// What could be typed, and what it would take the place of.
pub struct Found {
    /// All that could be.
    pub items: Vec<Item>,
    /// What is there of it.
    pub span: Span,
}

/// What could be typed at a place.
pub fn complete(world: &World, params: CompletionParams) -> Option<CompletionResponse> {
    let asked = params.text_document_position;
    let (theme, file) = world.find(&asked.text_document.uri)?;
    let buffer = path_of(&asked.text_document.uri).and_then(|path| world.files.buffer(&path));
    let source = theme.registry.project().file(file);
    let text = buffer.map_or(source.text(), |buffer| buffer.text.as_str());
    let ruler = Ruler::new(text, world.client.encoding);
    let typing = Typing { theme, file, text, offset: ruler.offset(asked.position) };
    let found = match source.kind {
        FileKind::Manifest => manifest::complete(&typing),
        FileKind::Template => template::complete(&typing),
        FileKind::Module => module::complete(&typing),
        FileKind::Site | FileKind::Page => preview::complete(&typing),
        FileKind::Words => words::complete(&typing),
        FileKind::Style => names::in_style(&typing),
        FileKind::Script | FileKind::Body | FileKind::Media => None,
    }?;
    Some(CompletionResponse::List(list(world, &typing, &ruler, found)))
}

fn list(world: &World, typing: &Typing<'_>, ruler: &Ruler<'_>, found: Found) -> CompletionList {
    let Found { mut items, span } = found;
    let typed = &typing.text[span.start as usize..typing.offset.max(span.start as usize)];
    let many = items.len() > MOST;
    if many {
        items.retain(|item| fits(typed, &item.label));
    }
    items.sort_by(|one, other| (one.rank, &one.label).cmp(&(other.rank, &other.label)));
    items.dedup_by(|one, other| one.label == other.label && one.insert == other.insert);
    items.truncate(MOST);
    // What stands behind the cursor within the same quotes goes, too.
    let range = ruler.range(span);
    let made = items.into_iter().enumerate().map(|(at, item)| {
        let Item { label, insert, snippet, detail, about, kind, .. } = item;
        let new_text = match (insert, snippet && !world.client.snippets) {
            (Some(text), true) => plain(&text),
            (Some(text), false) => text,
            (None, _) => label.clone(),
        };
        CompletionItem {
            label: label.clone(),
            kind: Some(kind),
            detail,
            documentation: about.map(|value| {
                let kind = if world.client.markdown { MarkupKind::Markdown } else { MarkupKind::PlainText };
                Documentation::MarkupContent(MarkupContent { kind, value })
            }),
            sort_text: Some(format!("{at:04}")),
            filter_text: Some(label),
            insert_text_format: (snippet && world.client.snippets).then_some(InsertTextFormat::SNIPPET),
            text_edit: Some(CompletionTextEdit::Edit(TextEdit { range, new_text })),
            ..Default::default()
        }
    });
    CompletionList { is_incomplete: many, items: made.collect() }
}

/// Are all letters there, in their order?
fn fits(typed: &str, label: &str) -> bool {
    let mut letters = label.chars().flat_map(char::to_lowercase);
    typed.chars().flat_map(char::to_lowercase).all(|letter| letters.any(|known| known == letter))
}

/// A piece with gaps, as text: what stands in the gaps stays.
fn plain(snippet: &str) -> String {
    let mut text = String::with_capacity(snippet.len());
    let mut rest = snippet;
    while let Some(at) = rest.find('$') {
        text.push_str(&rest[..at]);
        rest = &rest[at + 1..];
        if text.ends_with('\\') {
            text.pop();
            text.push('$');
        } else if let Some((gap, after)) = rest.strip_prefix('{').and_then(|inner| inner.split_once('}')) {
            text.push_str(gap.split_once(':').map_or("", |(_, held)| held));
            rest = after;
        } else {
            rest = rest.trim_start_matches(|letter: char| letter.is_ascii_digit());
        }
    }
    text.push_str(rest);
    text
}

#[cfg(test)]
mod tests {
    use super::manifest::gap;
    use super::names::relative;
    use super::{fits, plain};

    #[test]
    fn a_piece_with_gaps_is_plain_text_without_them() {
        assert_eq!(plain("label = \"${1:What}\""), "label = \"What\"");
        assert_eq!(plain("place(\"${1}\")"), "place(\"\")");
        assert_eq!(plain("a $0 b"), "a  b");
        assert_eq!(plain("cost \\$5"), "cost $5");
        assert_eq!(gap("\"a\""), "\"${1:a}\"");
        assert_eq!(gap("{ a = 1 }"), "${1:{ a = 1 \\}}");
        assert_eq!(plain(&gap("[\"a\"]")), "[\"a\"]");
    }

    #[test]
    fn letters_fit_in_their_order() {
        assert!(fits("hkum", "hook:under-masthead") && fits("", "x") && fits("HOOK", "hook:x"));
        assert!(!fits("mu", "hook:under") && !fits("xx", "x"));
    }

    #[test]
    fn a_path_is_named_from_where_it_is_needed() {
        assert_eq!(relative("media", "media/a.svg"), "a.svg");
        assert_eq!(relative("media/fonts", "media/a.svg"), "../a.svg");
        assert_eq!(relative("code", "code/lib/times.js"), "lib/times.js");
        assert_eq!(relative("", "media/a.svg"), "media/a.svg");
    }
}
