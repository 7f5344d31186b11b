//! What commands show of a registry, as data: one form for tables, trees and JSON.
//!
//! These shapes are documented; they change only together with [`VERSION`].

use serde::Serialize;

mod assets;
mod atlas;
mod baseline;
mod changes;
mod desk;
mod details;
mod excerpts;
mod fills;
mod findings;
mod points;
mod presence;
mod shelf;
mod slots;
mod sources;
mod theme;
mod variables;
mod ways;

use crate::link::Registry;
use crate::source::{FileId, Place, Span};

pub use assets::*;
pub use atlas::*;
pub use baseline::*;
pub use changes::*;
pub use desk::*;
pub use details::{DetailView, StepView};
pub use excerpts::ExcerptView;
pub use fills::{FillView, HolderView};
pub use findings::*;
pub use points::*;
pub use presence::{ConditionView, PresenceView};
pub use shelf::ShelvedView;
pub use slots::{ByView, SlotState, SlotView};
pub use sources::{SourceView, SourcesView};
pub use theme::{CountView, LayerView, ThemeView};
pub use variables::VariableView;
pub(crate) use ways::unused;
pub use ways::{WayView, offers, ways};

/// The version of all shapes in here.
pub const VERSION: u32 = 1;

/// A place in a file. Lines and columns count from 1, columns in Unicode characters; the end is
/// exclusive.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, schemars::JsonSchema)]
pub struct PlaceView {
    /// The layer's name.
    pub layer: String,
    /// The path below the layer's folder.
    pub file: String,
    /// The first line.
    pub line: usize,
    /// The first column.
    pub column: usize,
    /// The last line.
    pub end_line: usize,
    /// The column after the last one.
    pub end_column: usize,
}

impl PlaceView {
    /// A span of a file.
    pub fn new(registry: &Registry, file: FileId, span: Span) -> PlaceView {
        let source = registry.project().file(file);
        let index = registry.lines(file);
        let ((line, column), (end_line, end_column)) = (index.position(span.start), index.position(span.end));
        let layer = registry.project().layer(source.layer).name.to_string();
        PlaceView { layer, file: source.path.to_string(), line, column, end_line, end_column }
    }

    /// It as one line, without the layer where that is `own`: `foreshore:markup/layout.html:13`.
    pub fn shown(&self, own: &str) -> String {
        let layer = if self.layer == own { String::new() } else { format!("{}:", self.layer) };
        format!("{layer}{}:{}", self.file, self.line)
    }

    pub(super) fn of(registry: &Registry, place: Place) -> PlaceView {
        PlaceView::new(registry, place.file, registry.span(place))
    }
}
