//! A theme's beginning: the files of one that passes every check and shows something.
//!
//! ```text
//! text ──▶ Sketch ──▶ files
//! ```

mod files;
pub mod pages;
mod sheet;
mod sketch;

use crate::read::standard_files;
use files::form_line;
pub use files::{Base, FORM, files, form, on_base};
pub use sketch::{Part, Sketch, SketchError, USUAL};

/// The name of an asset of a theme that begins: the built-in contract's own names mean its assets.
fn asset_name(kind: &str, name: &str) -> String {
    if is_the_contracts(kind, name) { format!("{name}-own") } else { name.to_string() }
}

/// Does the built-in contract declare an asset of that kind and name?
fn is_the_contracts(kind: &str, name: &str) -> bool {
    let contract = standard_files();
    let manifest = contract.iter().find(|(path, _)| path.as_str().ends_with("truehook.toml"));
    let declared = format!("[{kind}.{name}]");
    manifest.is_some_and(|(_, text)| String::from_utf8_lossy(text).lines().any(|line| line.trim() == declared))
}
