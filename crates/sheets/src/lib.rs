//! The sheets of True Hook: what it shows as pages of HTML. Each is one file, with its styles and scripts in it,
//! that needs no network; each shows the same data as the terminal and JSON.

mod atlas;
mod desk;
mod embed;
mod framed;
mod map;
mod marks;
mod pages;
mod shelf;
mod signs;
mod staged;

pub use atlas::{AtlasSheet, PlannedPage};
pub use desk::{DeskSheet, Shown, markup};
pub use embed::media_type;
pub use map::{MapSheet, Samples};
pub use pages::PALETTE;
pub use shelf::ShelfSheet;
pub use staged::Staged;

/// Why a sheet can't be made.
#[derive(Debug, thiserror::Error)]
#[error("the sheet can't be made: {0}")]
pub struct SheetError(#[from] minijinja::Error);
