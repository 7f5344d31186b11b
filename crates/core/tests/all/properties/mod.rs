//! Properties of the small parsers: what they read is compared with what a generator of its own meant.

mod conditions;
mod keys;
mod plurals;
mod schemas;
mod selectors;
mod slips;
mod spelling;
mod translations;

use truehook_core::link::Registry;
use truehook_core::read::{MemoryFiles, Project};
use truehook_core::scan::Facts;

/// What the scanner says of one file of a theme.
fn facts(path: &str, text: &str) -> Facts {
    let mut files = MemoryFiles::new();
    files.insert("/t/marsh/truehook.toml", "[theme]\nname = \"marsh\"\n");
    files.insert(format!("/t/marsh/{path}"), text);
    let project = Project::open(&files, "/t/marsh".into()).unwrap();
    let file = project.find(project.top(), path).unwrap();
    Registry::scan(&project).swap_remove(file.index())
}
