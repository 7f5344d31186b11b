//! Findings with the source around them.

use std::cmp::Reverse;
use std::collections::HashMap;
use std::io::Write;
use std::time::Duration;

use annotate_snippets::{AnnotationKind, Group, Level as Title, Renderer, Snippet};
use anyhow::Result;
use camino::Utf8Path;
use rayon::prelude::*;
use truehook_core::link::Registry;
use truehook_core::rules::{Finding, FoundPlace, Level};
use truehook_core::source::{FileId, LayerId, LineIndex};
use truehook_core::view::Summary;
use truehook_core::visible::visible;

use super::{count, narrow, stream, table};

/// Lines that lie no further apart than this are shown as one piece.
const NEAR: usize = 4;
/// More places than this are counted, not shown.
const SHOWN: usize = 6;
/// Of texts longer than this, in bytes, only what is around the marks is shown: so much on each side.
const LONG: usize = 1000;
const AROUND: usize = 80;
/// From so many findings on they are put into words several at a time.
const MANY: usize = 256;

/// Prints findings, in colour or not. Paths are shown relative to `near`, the folder from which the theme was named.
pub fn write<'f>(
    out: &mut impl Write,
    coloured: bool,
    registry: &Registry,
    findings: impl Iterator<Item = &'f Finding>,
    near: &Utf8Path,
) -> Result<()> {
    let width = table::window();
    let renderer = if coloured { Renderer::styled() } else { Renderer::plain() };
    let renderer = width.map_or(renderer.clone(), |width| renderer.term_width(width));
    let mut findings: Vec<&Finding> = findings.collect();
    // What breaks comes first.
    findings.sort_by_key(|finding| Reverse(finding.level));
    // Where lines begin is worked out once for each file, however many findings are in it.
    let lines = Lines::of(registry, &findings);
    let text = |finding: &&Finding| {
        let pieces = pieces(registry, &lines, finding, near);
        let mut text = renderer.render(&[group(finding, &pieces)]);
        for (told, right) in pieces.iter().filter_map(|piece| piece.origin.as_ref()) {
            text = text.replacen(told, right, 1);
        }
        if let Some(width) = width {
            text = narrow::fold(&text, width);
        }
        text.push_str("\n\n");
        // The renderer writes out what would steer the terminal; the escapes are its own.
        stream::own(&text)
    };
    // In one piece: what is printed goes out with each line's end otherwise.
    for some in findings.chunks(MANY) {
        let texts: Vec<String> = match some.len() < MANY {
            true => some.iter().map(text).collect(),
            false => some.par_iter().map(text).collect(),
        };
        out.write_all(texts.concat().as_bytes())?;
    }
    Ok(())
}

/// Where the lines begin in the files that findings show.
struct Lines<'r>(HashMap<FileId, LineIndex<'r>>);

