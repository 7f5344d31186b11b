//! In translations: the messages of the theme that have no entry yet.

use lsp_types::CompletionItemKind as Shape;
use truehook_core::source::Span;

use super::{Found, Item, Typing};

/// What could be typed in a translation.
pub fn complete(typing: &Typing<'_>) -> Option<Found> {
    let before = &typing.text[..typing.offset];
    let line_start = before.rfind('\n').map_or(0, |at| at + 1);
    let typed = before[line_start..].strip_prefix("msgid \"")?;
    let rest = typing.text[typing.offset..].lines().next().unwrap_or_default();
    let end = typing.offset + rest.trim_end().strip_suffix('"').map_or(0, str::len);
    let registry = typing.registry();
    let known = registry.words(typing.file).map(|words| words.entries.as_slice()).unwrap_or_default();
    let open = registry.messages().filter(|used| !known.iter().any(|entry| entry.id == used.message.id.name));
    let items: Vec<Item> = open
        .map(|used| {
            let text = used.message.id.name.as_str();
            let escaped = text.replace('\\', "\\\\").replace('"', "\\\"").replace('\n', "\\n").replace('\t', "\\t");
            Item::new(text, Shape::TEXT, 0).insert(escaped).detail(registry.project().shown(used.file))
        })
        .collect();
    (!items.is_empty()).then_some(Found { items, span: Span::new(typing.offset - typed.len(), end.max(typing.offset)) })
}
