//! Elements that are only there where something fills what they hold.

use std::ops::Range;

use minijinja::machinery::{Token, tokenize};

use super::elements::{Element, elements};
use super::markup_tags::{Branch, branches};
use super::placement::Placement;
use super::{EditError, Position, line_end};
use crate::address::{Address, Kind};
use crate::link::Registry;
use crate::scan::{Verb, html_alone};
use crate::source::{Edit, FileId, LineIndex, Span};

/// The edits that put a guard around an element into which placements come by one more edit.
pub(super) fn around(
    registry: &Registry,
    element: &Element,
    edit: Edit,
    new: &Placement,
) -> Result<Vec<Edit>, EditError> {
    let text = registry.project().file(new.file).text();
    let shown = registry.project().shown(new.file);
    let Some(close) = element.close else { return Err(no_guard(text, &shown, element, "it has no end tag")) };
    let held = Span { start: element.open.end, end: close.start };
    let within = held.start <= edit.span.start && edit.span.end <= held.end;
    if !within {
        return Err(EditError::new("a guard goes around the element that a point is placed in: --inside or --instead"));
    }
    let inner = text[held.range()].to_string();
    let (from, to) = (edit.span.range().start - held.range().start, edit.span.range().end - held.range().start);
    let then = format!("{}{}{}", &inner[..from], edit.new, &inner[to..]);
    let guard = condition(&then)
        .ok_or_else(|| no_guard(text, &shown, element, "it holds more than placements, and so is never empty"))?;
    let mut edits = wrapping(text, new, Span { start: element.open.start, end: close.end }, &guard);
    edits.insert(1, edit);
    Ok(edits)
}

/// What becomes of a guard that asks for other points than the one that comes into it.
pub(super) enum Widened {
    /// It asks for this one, too.
    By(Edit),
    /// It stands around one element alone, beside which the point is placed: the point comes beside the guard. Where,
    /// and whether that is behind it.
    Beside(usize, bool),
}

/// What becomes of the guard in which a placement comes: one that asks only whether points are filled. Nothing where
/// it can stay as it is.
pub(super) fn widened(text: &str, edit: &Edit, new: &Placement) -> Option<Widened> {
    let (position, _) = new.at.as_ref()?;
    let (branch, wider) = around_place(text, edit.span.range(), new.file, &new.points)?;
    let beside = matches!(position, Position::Before | Position::After);
    match (beside, branch.only) {
        (false, _) => Some(Widened::By(wider)),
        (true, true) => {
            let before = text[branch.inner.start..edit.span.range().start].trim().is_empty();
            let behind = text[edit.span.range().end..branch.inner.end].trim().is_empty();
            match position {
                Position::Before if before => Some(Widened::Beside(branch.tag.range.start, false)),
                Position::After if behind => Some(Widened::Beside(branch.end, true)),
                _ => None,
            }
        }
        (true, false) => None,
    }
}

/// The guard around a stretch of a template, where it asks whether other points are filled and for nothing else, and the
/// edit by which it asks for these, too.
fn around_place<'t>(
    text: &'t str,
    range: Range<usize>,
    file: FileId,
    points: &[Address],
) -> Option<(Branch<'t>, Edit)> {
    let within = |branch: &Branch<'_>| branch.inner.start <= range.start && range.end <= branch.inner.end;
    let branch = branches(text).into_iter().find(within)?;
    let known = branch.tag.filled()?;
    let is_new = |point: &&Address| known.iter().all(|(known, _)| point.to_string() != *known);
    let missing = points.iter().filter(|point| may_be_empty(point.kind)).filter(is_new);
    let missing: String = missing.map(|point| format!(" or filled(\"{point}\")")).collect();
    let end = known.last().filter(|_| !missing.is_empty())?.1.end;
    Some((branch, Edit { file, span: Span::new(end, end), new: missing }))
}

/// The edits by which the guards around points that the template places already ask for these, too.
fn widened_around(registry: &Registry, new: &Placement) -> Vec<Edit> {
    let text = registry.project().file(new.file).text();
    let mut edits: Vec<Edit> = Vec::new();
    for point in &new.points {
        let uses = registry.point(*point).map_or(&[][..], |known| &known.uses);
        for id in uses.iter().filter(|id| id.file == new.file && registry.use_of(**id).verb == Verb::Place) {
            let range = registry.span(registry.use_place(*id)).range();
            edits.extend(around_place(text, range, new.file, &[*point]).map(|(_, edit)| edit));
        }
    }
    edits
}

