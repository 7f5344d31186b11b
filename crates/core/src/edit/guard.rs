//! Elements that are only there where something fills what they hold.

use minijinja::machinery::{Token, tokenize};

use super::elements::{Element, elements};
use super::placement::Placement;
use super::{EditError, line_end};
use crate::address::{Address, Kind};
use crate::link::Registry;
use crate::scan::html_alone;
use crate::source::{Edit, LineIndex, Span};

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

/// The edits that put guards around the elements that hold nothing but a point which the template places already.
pub(super) fn around_placed(registry: &Registry, new: &Placement) -> Result<Vec<Edit>, EditError> {
    let text = registry.project().file(new.file).text();
    let shown = registry.project().shown(new.file);
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
                if !matches!(point.kind, Kind::Region | Kind::Area | Kind::Menu | Kind::Hook) {
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
