//! What is said behind a placement, and behind an attachment.

use lsp_types::{InlayHint, InlayHintKind, InlayHintLabel, InlayHintParams};
use truehook_core::link::{Point, Registry};
use truehook_core::scan::{Shape, Verb};
use truehook_core::source::{FileId, Place, Span};

use crate::answer::words::ordinal;
use crate::world::World;

/// How many callbacks are named.
const NAMED: usize = 4;

/// The hints of a part of a file.
pub fn hints(world: &World, params: InlayHintParams) -> Option<Vec<InlayHint>> {
    let (theme, file) = world.find(&params.text_document.uri)?;
    let registry = &theme.registry;
    let ruler = world.ruler(registry, file);
    let wanted = ruler.span(params.range);
    let meets = |span: Span| span.start <= wanted.end && wanted.start <= span.end;
    let found = told(registry, file).into_iter().filter(|(span, _)| meets(*span));
    let hints = found.map(|(span, text)| InlayHint {
        position: ruler.position(span.end as usize),
        label: InlayHintLabel::String(text),
        kind: None::<InlayHintKind>,
        text_edits: None,
        tooltip: None,
        padding_left: Some(true),
        padding_right: None,
        data: None,
    });
    Some(hints.collect())
}

fn told(registry: &Registry, file: FileId) -> Vec<(Span, String)> {
    let text = registry.project().file(file).text();
    let facts = registry.facts(file);
    match &facts.shape {
        Shape::Template(shape) => {
            let placed = shape.uses.iter().filter(|used| matches!(used.verb, Verb::Place | Verb::Through));
            let runs = placed.filter_map(|used| {
                let point = registry.point(used.point.address?)?;
                let runs = running(registry, point)?;
                Some((end_of_tag(text, facts.span(used.point.at)), runs))
            });
            runs.collect()
        }
        Shape::Manifest(shape) => {
            let attached = shape.attachments.iter().filter_map(|attachment| {
                let point = registry.point(attachment.to.address?)?;
                let place = Place { file, at: attachment.at };
                let said = match point.slots.iter().position(|slot| slot.place == place) {
                    // Of one alone there is nothing to say.
                    Some(_) if point.slots.len() == 1 => return None,
                    Some(at) => format!("{} of {}", ordinal(at + 1), point.slots.len()),
                    None if point.detached.iter().any(|slot| slot.place == place) => "detached above".to_string(),
                    None => return None,
                };
                let span = facts.span(attachment.to.at);
                Some((Span { start: span.start, end: end_of_line(text, span.end) }, said))
            });
            attached.collect()
        }
        _ => Vec::new(),
    }
}

/// What runs there, in order.
fn running(registry: &Registry, point: &Point) -> Option<String> {
    let names: Vec<String> = point.slots.iter().map(|slot| registry.slot_name(slot)).collect();
    if names.is_empty() {
        return None;
    }
    let more = names.len().saturating_sub(NAMED);
    let shown = names[..names.len() - more].join(", ");
    Some(if more > 0 { format!("{shown} and {more} more") } else { shown })
}

/// Behind `}}`, where the tag ends on the same line.
fn end_of_tag(text: &str, span: Span) -> Span {
    let line = &text[span.end as usize..end_of_line(text, span.end) as usize];
    let ends = ["}}", "%}"].into_iter().filter_map(|end| line.find(end)).min();
    let end = ends.map_or(span.end, |at| span.end + at as u32 + 2);
    Span { start: span.start, end }
}

fn end_of_line(text: &str, from: u32) -> u32 {
    let rest = &text[from as usize..];
    from + rest.find(['\r', '\n']).unwrap_or(rest.len()) as u32
}