/// May a point of this kind be empty, so that a guard can ask for it?
fn may_be_empty(kind: Kind) -> bool {
    matches!(kind, Kind::Region | Kind::Area | Kind::Menu | Kind::Hook)
}

/// The edits that put guards around the elements that hold nothing but a point which the template places already.
pub(super) fn around_placed(registry: &Registry, new: &Placement) -> Result<Vec<Edit>, EditError> {
    let text = registry.project().file(new.file).text();
    let shown = registry.project().shown(new.file);
    let wider = widened_around(registry, new);
    if !wider.is_empty() {
        return Ok(wider);
    }
    let all = elements(text).unwrap_or_default();
    let asked = |element: &&Element| {
        let inner = element.close.map(|close| &text[element.open.range().end..close.range().start]);
        let placed = inner.and_then(placed_alone).unwrap_or_default();
        !placed.is_empty() && placed.iter().all(|point| new.points.contains(point))
    };
    let Some(element) = all.iter().find(asked) else {
        let points: Vec<String> = new.points.iter().map(Address::to_string).collect();
        return Err(EditError::new(format!(
            "no element of {shown} holds nothing but {}; say where to place it: --before, --after, --inside or --instead an \
             element, or --block",
            points.join(" and ")
        )));
    };
    let Some(close) = element.close else { return Ok(Vec::new()) };
    let guard = condition(&text[element.open.range().end..close.range().start]).unwrap_or_default();
    if text[..element.open.range().start].trim_end().ends_with(&format!("{{% if {guard} %}}")) {
        return Err(no_guard(text, &shown, element, "it has that guard already"));
    }
    Ok(wrapping(text, new, Span { start: element.open.start, end: close.end }, &guard))
}

fn no_guard(text: &str, shown: &str, element: &Element, why: &str) -> EditError {
    let line = LineIndex::new(text).position(element.open.start).0;
    EditError::new(format!("the {} on line {line} of {shown} gets no guard: {why}", element.name))
}

/// The two edits around an element: on lines of their own where it has its lines for itself.
fn wrapping(text: &str, new: &Placement, element: Span, guard: &str) -> Vec<Edit> {
    let range = element.range();
    let line = text[..range.start].rfind('\n').map_or(0, |end| end + 1);
    let lead = &text[line..range.start];
    let rest = text[range.end..].lines().next().unwrap_or_default();
    let alone = lead.trim().is_empty() && rest.trim().is_empty();
    let gap = if alone { format!("{}{lead}", line_end(text)) } else { String::new() };
    let edit = |at: usize, new_text: String| Edit { file: new.file, span: Span::new(at, at), new: new_text };
    vec![edit(range.start, format!("{{% if {guard} %}}{gap}")), edit(range.end, format!("{gap}{{% endif %}}"))]
}

/// The condition under which there is something to show in what holds nothing but placements.
fn condition(inner: &str) -> Option<String> {
    let placed = placed_alone(inner)?;
    let parts: Vec<String> = placed.iter().map(|point| format!("filled(\"{point}\")")).collect();
    (!parts.is_empty()).then(|| parts.join(" or "))
}

/// The points that a stretch of a template places, where that is all that it does and each of them may be empty.
pub(super) fn placed_alone(inner: &str) -> Option<Vec<Address>> {
    // What is printed becomes letters there, and everything else stays or becomes blank.
    let mut rest = html_alone(inner)?;
    let mut found = Vec::new();
    let mut open: Option<(usize, Vec<Token<'_>>)> = None;
    for token in tokenize(inner, false, Default::default()) {
        let (token, span) = token.ok()?;
        match token {
            Token::BlockStart => return None,
            Token::VariableStart => open = Some((span.start_offset as usize, Vec::new())),
            Token::VariableEnd => {
                let (start, tokens) = open.take()?;
                let point: Address = match &tokens[..] {
                    [Token::Ident("place"), Token::ParenOpen, Token::Str(point), ..] => point.parse().ok()?,
                    [Token::Ident("place"), Token::ParenOpen, Token::String(point), ..] => point.parse().ok()?,
                    _ => return None,
                };
                if !may_be_empty(point.kind) {
                    return None;
                }
                found.push(point);
                rest.replace_range(start..span.end_offset as usize, &" ".repeat(span.end_offset as usize - start));
            }
            Token::TemplateData(_) => {}
            token => open.as_mut()?.1.push(token),
        }
    }
    (rest.trim().is_empty()).then_some(found)
}
