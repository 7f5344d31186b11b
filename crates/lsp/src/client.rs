//! What an editor said that it can do.

use lsp_types::{ClientCapabilities, MarkupKind};

use crate::place::Encoding;

/// What an editor can do, as far as it matters.
#[derive(Clone, Debug)]
pub struct Client {
    /// How it counts letters.
    pub encoding: Encoding,
    /// Does it ask for diagnostics by itself?
    pub pulls: bool,
    /// Can it be asked to pull them again?
    pub pulls_again: bool,
    /// Does it show related places of a diagnostic?
    pub related: bool,
    /// Does it show tags of diagnostics?
    pub tags: bool,
    /// Can a diagnostic's rule lead somewhere?
    pub describes: bool,
    /// Does it tell which files have changed on the disk, where it is asked to?
    pub watches: bool,
    /// Does it show how far something is?
    pub progress: bool,
    /// Does it show Markdown?
    pub markdown: bool,
    /// Can it put a piece with gaps into a text?
    pub snippets: bool,
    /// Can an edit come with files that come and go?
    pub files: bool,
    /// Can it ask people whether to make some of the changes?
    pub annotations: bool,
    /// Can symbols be nested?
    pub nested_symbols: bool,
    /// Can it be asked to ask for lenses and hints again?
    pub lenses_again: bool,
    /// The same for hints.
    pub hints_again: bool,
}

impl Client {
    /// Reads what it said at first.
    pub fn new(said: &ClientCapabilities) -> Client {
        let text = said.text_document.as_ref();
        let workspace = said.workspace.as_ref();
        let window = said.window.as_ref();
        let offered = said.general.as_ref().and_then(|general| general.position_encodings.as_deref());
        let published = text.and_then(|text| text.publish_diagnostics.as_ref());
        let hover = text.and_then(|text| text.hover.as_ref()?.content_format.as_ref());
        let edits = workspace.and_then(|workspace| workspace.workspace_edit.as_ref());
        let is = |said: Option<bool>| said == Some(true);
        Client {
            encoding: Encoding::agreed(offered),
            pulls: text.is_some_and(|text| text.diagnostic.is_some()),
            pulls_again: is(workspace.and_then(|known| known.diagnostic.as_ref()?.refresh_support)),
            related: is(published.and_then(|known| known.related_information)),
            tags: published.is_some_and(|known| known.tag_support.is_some()),
            describes: is(published.and_then(|known| known.code_description_support)),
            watches: is(workspace.and_then(|known| known.did_change_watched_files.as_ref()?.dynamic_registration)),
            progress: is(window.and_then(|window| window.work_done_progress)),
            markdown: hover.is_none_or(|formats| formats.contains(&MarkupKind::Markdown)),
            snippets: is(text.and_then(|text| text.completion.as_ref()?.completion_item.as_ref()?.snippet_support)),
            // Such operations stand in `documentChanges`: who offers the one takes the other, said or not.
            files: edits.is_some_and(|edits| edits.resource_operations.as_ref().is_some_and(|known| known.len() >= 3)),
            annotations: edits.is_some_and(|edits| edits.change_annotation_support.is_some()),
            nested_symbols: is(
                text.and_then(|text| text.document_symbol.as_ref()?.hierarchical_document_symbol_support)
            ),
            lenses_again: is(workspace.and_then(|known| known.code_lens.as_ref()?.refresh_support)),
            hints_again: is(workspace.and_then(|known| known.inlay_hint.as_ref()?.refresh_support)),
        }
    }
}
