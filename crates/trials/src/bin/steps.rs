//! Tells how long each step of a check takes.
//!
//! ```text
//! cargo run --release -p truehook-trials --bin steps -- THEME
//! ```

use std::time::Instant;

use truehook_core::link::Registry;
use truehook_core::read::{DiskFiles, Project};
use truehook_core::rules;

#[global_allocator]
static ALLOCATOR: mimalloc::MiMalloc = mimalloc::MiMalloc;

fn main() {
    let Some(folder) = std::env::args().nth(1) else {
        eprintln!("steps: name a theme's folder");
        std::process::exit(2);
    };
    let mut last = Instant::now();
    let mut step = |name: &str| {
        println!("{name:<8}{:>8.1} ms", last.elapsed().as_secs_f64() * 1000.0);
        last = Instant::now();
    };
    let project = match Project::open(&DiskFiles, folder.as_str().into()) {
        Ok(project) => project,
        Err(error) => {
            eprintln!("steps: {error}");
            std::process::exit(2);
        }
    };
    step("read");
    let facts = Registry::scan(&project);
    step("scan");
    let registry = Registry::link(project, facts);
    step("link");
    let checked = rules::check(&registry);
    step("check");
    println!("{} findings", checked.findings.len());
}
