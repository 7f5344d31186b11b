//! How many instructions things take: they don't waver as times do, so that a limit can be kept.

use std::io;
use std::process::Command;
use std::sync::Arc;

use camino::Utf8Path;
use truehook_core::link::Registry;
use truehook_core::read::{DiskFiles, Project};
use truehook_stage::Stage;

use crate::tree::{Size, write};

/// The word by which this program is asked to render the demo's pages itself.
pub const PAGES: &str = "render-pages";

const DEMO: &str = concat!(env!("CARGO_MANIFEST_DIR"), "/../../demo/saltmarsh");
const TREE: Size = Size { templates: 1_000, modules: 200 };

/// What was reached, in millions of instructions, when it was last written down: with the profile `dev`, which CI
/// builds anyway.
const REACHED: [(&str, f64); 4] = [
    ("check of 1,000 templates and 200 modules", 718.8),
    ("check of the demo", 87.4),
    ("--version", 5.1),
    ("80 pages of the demo", 998.9),
];

/// Prints what each takes now beside what was reached. Answers whether none takes more than 5 % more. Where nobody
/// can count, that is said.
///
/// # Errors
/// Where the system refuses.
pub fn print(folder: &Utf8Path, program: &str) -> io::Result<bool> {
    let root = folder.join("counted");
    write(&root, TREE, 1)?;
    let own = std::env::current_exe()?;
    let own = own.to_string_lossy();
    let counted = [
        instructions(program, &["check", root.as_str()]),
        instructions(program, &["check", DEMO]),
        instructions(program, &["--version"]),
        instructions(&own, &[PAGES]),
    ];
    println!("| millions of instructions | now | reached | |\n| --- | --- | --- | --- |");
    let mut fine = true;
    for ((what, reached), counted) in REACHED.into_iter().zip(counted) {
        let Some(counted) = counted else {
            println!("| {what} | not counted: there is no valgrind here | {reached} | |");
            continue;
        };
        let counted = counted as f64 / 1e6;
        let within = counted <= reached * 1.05;
        fine &= within;
        let word = if within { "" } else { "**more than 5 % above**" };
        println!("| {what} | {counted:.1} | {reached} | {word} |");
    }
    Ok(fine)
}

/// How many instructions a run takes with one thread; nothing where they can't be counted.
pub fn instructions(program: &str, args: &[&str]) -> Option<u64> {
    let counting = ["--tool=cachegrind", "--cache-sim=no", "--cachegrind-out-file=/dev/null", program];
    let output = Command::new("valgrind").env("RAYON_NUM_THREADS", "1").args(counting).args(args).output().ok()?;
    let told = String::from_utf8_lossy(&output.stderr).into_owned();
    let line = told.lines().find(|line| line.contains("I ") && line.contains("refs:"))?;
    line.rsplit(' ').next()?.replace(',', "").parse().ok()
}

/// Renders each of the demo's pages ten times.
pub fn render_pages() {
    let project = Project::open(&DiskFiles, DEMO.into()).unwrap_or_else(|error| panic!("{error}"));
    let stage = Stage::new(Arc::new(Registry::new(project)));
    for _ in 0..10 {
        for page in stage.pages() {
            std::hint::black_box(stage.render(&page.path));
        }
    }
}
