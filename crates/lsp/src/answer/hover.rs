//! What is told of the thing under the pointer.

use lsp_types::{Hover, HoverContents, HoverParams, MarkupContent, MarkupKind};

use truehook_core::address::Kind;
use truehook_core::catalogue;
use truehook_core::read::FileKind;

use crate::answer::complete::about;
use crate::answer::goto::targets;
use crate::answer::words;
use crate::cursor::toml::{Part, place};
use crate::world::{Spot, World};

/// What `show` says of what is spoken of there, short.
pub fn hover(world: &World, params: HoverParams) -> Option<Hover> {
    let asked = params.text_document_position_params;
    let spot = world.spot(&asked.text_document.uri, asked.position)?;
    let registry = &spot.theme.registry;
    let found = targets(&spot);
    let Some(span) = found.first().map(|mention| mention.span) else { return key(world, &spot) };
    let written = &registry.project().file(spot.file).text()[span.range()];
    let mut told: Vec<String> =
        found.iter().filter_map(|mention| words::told(spot.theme, mention.target, written)).collect();
    told.dedup();
    if told.is_empty() {
        return None;
    }
    Some(shown(world, told.join("\n\n---\n\n"), Some(world.ruler(registry, spot.file).range(span))))
}

/// What a key of a manifest or of the preview says.
fn key(world: &World, spot: &Spot<'_>) -> Option<Hover> {
    let registry = &spot.theme.registry;
    let source = registry.project().file(spot.file);
    if !matches!(source.kind, FileKind::Manifest | FileKind::Site | FileKind::Page) {
        return None;
    }
    let text = source.text();
    let here = place(text, spot.offset as usize);
    let typed = match here.part {
        Part::Key(span) | Part::Header(span) => span,
        _ => return None,
    };
    let is_part = |letter: char| letter.is_alphanumeric() || letter == '-' || letter == '_';
    let at = typed.end as usize;
    let start = text[..at].rfind(|letter| !is_part(letter)).map_or(0, |before| before + 1);
    let end = at + text[at..].find(|letter| !is_part(letter)).unwrap_or(text.len() - at);
    let word = text.get(start..end).filter(|word| !word.is_empty())?;
    let of = match (source.kind, here.table.first(), here.listed) {
        (FileKind::Site, ..) => "preview/site.toml".to_string(),
        (FileKind::Page, ..) => "preview/pages/".to_string(),
        (_, Some(table), true) => format!("[[{table}]]"),
        (_, Some(table), false) => format!("[{table}"),
        (_, None, _) => "truehook.toml".to_string(),
    };
    let said = match Kind::from_word(word).filter(|_| matches!(here.part, Part::Header(_))) {
        Some(kind) => catalogue::kind(kind).to_string(),
        None => about(word, &of),
    };
    let range = world.ruler(registry, spot.file).range(truehook_core::source::Span::new(start, end));
    (!said.is_empty()).then(|| shown(world, format!("**`{word}`** – {said}"), Some(range)))
}

/// Markdown, or plain text for editors that show nothing else.
pub fn shown(world: &World, text: String, range: Option<lsp_types::Range>) -> Hover {
    let (kind, value) = match world.client.markdown {
        true => (MarkupKind::Markdown, text),
        false => (MarkupKind::PlainText, text.replace("**", "").replace('`', "")),
    };
    Hover { contents: HoverContents::Markup(MarkupContent { kind, value }), range }
}
