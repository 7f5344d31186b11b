//! A page's text in pieces, each with what printed it.

use std::ops::Range;

use html5gum::emitters::default::DefaultEmitter;
use html5gum::{Token, Tokenizer};
use truehook_core::source::Span;

use crate::record::tree::{Part, Printed, SegmentId, Source};
use crate::stage::Rendered;

/// A piece of a page that one thing printed.
#[derive(Clone, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub struct Piece {
    /// Its bytes in the page.
    pub range: Range<usize>,
    /// The segment that it is in.
    pub segment: SegmentId,
    /// What printed it, where that is a template; else it is what the segment came from.
    pub source: Option<Source>,
}

impl Piece {
    /// The bytes of the file that printed some of it; where the text is in the file as it is, just those of that.
    pub fn source_of(&self, range: &Range<usize>) -> Option<Source> {
        let source = self.source?;
        if source.printed != Printed::AsWritten {
            return Some(source);
        }
        let start = source.span.start as usize + range.start.max(self.range.start) - self.range.start;
        let end = source.span.start as usize + range.end.min(self.range.end) - self.range.start;
        Some(Source { span: Span::new(start, end), ..source })
    }
}

/// All pieces of a page that was rendered with what printed each text, in the order of the document.
pub fn pieces(page: &Rendered) -> Vec<Piece> {
    let tree = &page.tree;
    let mut found = Vec::new();
    let mut at = 0;
    let mut open: Vec<(SegmentId, usize)> = Vec::new();
    open.extend((!tree.segments.is_empty()).then_some((SegmentId(0), 0)));
    while let Some((id, part)) = open.pop() {
        let segment = tree.get(id);
        let Some(known) = segment.parts.get(part) else { continue };
        open.push((id, part + 1));
        match known {
            Part::Text(text) => {
                let source = segment.sources.get(part).copied().flatten();
                found.push(Piece { range: at..at + text.len(), segment: id, source });
                at += text.len();
            }
            Part::Hole(_) => {}
            Part::Segment(inner) => open.push((*inner, 0)),
        }
    }
    found
}

/// The texts of a page that people read, as ranges of its bytes: what stands between tags, but for scripts and
/// styles. Each is as long as it goes without a tag.
pub fn texts(html: &str) -> Vec<Range<usize>> {
    let mut emitter = DefaultEmitter::<usize>::new_with_span();
    emitter.naively_switch_states(true);
    let mut found: Vec<Range<usize>> = Vec::new();
    let mut done = 0;
    let mut hidden: Option<Vec<u8>> = None;
    let mut add = |from: usize, to: usize, hidden: bool| {
        if !hidden && html.get(from..to).is_some_and(|text| !text.trim().is_empty()) {
            found.push(from..to);
        }
    };
    for token in Tokenizer::new_with_emitter(html, emitter) {
        let Ok(token) = token;
        let span = match &token {
            Token::StartTag(tag) => tag.span,
            Token::EndTag(tag) => tag.span,
            Token::Comment(comment) => comment.span,
            Token::Doctype(doctype) => doctype.span,
            _ => continue,
        };
        add(done, span.start, hidden.is_some());
        done = span.end;
        match token {
            Token::StartTag(tag) if matches!(tag.name.as_slice(), b"script" | b"style") => {
                hidden = Some(tag.name.to_vec());
            }
            Token::EndTag(tag) if hidden.as_deref() == Some(tag.name.as_slice()) => hidden = None,
            _ => {}
        }
    }
    add(done, html.len(), hidden.is_some());
    found
}
