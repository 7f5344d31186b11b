//! How long each step of a check takes.

use std::time::Instant;

use truehook_core::link::Registry;
use truehook_core::read::{DiskFiles, OpenError, Project};
use truehook_core::rules;

/// How much memory this program holds now, in MiB.
fn resident() -> f64 {
    let status = std::fs::read_to_string("/proc/self/status").unwrap_or_default();
    let line = status.lines().find_map(|line| line.strip_prefix("VmRSS:"));
    let number = line.and_then(|line| line.trim().trim_end_matches(" kB").parse::<f64>().ok());
    number.unwrap_or_default() / 1024.0
}

/// Prints a line for each step.
///
/// # Errors
/// Where the folder holds no theme.
pub fn print(folder: &str) -> Result<(), OpenError> {
    let mut last = Instant::now();
    let mut step = |name: &str| {
        println!("{name:<8}{:>8.1} ms{:>8.1} MiB", last.elapsed().as_secs_f64() * 1000.0, resident());
        last = Instant::now();
    };
    step("start");
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
