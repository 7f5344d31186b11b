//! How long each step takes, by itself: reading, scanning, linking and checking a theme, and rendering a page.
//!
//! ```text
//! cargo bench -p truehook --bench steps
//! TRUEHOOK_THEME=FOLDER cargo bench -p truehook --bench steps -- link
//! ```
//!
//! Without a folder, a theme of 1,000 templates and 200 modules is made, and the demo is measured beside it.

#[path = "measure/tree.rs"]
mod tree;

use std::sync::{Arc, LazyLock};

use camino::{Utf8Path, Utf8PathBuf};
use divan::Bencher;
use tempfile::TempDir;
use truehook_core::link::Registry;
use truehook_core::read::{DiskFiles, Project};
use truehook_core::rules;
use truehook_stage::Theme;

#[global_allocator]
static ALLOCATOR: mimalloc::MiMalloc = mimalloc::MiMalloc;

const DEMO: &str = concat!(env!("CARGO_MANIFEST_DIR"), "/../../demo/saltmarsh");

/// The theme that was made; it is there as long as the program runs.
static MADE: LazyLock<(TempDir, Utf8PathBuf)> = LazyLock::new(|| {
    let folder = TempDir::new().expect("the system has a folder for temporary files");
    let root = Utf8PathBuf::from_path_buf(folder.path().join("tree")).expect("its name is text");
    tree::write(&root, tree::Size { templates: 1_000, modules: 200 }, 1).expect("there is room for a theme");
    (folder, root)
});

/// The themes that are measured.
fn themes() -> Vec<&'static str> {
    match std::env::var("TRUEHOOK_THEME") {
        Ok(folder) => vec![folder.leak()],
        Err(_) => vec!["demo", "tree"],
    }
}

fn folder(theme: &str) -> &Utf8Path {
    match theme {
        "demo" => Utf8Path::new(DEMO),
        "tree" => &MADE.1,
        folder => Utf8Path::new(folder),
    }
}

fn open(theme: &str) -> Project {
    Project::open(&DiskFiles, folder(theme)).unwrap_or_else(|error| panic!("{error}"))
}

#[divan::bench(args = themes())]
fn read(bencher: Bencher, theme: &str) {
    folder(theme);
    bencher.bench_local(|| open(theme));
}

#[divan::bench(args = themes())]
fn scan(bencher: Bencher, theme: &str) {
    let project = open(theme);
    bencher.bench_local(|| Registry::scan(&project));
}

#[divan::bench(args = themes())]
fn link(bencher: Bencher, theme: &str) {
    bencher
        .with_inputs(|| {
            let project = open(theme);
            let facts = Registry::scan(&project);
            (project, facts)
        })
        .bench_local_values(|(project, facts)| Registry::link(project, facts));
}

#[divan::bench(args = themes())]
fn check(bencher: Bencher, theme: &str) {
    let registry = Registry::new(open(theme));
    bencher.bench_local(|| rules::check(&registry));
}

#[divan::bench(args = themes())]
fn render(bencher: Bencher, theme: &str) {
    let theme = Theme::new(Arc::new(Registry::new(open(theme))));
    let stage = theme.stage(Arc::new(theme.preview()));
    bencher.bench_local(|| stage.render("/"));
}

fn main() {
    divan::main();
}
