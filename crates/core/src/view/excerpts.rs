//! Pieces of files, as they are shown beside what they are about.

use serde::Serialize;

use super::PlaceView;
use crate::edit::replace;
use crate::link::{Callback, Registry};
use crate::source::{FileId, Span};

/// How many lines are shown of what is longer.
const LONGEST: usize = 40;

/// Some lines of a file.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, schemars::JsonSchema)]
pub struct ExcerptView {
    /// What it is about.
    pub place: PlaceView,
    /// The number of its first line.
    pub first: usize,
    /// The lines, without their ends.
    pub lines: Vec<String>,
    /// How many more lines belong to it.
    pub more: usize,
}

impl ExcerptView {
    /// The line of a place, with so many around it.
    pub fn around(registry: &Registry, place: &PlaceView, around: usize) -> Option<ExcerptView> {
        let all = lines(registry, file(registry, place)?);
        let first = place.line.saturating_sub(around).max(1);
        let last = (place.end_line + around).min(all.len());
        Some(ExcerptView::of(place.clone(), first, all.get(first - 1..last)?))
    }

    /// A table of a manifest or of a preview's file: from its place to the next table, or a line with nothing on it.
    pub fn table(registry: &Registry, place: &PlaceView) -> Option<ExcerptView> {
        let all = lines(registry, file(registry, place)?);
        let rest = all.get(place.line - 1..)?;
        let ends = |line: &&str| line.trim().is_empty() || line.starts_with('[');
        let length = 1 + rest.iter().skip(1).position(ends).unwrap_or(rest.len() - 1);
        Some(ExcerptView::of(place.clone(), place.line, &rest[..length]))
    }

    /// A callback with the comment before it.
    pub fn function(registry: &Registry, callback: Callback) -> Option<ExcerptView> {
        let extent = replace::extent(registry, callback)?;
        let place = PlaceView::new(registry, callback.file, extent);
        let all = lines(registry, callback.file);
        let found = all.get(place.line - 1..place.end_line)?;
        Some(ExcerptView::of(place.clone(), place.line, found))
    }

    /// A file from its first line on.
    pub fn file(registry: &Registry, file: FileId) -> ExcerptView {
        let all = lines(registry, file);
        ExcerptView::of(PlaceView::new(registry, file, Span::new(0, 0)), 1, &all)
    }

    fn of(place: PlaceView, first: usize, lines: &[&str]) -> ExcerptView {
        let shown = lines.iter().take(LONGEST).map(|line| line.to_string()).collect();
        ExcerptView { place, first, lines: shown, more: lines.len().saturating_sub(LONGEST) }
    }
}

fn file(registry: &Registry, place: &PlaceView) -> Option<FileId> {
    registry.project().find(registry.project().layer_named(&place.layer)?, &place.file)
}

fn lines(registry: &Registry, file: FileId) -> Vec<&str> {
    registry.project().file(file).text().lines().collect()
}
