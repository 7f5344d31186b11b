//! What stands around a placement in a template, as far as a look at the text tells.

use std::ops::Range;

use crate::source::Span;

/// The `{{ … }}` around something.
pub fn braces(text: &str, span: Span) -> Option<Range<usize>> {
    let start = text[..span.range().start].rfind("{{")?;
    let end = span.range().end + text[span.range().end..].find("}}")? + 2;
    Some(start..end)
}

/// Where in a copy of a template something belongs that the original has.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Counterpart {
    /// A line of the copy that the original has, too.
    pub line: Span,
    /// Does what is lacking stand behind that line, and not before it?
    pub behind: bool,
}

/// Where in a copy something belongs that stands at a place of the original: beside the nearest line that both
/// have, one as deep as it where there is one.
pub fn counterpart(original: &str, at: usize, copy: &str) -> Option<Counterpart> {
    let start = original[..at].rfind('\n').map_or(0, |end| end + 1);
    let own = original[start..].lines().next().unwrap_or_default();
    let before = original[..start].lines().rev().enumerate().map(|(far, line)| (far, line, true));
    let after = original[at..].lines().skip(1).enumerate().map(|(far, line)| (far, line, false));
    let mut lines: Vec<(usize, &str, bool)> = before.chain(after).collect();
    lines.sort_by_key(|(far, line, behind)| (indent(line) != indent(own), *far, !behind));
    lines.into_iter().find_map(|(_, line, behind)| Some(Counterpart { line: same_line(line, copy)?, behind }))
}

/// How far a line is set in.
fn indent(line: &str) -> &str {
    &line[..line.len() - line.trim_start().len()]
}

/// The line of a text that says the same as another one, where only one does.
fn same_line(line: &str, text: &str) -> Option<Span> {
    let line = line.trim();
    let is_telling = line.chars().filter(|c| c.is_alphanumeric()).count() > 2;
    let mut found = text.lines().filter(|other| is_telling && other.trim() == line);
    let first = found.next().filter(|_| found.next().is_none())?.trim();
    let start = first.as_ptr() as usize - text.as_ptr() as usize;
    Some(Span::new(start, start + first.len()))
}

/// The element that holds a stretch of a template and nothing else: its name, and its start tag.
pub fn element_around(text: &str, range: Range<usize>) -> Option<(&str, Span)> {
    let before = text[..range.start].trim_end();
    let start = before.strip_suffix('>').and_then(|rest| rest.rfind('<'))?;
    let tag = &before[start..];
    let name: &str = tag[1..].split(|c: char| !c.is_ascii_alphanumeric() && c != '-').next()?;
    let is_start = name.starts_with(|c: char| c.is_ascii_alphabetic()) && !tag.ends_with("/>") && !tag.contains("-->");
    let closes = text[range.end..].trim_start().strip_prefix("</")?.strip_prefix(name)?.trim_start().starts_with('>');
    (is_start && closes).then(|| (name, Span::new(start, before.len())))
}

/// Is a stretch inside the head element? Nothing where the template has neither head nor body.
pub fn is_inside_head(text: &str, range: Range<usize>) -> Option<bool> {
    let lower = text.to_ascii_lowercase();
    let tag = |name: &str| {
        let mut found = lower.match_indices(name).map(|(at, _)| at);
        found.find(|at| lower[at + name.len()..].starts_with(['>', ' ', '\n', '\t', '\r']))
    };
    match (tag("<head"), tag("</head"), tag("<body")) {
        (None, None, None) => None,
        // Both tags of the head may be left out (HTML, 13.1.2.4): what stands before the body is in it.
        (None, None, Some(body)) => Some(range.start < body),
        (head, end, body) => {
            let after_start = head.is_none_or(|head| head < range.start) && (head.is_some() || end.is_some());
            let before_end = end.or(body).is_none_or(|end| range.start < end);
            Some(after_start && before_end)
        }
    }
}

/// Is a stretch the last thing in the body element? Nothing where the template does not end a body.
pub fn is_last_in_body(text: &str, range: Range<usize>) -> Option<bool> {
    let end = text.to_ascii_lowercase().rfind("</body")?;
    let mut rest = text.get(range.end..end)?.trim_start();
    loop {
        let close = match rest.get(..2) {
            Some("{%") => "%}",
            Some("{#") => "#}",
            _ if rest.starts_with("<!--") => "-->",
            _ => return Some(rest.is_empty()),
        };
        let Some(at) = rest.find(close) else { return Some(false) };
        rest = rest[at + close.len()..].trim_start();
    }
}
