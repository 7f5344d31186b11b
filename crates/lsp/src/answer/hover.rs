//! What is told of the thing under the pointer.

use lsp_types::{Hover, HoverContents, HoverParams, MarkupContent, MarkupKind};

use crate::answer::goto::targets;
use crate::answer::words;
use crate::world::World;

/// What `show` says of what is spoken of there, short.
pub fn hover(world: &World, params: HoverParams) -> Option<Hover> {
    let asked = params.text_document_position_params;
    let spot = world.spot(&asked.text_document.uri, asked.position)?;
    let registry = &spot.theme.registry;
    let found = targets(&spot);
    let span = found.first()?.span;
    let written = &registry.project().file(spot.file).text()[span.range()];
    let mut told: Vec<String> =
        found.iter().filter_map(|mention| words::told(spot.theme, mention.target, written)).collect();
    told.dedup();
    if told.is_empty() {
        return None;
    }
    Some(shown(world, told.join("\n\n---\n\n"), Some(world.ruler(registry, spot.file).range(span))))
}

/// Markdown, or plain text for editors that show nothing else.
pub fn shown(world: &World, text: String, range: Option<lsp_types::Range>) -> Hover {
    let (kind, value) = match world.client.markdown {
        true => (MarkupKind::Markdown, text),
        false => (MarkupKind::PlainText, text.replace("**", "").replace('`', "")),
    };
    Hover { contents: HoverContents::Markup(MarkupContent { kind, value }), range }
}
