//! How long each step of a check takes.

use std::time::Instant;

use truehook_core::link::Registry;
use truehook_core::read::{DiskFiles, OpenError, Project};
use truehook_core::rules;

/// Prints a line for each step.
///
/// # Errors
/// Where the folder holds no theme.
pub fn print(folder: &str) -> Result<(), OpenError> {
    let mut last = Instant::now();
    let mut step = |name: &str| {
        println!("{name:<8}{:>8.1} ms", last.elapsed().as_secs_f64() * 1000.0);
        last = Instant::now();
    };
    let project = Project::open(&DiskFiles, folder.into())?;
    step("read");
    let facts = Registry::scan(&project);
    step("scan");
    let registry = Registry::link(project, facts);
    step("link");
    let checked = rules::check(&registry);
    step("check");
    println!("{} findings", checked.findings.len());
    Ok(())
}
