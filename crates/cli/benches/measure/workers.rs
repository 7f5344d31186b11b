//! What it costs to render in workers: the demo's pages through one that is there already, beside the same on this
//! thread; and how much later the first page comes.

use std::path::Path;
use std::process::Command;
use std::sync::Arc;
use std::time::{Duration, Instant};

use camino::Utf8PathBuf;
use truehook_core::link::Registry;
use truehook_core::read::{DiskFiles, Project};
use truehook_stage::workers::{Program, Setup, Workers};
use truehook_stage::{Manner, Stage};

const ROUNDS: usize = 41;

/// Prints the table.
pub fn print(program: &Path) {
    let demo = Utf8PathBuf::from(concat!(env!("CARGO_MANIFEST_DIR"), "/../../demo/saltmarsh"));
    let open = || Project::open_without_pages(&DiskFiles, &demo).unwrap_or_else(|error| panic!("{error}"));
    let registry = Arc::new(Registry::for_rendering(open(), &DiskFiles));
    let stage = Stage::new(registry.clone());
    let paths: Vec<String> = stage.pages().into_iter().filter(|page| !page.sample).map(|page| page.path).collect();
    let program = Program::new(program.to_path_buf(), ["worker"]).env("MIMALLOC_ARENA_EAGER_COMMIT", "0");
    let workers = Workers::start(program, Setup::new(demo.clone()), 1);
    let workers = workers.over(registry);
    let mut taken: [Vec<Duration>; 2] = Default::default();
    for _ in 0..ROUNDS {
        let begun = Instant::now();
        paths.iter().for_each(|path| drop(stage.render(path)));
        taken[0].push(begun.elapsed());
        let begun = Instant::now();
        let page = |path: &String| workers.page(path, &Manner::default()).unwrap_or_else(|error| panic!("{error}"));
        paths.iter().for_each(|path| drop(page(path)));
        taken[1].push(begun.elapsed());
    }
    taken.iter_mut().for_each(|taken| taken.sort());
    let [here, there] = taken.map(|taken| taken[ROUNDS / 2].as_secs_f64() * 1e3);
    println!("| {} pages of the demo | here | in a worker | ratio |\n| --- | --- | --- | --- |", paths.len());
    println!("| | {here:.2} ms | {there:.2} ms | {:.2} |", there / here);
    let first = |args: &[&str]| {
        let mut taken: Vec<Duration> = (0..ROUNDS)
            .map(|_| {
                let begun = Instant::now();
                let output =
                    Command::new(env!("CARGO_BIN_EXE_truehook")).args(["-C", demo.as_str()]).args(args).output();
                drop(output);
                begun.elapsed()
            })
            .collect();
        taken.sort();
        taken[ROUNDS / 2].as_secs_f64() * 1e3
    };
    println!(
        "\nthe first page: {:.1} ms; list, which renders nothing: {:.1} ms",
        first(&["render", "/"]),
        first(&["list"])
    );
}
