//! Tables without lines, as wide as the terminal.

use std::io::Write;

use anyhow::Result;
use comfy_table::{ColumnConstraint, ContentArrangement, Table};

use super::style;

/// The narrowest that a column of words may be.
const NARROWEST: usize = 18;

/// Prints a table; `words` is the column that may be wrapped, or left out where there is no room.
pub fn write(
    out: &mut impl Write,
    titles: &[&str],
    words: usize,
    rows: impl IntoIterator<Item = Vec<String>>,
) -> Result<()> {
    let mut rows: Vec<Vec<String>> = rows.into_iter().collect();
    let mut titles: Vec<String> = titles.iter().map(|title| title.to_string()).collect();
    let widest = |at: usize| {
        let cells = rows.iter().map(|row| &row[at]).chain([&titles[at]]);
        cells.flat_map(|cell| cell.lines()).map(|line| line.chars().count()).max().unwrap_or(0)
    };
    let others: usize = (0..titles.len()).filter(|at| *at != words).map(|at| widest(at) + 2).sum();
    let room = usize::from(width()).saturating_sub(others + 2);
    let fits = room >= NARROWEST.min(widest(words));
    if !fits {
        titles.remove(words);
        rows.iter_mut().for_each(|row| {
            row.remove(words);
        });
    }
    let mut table = Table::new();
    table.load_style(comfy_table::presets::NOTHING).set_content_arrangement(ContentArrangement::Dynamic);
    table.set_width(width().max(others as u16 + 2));
    table.set_header(titles);
    for row in rows {
        table.add_row(row);
    }
    // Names stay whole; what gives way is the column that is all words.
    for (at, column) in table.column_iter_mut().enumerate() {
        column.set_padding((0, 2));
        if at != words || !fits {
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

/// The terminal's width, or one that fits a page.
pub fn width() -> u16 {
    let stated = std::env::var("COLUMNS").ok().and_then(|text| text.parse().ok());
    stated.or_else(|| terminal_size::terminal_size().map(|(width, _)| width.0)).unwrap_or(140).clamp(60, 200)
}
