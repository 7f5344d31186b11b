//! Cells of a grid: what is put beside an element that has one, and has none itself, shows in a row of its own (CSS Grid,
//! 8.5).

use super::placement::Placement;
use super::template::anchor;
use super::{EditError, Position};
use crate::link::Registry;
use crate::source::{FileKind, LineIndex};

/// What to say of a placement beside an element whose class has a named cell in one of the theme's style sheets; nothing
/// where that is not so.
///
/// # Errors
/// Where the element is not there.
pub fn beside_cell(registry: &Registry, new: &Placement) -> Result<Option<String>, EditError> {
    let Some((Position::Before | Position::After, selector)) = &new.at else { return Ok(None) };
    let classes = anchor(registry, new, selector)?;
    let project = registry.project();
    let sheets = project.file_ids().filter(|file| project.file(*file).kind == FileKind::Style);
    for sheet in sheets {
        let text = project.file(sheet).text();
        let cell = classes.iter().find_map(|class| cell_of(text, class));
        if let Some(at) = cell {
            let line = LineIndex::new(text).position(at as u32).0;
            return Ok(Some(format!(
                "`{selector}` has a cell of a grid ({}:{line}); what stands beside it has none and shows in a row of its \
                 own: place it inside an element, or give it a cell",
                project.shown(sheet)
            )));
        }
    }
    Ok(None)
}

/// Where a style sheet gives a class a cell of a grid.
fn cell_of(text: &str, class: &str) -> Option<usize> {
    let written = format!(".{class}");
    let found = text.match_indices(&written).map(|(at, _)| at);
    found.into_iter().find(|at| {
        let rest = &text[at + written.len()..];
        let Some((selector, block)) = rest.split_once('{') else { return false };
        let ends = selector.trim().is_empty() || selector.trim_start().starts_with(',');
        let block = block.split('}').next().unwrap_or_default();
        ends && !selector.contains('}') && block.split(';').any(|line| line.trim_start().starts_with("grid-area"))
    })
}
