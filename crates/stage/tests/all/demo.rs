//! The demo's themes, for tests of several things.

use std::path::PathBuf;

use truehook_core::read::MemoryFiles;

/// The demo's themes, in memory.
pub fn demo() -> MemoryFiles {
    let folder = concat!(env!("CARGO_MANIFEST_DIR"), "/../../demo");
    let mut files = MemoryFiles::new();
    let mut open = vec![PathBuf::from(folder)];
    while let Some(path) = open.pop() {
        if path.is_dir() {
            open.extend(std::fs::read_dir(&path).unwrap().flatten().map(|entry| entry.path()));
        } else {
            let below = path.strip_prefix(folder).unwrap().to_str().unwrap().to_string();
            files.insert(format!("/demo/{below}"), std::fs::read(&path).unwrap());
        }
    }
    files
}
