//! Placements put into a template, beside an element.

use super::elements::{Element, elements};
use super::{EditError, Position, Selector, line_end};
use crate::link::Registry;
use crate::read::FileKind;
use crate::scan::html_alone;
use crate::source::{Edit, FileId, LineIndex, Span};

/// The template of the checked theme that a command names.
///
/// # Errors
/// Where there is none, or only a lower layer has it.
pub fn own_template(registry: &Registry, name: &str) -> Result<FileId, EditError> {
    let name = name.strip_prefix("markup/").unwrap_or(name);
    let top = registry.project().top();
    if let Some(file) = registry.project().find(top, &format!("markup/{name}")) {
        return Ok(file);
    }
    let own: Vec<&str> = registry
        .project()
        .files_of(top)
        .filter(|(_, file)| file.kind == FileKind::Template)
        .map(|(_, file)| file.name())
        .collect();
    Err(match registry.files_named(FileKind::Template, name).last() {
        Some(lower) => {
            let layer = registry.project().layer(registry.project().file(*lower).layer).name;
            EditError::new(format!(
                "{name} belongs to {layer}, and commands edit this theme only; place it in one of its own templates ({})",
                own.join(", ")
            ))
        }
        None => {
            let near = crate::names::nearest(name, own.iter().copied()).map(str::to_string);
            EditError::new(format!("there is no template {name} in this theme{}", crate::names::hint(&near)))
        }
    })
}

/// How `place` is told of the place beside a line of a template, where that line begins or ends an element that a
/// selector finds: `--before footer`, `--after main`.
pub fn beside(registry: &Registry, file: FileId, line: Span, behind: bool) -> Option<String> {
    let html = html_alone(registry.project().file(file).text())?;
    let elements = elements(&html);
    let is_it = |element: &&Element| match behind {
        false => element.open.start == line.start,
        true => element.close.unwrap_or(element.open).end == line.end,
    };
    let element = elements.iter().find(is_it)?;
    let written = element.selectors().into_iter().find(|written| {
        let selector: Option<Selector> = written.parse().ok();
        selector.is_some_and(|selector| matches!(selector.find(&elements)[..], [one] if one.open == element.open))
    })?;
    Some(format!("{} {written}", if behind { "--after" } else { "--before" }))
}

/// The edit that puts placements into a template, before, after or inside the one element that fits.
///
/// # Errors
/// Where the template's tags can't be told apart, or not just one element fits.
pub fn place(
    registry: &Registry,
    file: FileId,
    points: &[String],
    position: Position,
    selector: &Selector,
    written: &str,
) -> Result<Edit, EditError> {
    let text = registry.project().file(file).text();
    let shown = registry.project().shown(file);
    let html = html_alone(text)
        .ok_or_else(|| EditError::new(format!("{shown} doesn't parse; mend that first (truehook check)")))?;
    let elements = elements(&html);
    let index = LineIndex::new(text);
    let line = |element: &Element| index.position(element.open.start).0;
    let found = selector.find(&elements);
    let element = match found[..] {
        [element] => element,
        [] => {
            let named: Vec<String> =
                elements.iter().take(12).map(|element| format!("{} (line {})", element.name, line(element))).collect();
            let there = if named.is_empty() {
                "it holds no elements".to_string()
            } else {
                format!("it holds {}", named.join(", "))
            };
            return Err(EditError::new(format!("nothing in {shown} fits `{written}`; {there}")));
        }
        _ => {
            let lines: Vec<String> = found.iter().map(|element| line(element).to_string()).collect();
            return Err(EditError::new(format!(
                "`{written}` fits {} elements in {shown}, on lines {}; say which with #id, .class or what it is in",
                found.len(),
                lines.join(", ")
            )));
        }
    };
    let calls: Vec<String> = points.iter().map(|point| format!("{{{{ place(\"{point}\") }}}}")).collect();
    let end = line_end(text);
    let (at, new) = match position {
        Position::Before => before(text, element.open.start as usize, &calls, end),
        Position::After => {
            let last = element.close.unwrap_or(element.open);
            after(text, element.open.start as usize, last.end as usize, &calls, end)
        }
        Position::Inside => {
            let Some(close) = element.close else {
                return Err(EditError::new(format!(
                    "the {} on line {} of {shown} has no end tag, so nothing can go inside it",
                    element.name,
                    line(element)
                )));
            };
            inside(text, element, close, &calls, end)
        }
    };
    Ok(Edit { file, span: Span::new(at, at), new })
}

/// The blanks before a place, if nothing else stands before it on its line.
fn indent(text: &str, at: usize) -> Option<&str> {
    let start = text[..at].rfind('\n').map_or(0, |end| end + 1);
    let lead = &text[start..at];
    lead.chars().all(|c| c == ' ' || c == '\t').then_some(lead)
}

fn before(text: &str, at: usize, calls: &[String], end: &str) -> (usize, String) {
    match indent(text, at) {
        Some(lead) => (at, calls.iter().map(|call| format!("{call}{end}{lead}")).collect()),
        None => (at, calls.concat()),
    }
}

fn after(text: &str, start: usize, at: usize, calls: &[String], end: &str) -> (usize, String) {
    match indent(text, start) {
        Some(lead) => (at, calls.iter().map(|call| format!("{end}{lead}{call}")).collect()),
        None => (at, calls.concat()),
    }
}

fn inside(text: &str, element: &Element, close: Span, calls: &[String], end: &str) -> (usize, String) {
    let at = close.start as usize;
    match (indent(text, at), indent(text, element.open.start as usize)) {
        // The end tag stands on a line of its own: so does what is added, one step further in.
        (Some(lead), _) => {
            let step = if lead.contains('\t') { "\t" } else { "  " };
            let lines: String = calls.iter().map(|call| format!("{lead}{step}{call}{end}")).collect();
            (at - lead.len(), lines)
        }
        // An empty element on one line is opened up.
        (None, Some(lead)) if element.open.end == close.start => {
            let lines: String = calls.iter().map(|call| format!("{end}{lead}  {call}")).collect();
            (at, format!("{lines}{end}{lead}"))
        }
        _ => (at, calls.concat()),
    }
}