impl<'r> Lines<'r> {
    fn of(registry: &'r Registry, findings: &[&Finding]) -> Lines<'r> {
        let mut lines: HashMap<FileId, LineIndex<'r>> = HashMap::new();
        for place in findings.iter().flat_map(|finding| finding.places.iter().take(SHOWN)) {
            lines.entry(place.file).or_insert_with(|| registry.lines(place.file));
        }
        Lines(lines)
    }
}

/// Some lines of a file with what to say about them.
struct Piece {
    path: String,
    first_line: usize,
    text: String,
    /// Spans in the text, what to say there, and whether it is the primary place.
    marks: Vec<(std::ops::Range<usize>, String, bool)>,
    /// Where the text is cut: the place as it would be told by that, and as it is.
    origin: Option<(String, String)>,
}

impl Piece {
    /// Leaves of long lines what is around the marks.
    fn cut(&mut self, whole: &str) {
        let bounds = |start: usize, end: usize| {
            let (mut start, mut end) = (start.saturating_sub(AROUND), (end + AROUND).min(whole.len()));
            while !whole.is_char_boundary(start) {
                start -= 1;
            }
            while !whole.is_char_boundary(end) {
                end += 1;
            }
            start..end
        };
        // What of the text stays, in order; places close together stay with what is between them.
        let mut kept: Vec<std::ops::Range<usize>> = Vec::new();
        let mut marks: Vec<&(std::ops::Range<usize>, String, bool)> = self.marks.iter().collect();
        marks.sort_by_key(|(span, ..)| span.start);
        for (span, ..) in marks {
            let around = bounds(span.start, span.end.min(span.start + AROUND));
            match kept.last_mut() {
                Some(last) if around.start <= last.end => last.end = last.end.max(around.end),
                _ => kept.push(around),
            }
        }
        let mut text = String::new();
        let mut moved: Vec<(usize, usize)> = Vec::new();
        for part in kept {
            if part.start > 0 {
                text.push('…');
            }
            moved.push((part.start, text.len()));
            text.push_str(&whole[part.clone()]);
            if part.end < whole.len() {
                text.push('…');
            }
        }
        let now = |at: usize| {
            let (start, new) = moved.iter().rev().find(|(start, _)| *start <= at).copied().unwrap_or((0, 0));
            (new + (at - start)).min(text.len())
        };
        let marks = self.marks.iter().map(|(span, label, primary)| {
            let end = span.end.min(span.start + AROUND);
            (now(span.start)..now(end), label.clone(), *primary)
        });
        self.marks = marks.collect();
        self.text = text;
    }
}

fn pieces(registry: &Registry, lines: &Lines<'_>, finding: &Finding, near: &Utf8Path) -> Vec<Piece> {
    let mut found: Vec<(FoundPlace, bool)> = Vec::new();
    for (at, place) in finding.places.iter().take(SHOWN).enumerate() {
        found.push((place.clone(), at == 0));
    }
    let mut pieces: Vec<Piece> = Vec::new();
    while !found.is_empty() {
        let (first, primary) = found.remove(0);
        let text = registry.project().file(first.file).text();
        let Some(index) = lines.0.get(&first.file) else { continue };
        let lines = |place: &FoundPlace| {
            let end = place.span.end.max(place.span.start + 1) - 1;
            (index.line(place.span.start), index.line(end.max(place.span.start)))
        };
        let (mut from, mut to) = lines(&first);
        let mut group = vec![(first.clone(), primary)];
        while let Some(at) = found.iter().position(|(place, _)| {
            let (start, end) = lines(place);
            place.file == first.file && start <= to + NEAR && end + NEAR >= from
        }) {
            let (place, primary) = found.remove(at);
            let (start, end) = lines(&place);
            (from, to) = (from.min(start), to.max(end));
            group.push((place, primary));
        }
        let range = index.lines(from, to);
        let window = &text[range.clone()];
        let marks = group.into_iter().map(|(place, primary)| {
            let start = (place.span.start as usize).clamp(range.start, range.end) - range.start;
            let end = (place.span.end as usize).clamp(range.start, range.end) - range.start;
            (start..end.max(start), visible(&place.label).into_owned(), primary)
        });
        let shown = registry.project().shown(first.file);
        let path = if near.as_str().is_empty() { shown } else { join(near, &shown) };
        let path = visible(&path).into_owned();
        let (line, column) = index.position(first.span.start);
        let long = window.len() > LONG;
        let text = if long { String::new() } else { window.to_string() };
        let mut piece = Piece { path, first_line: from, text, marks: marks.collect(), origin: None };
        if long {
            piece.cut(window);
            let before = piece.marks.first().map_or("", |(span, ..)| &piece.text[..span.start]);
            let last = before.rsplit('\n').next().unwrap_or_default().chars().count() + 1;
            let at = from + before.matches('\n').count();
            let place = |line: usize, column: usize| format!("{}:{line}:{column}", piece.path);
            piece.origin = Some((place(at, last), place(line, column)));
        }
        pieces.push(piece);
    }
    pieces
}

/// A path seen from the folder that the theme was named from.
fn join(near: &Utf8Path, shown: &str) -> String {
    let mut path = near.to_path_buf();
    let mut rest = shown;
    while let (Some(after), true) = (rest.strip_prefix("../"), path.file_name().is_some()) {
        path.pop();
        rest = after;
    }
    if shown.contains(':') { shown.to_string() } else { path.join(rest).to_string() }
}

fn group<'a>(finding: &'a Finding, pieces: &'a [Piece]) -> Group<'a> {
    let title = match finding.level {
        Level::Error => Title::ERROR,
        Level::Warning => Title::WARNING,
        Level::Note => Title::NOTE,
    };
    let mut group = Group::with_title(title.primary_title(finding.message.as_str()).id(finding.rule));
    for piece in pieces {
        let mut snippet =
            Snippet::source(piece.text.as_str()).path(piece.path.as_str()).line_start(piece.first_line).fold(true);
        for (span, label, primary) in &piece.marks {
            let kind = if *primary { AnnotationKind::Primary } else { AnnotationKind::Context };
            let mark = kind.span(span.clone());
            snippet = snippet.annotation(if label.is_empty() { mark } else { mark.label(label.as_str()) });
        }
        group = group.element(snippet);
    }
    if finding.places.len() > SHOWN {
        let more = format!("{} more places", finding.places.len() - SHOWN);
        group = group.element(Title::NOTE.with_name("and").message(more));
    }
    if let Some(mend) = &finding.mend {
        let (word, text) = mend.printed();
        group = group.element(Title::HELP.with_name(word).message(visible(&text).into_owned()));
    }
    group
}

/// Prints how much was checked, and what came of it.
pub fn write_summary(
    out: &mut impl Write,
    registry: &Registry,
    summary: &Summary,
    below_in: &[LayerId],
    notes_listed: bool,
    time: Duration,
) -> Result<()> {
    let mut found = Vec::new();
    for (number, word) in [(summary.errors, "error"), (summary.warnings, "warning")] {
        if number > 0 {
            found.push(count(number, word));
        }
    }
    if found.is_empty() {
        found.push("nothing wrong".to_string());
    }
    if summary.notes > 0 {
        let hint = match (notes_listed, summary.notes) {
            (true, _) => "",
            (false, 1) => " (--notes shows it)",
            (false, _) => " (--notes shows them)",
        };
        found.push(format!("{}{hint}", count(summary.notes, "note")));
    }
    if summary.ignored > 0 {
        found.push(format!("{} ignored", summary.ignored));
    }
    let found = found.join(", ");
    let name = registry.project().layer(registry.project().top()).name;
    writeln!(
        out,
        "{found} in {name} ({}, {}, {}; {} ms)",
        count(summary.points, "point"),
        count(summary.placements, "placement"),
        count(summary.attachments, "attachment"),
        time.as_millis()
    )?;
    if summary.below > 0 {
        let below: Vec<&str> = below_in.iter().map(|layer| registry.project().layer(*layer).name.as_str()).collect();
        writeln!(
            out,
            "{} below, in {} alone; check those by themselves",
            count(summary.below, "finding"),
            below.join(" and ")
        )?;
    }
    Ok(())
}
