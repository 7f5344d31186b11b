//! Tables without lines, as wide as the terminal.

use std::io::Write;

use anyhow::Result;
use comfy_table::{ContentArrangement, Table};

use super::style;

/// Prints a table.
pub fn write(out: &mut impl Write, titles: &[&str], rows: impl IntoIterator<Item = Vec<String>>) -> Result<()> {
    let mut table = Table::new();
    table.load_style(comfy_table::presets::NOTHING).set_content_arrangement(ContentArrangement::Dynamic);
    table.set_width(width());
    table.set_header(titles);
    for row in rows {
        table.add_row(row);
    }
    for column in table.column_iter_mut() {
        column.set_padding((0, 2));
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
    stated.or_else(|| terminal_size::terminal_size().map(|(width, _)| width.0)).unwrap_or(120).clamp(60, 200)
}
