//! Tables without lines: as wide as the terminal, folded where it is too narrow, and records where they are piped.

use std::io::{IsTerminal, Write};

use anyhow::Result;
use comfy_table::{ColumnConstraint, ContentArrangement, Table};

use super::style;

/// The narrowest that a column of words may be.
const NARROWEST: usize = 12;

/// Whether tables are written as records, one a line, with tabs between the cells: where the output is no terminal and
/// no width is stated.
pub fn is_piped() -> bool {
    stated_width().is_none() && !std::io::stdout().is_terminal()
}

/// A line that is no part of a table: under it, or beside the records, where programs don't take it for one.
pub fn note(out: &mut impl Write, text: &str) -> Result<()> {
    match is_piped() {
        // Where nobody takes it, the records still count.
        true => drop(writeln!(crate::output::stream::stderr(), "{text}")),
        false => writeln!(out, "{}", textwrap::fill(text, usize::from(width())))?,
    }
    Ok(())
}

/// Prints a table; `words` is the column that may be wrapped.
pub fn write(
    out: &mut impl Write,
    titles: &[&str],
    words: usize,
    rows: impl IntoIterator<Item = Vec<String>>,
) -> Result<()> {
    let rows: Vec<Vec<String>> = rows.into_iter().collect();
    if is_piped() {
        return write_records(out, &rows);
    }
    let widest = |at: usize| {
        let cells = rows.iter().map(|row| row[at].as_str()).chain([titles[at]]);
        cells.flat_map(str::lines).map(|line| line.chars().count()).max().unwrap_or(0)
    };
    let others: usize = (0..titles.len()).filter(|at| *at != words).map(widest).sum();
    let needed = |gap: usize| others + NARROWEST.min(widest(words)) + gap * titles.len();
    // Where it is tight, columns move together before they are folded.
    match [2, 1].into_iter().find(|gap| needed(*gap) <= usize::from(width())) {
        Some(gap) => write_columns(out, titles, words, gap as u16, rows),
        None => write_folded(out, titles, words, &rows),
    }
}

/// One row a line, whatever its length; the lines of a cell stand beside each other.
pub fn write_records(out: &mut impl Write, rows: &[Vec<String>]) -> Result<()> {
    for row in rows {
        let cells = row.iter().map(|cell| {
            let lines = cell.lines().map(|line| line.split_whitespace().collect::<Vec<_>>().join(" "));
            lines.collect::<Vec<_>>().join("; ")
        });
        writeln!(out, "{}", cells.collect::<Vec<_>>().join("\t"))?;
    }
    Ok(())
}

/// Names stay whole; what gives way is the column that is all words.
fn write_columns(out: &mut impl Write, titles: &[&str], words: usize, gap: u16, rows: Vec<Vec<String>>) -> Result<()> {
    let mut table = Table::new();
    table.load_style(comfy_table::presets::NOTHING).set_content_arrangement(ContentArrangement::Dynamic);
    table.set_width(width());
    table.set_header(titles);
    for row in rows {
        table.add_row(row);
    }
    for (at, column) in table.column_iter_mut().enumerate() {
        column.set_padding((0, gap));
        if at != words {
            column.set_constraint(ColumnConstraint::ContentWidth);
        }
    }
    for (at, line) in table.lines().enumerate() {
        let line = line.trim_end();
        match at {
            0 => writeln!(out, "{}{line}{}", style::QUIET.render(), style::QUIET.render_reset())?,
            _ => writeln!(out, "{line}")?,
        }
    }
    Ok(())
}

/// Each row as some lines: its name, its words where they follow it and speak for themselves, the short cells beside each other as far as the width goes, and under
/// their titles those of several lines. No name is cut; of a cell without content nothing is said.
fn write_folded(out: &mut impl Write, titles: &[&str], words: usize, rows: &[Vec<String>]) -> Result<()> {
    let room = usize::from(width()).saturating_sub(4);
    let quiet = |text: &str| format!("{}{text}{}", style::QUIET.render(), style::QUIET.render_reset());
    let whole = textwrap::Options::new(room)
        .break_words(false)
        .word_separator(textwrap::WordSeparator::AsciiSpace)
        .word_splitter(textwrap::WordSplitter::NoHyphenation);
    for row in rows {
        writeln!(out, "{}", row[0])?;
        let first = if words == 1 { 2 } else { 1 };
        for line in row[1..first].iter().flat_map(|cell| textwrap::wrap(cell, &whole)).filter(|line| !line.is_empty()) {
            writeln!(out, "    {line}")?;
        }
        let others = || (first..titles.len()).filter(|at| !row[*at].trim().is_empty());
        let mut taken = 0;
        for at in others().filter(|at| row[*at].lines().count() == 1) {
            let cell = row[at].split_whitespace().collect::<Vec<_>>().join(" ");
            let length = titles[at].chars().count() + 1 + cell.chars().count();
            if taken > 0 && taken + 3 + length > room {
                writeln!(out)?;
                taken = 0;
            }
            let ahead = if taken == 0 { "    ".to_string() } else { quiet(" · ") };
            taken += length + if taken == 0 { 0 } else { 3 };
            let lines = textwrap::wrap(&cell, whole.clone().initial_indent(&" ".repeat(titles[at].len() + 1)));
            let cell = lines.join("\n    ");
            write!(out, "{ahead}{} {}", quiet(titles[at]), cell.trim_start())?;
        }
        if taken > 0 {
            writeln!(out)?;
        }
        for at in others().filter(|at| row[*at].lines().count() > 1) {
            writeln!(out, "    {}", quiet(titles[at]))?;
            for line in row[at].lines() {
                writeln!(out, "      {line}")?;
            }
        }
    }
    Ok(())
}

/// The terminal's width, or one that fits a page.
pub fn width() -> u16 {
    stated_width().or_else(|| terminal_size::terminal_size().map(|(width, _)| width.0)).unwrap_or(140).clamp(60, 200)
}

/// The width of the window that is written into; nothing where it is none, and lines may be as long as they are.
pub fn window() -> Option<usize> {
    (!is_piped()).then(|| usize::from(width()))
}

/// What `COLUMNS` says, which a shell only hands on where somebody asked for it.
fn stated_width() -> Option<u16> {
    std::env::var("COLUMNS").ok().and_then(|text| text.parse().ok())
}
