//! What other programs need: schemas, types, completions, manual pages, the contract.

mod others;
mod schemas;
mod typed;

use std::path::{Path, PathBuf};

/// All files below a folder.
fn files(folder: &Path) -> Vec<PathBuf> {
    let mut found = Vec::new();
    for entry in std::fs::read_dir(folder).unwrap().flatten() {
        match entry.path().is_dir() {
            true => found.extend(files(&entry.path())),
            false => found.push(entry.path()),
        }
    }
    found.sort();
    found
}
