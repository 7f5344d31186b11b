//! A theme's beginning: the files of one that passes every check and shows something.
//!
//! ```text
//! text ──▶ Sketch ──▶ files
//! ```

mod files;
pub mod pages;
mod sheet;
mod sketch;

use files::form_line;
pub use files::{Base, FORM, files, form, on_base};
pub use sketch::{Part, Sketch, SketchError, USUAL};
