//! Measures `truehook check` against grep over the same files, as ratios in one run.
//!
//! ```text
//! cargo bench -p truehook --bench measure
//! cargo bench -p truehook --bench measure -- SEED
//! cargo bench -p truehook --bench measure -- write FOLDER TEMPLATES MODULES [SEED]
//! cargo bench -p truehook --bench measure -- goals [SEED]
//! cargo bench -p truehook --bench measure -- counts
//! cargo bench -p truehook --bench measure -- again
//! cargo bench -p truehook --bench measure -- editor
//! cargo bench -p truehook --bench measure -- redraws
//! cargo bench -p truehook --bench measure -- preview
//! cargo bench -p truehook --bench measure -- growth [SIZE] [WORD]
//! cargo bench -p truehook --bench measure -- growth write FOLDER SIZE [WORD]
//! cargo bench -p truehook --bench measure -- stage [callbacks | templates | pages]
//! ```
//!
//! The last one measures the stage. Prints the tables of docs/performance.md. Needs Linux, for the memory, and GNU grep.

mod again;
mod counts;
mod editor;
mod goals;
#[cfg(unix)]
mod growth;
mod preview;
mod redraws;
mod stage;
mod tree;
mod workers;

use std::process::{Command, Stdio};
use std::time::{Duration, Instant};

use camino::{Utf8Path, Utf8PathBuf};
use tree::{Size, write};

#[global_allocator]
static ALLOCATOR: mimalloc::MiMalloc = mimalloc::MiMalloc;

const RUNS: usize = 5;
const SMALL: Size = Size { templates: 1_000, modules: 200 };
const LARGE: Size = Size { templates: 10_000, modules: 2_000 };

/// What one run of a program took.
#[derive(Clone, Copy, Debug)]
struct Taken {
    time: Duration,
    /// The most memory that it held at once, in KiB.
    memory: u64,
    /// What its threads took together, in hundredths of a second.
    work: u64,
}

fn main() {
    // Cargo adds `--bench`.
    let words: Vec<String> = std::env::args().skip(1).filter(|word| word != "--bench").collect();
    let number = |at: usize| words.get(at).and_then(|text| text.parse().ok());
    if let (Some("write"), Some(folder), Some(templates), Some(modules)) =
        (words.first().map(String::as_str), words.get(1), number(2), number(3))
    {
        let size = Size { templates, modules };
        return written(write(Utf8Path::new(folder), size, number(4).unwrap_or(1) as u64), folder);
    }
    let folder = Utf8PathBuf::from_path_buf(std::env::temp_dir())
        .unwrap_or_else(|_| "/tmp".into())
        .join(format!("truehook-measure-{}", std::process::id()));
    if words.first().map(String::as_str) == Some("stage") {
        stage::print(&folder, words.get(1).map(String::as_str));
        let _ = std::fs::remove_dir_all(&folder);
        return;
    }
    if words.first().map(String::as_str) == Some("workers") {
        return workers::print(std::path::Path::new(env!("CARGO_BIN_EXE_truehook")));
    }
    #[cfg(unix)]
    if let (Some("growth"), Some("write"), Some(folder), Some(size)) =
        (words.first().map(String::as_str), words.get(1).map(String::as_str), words.get(2), number(3))
    {
        let word = words.get(4).map_or("", String::as_str);
        return written(growth::lay_out(Utf8Path::new(folder), size, word), folder);
    }
    #[cfg(unix)]
    if words.first().map(String::as_str) == Some("growth") {
        let size = number(1).unwrap_or(1_000);
        let word = words.get(2).map(String::as_str);
        let fine = growth::print(&folder, env!("CARGO_BIN_EXE_truehook"), size, word);
        let _ = std::fs::remove_dir_all(&folder);
        return match fine {
            Ok(true) => (),
            Ok(false) => std::process::exit(1),
            Err(error) => written(Err(error), folder.as_str()),
        };
    }
    if words.first().map(String::as_str) == Some("preview") {
        written(preview::print(&folder, env!("CARGO_BIN_EXE_truehook")), folder.as_str());
        let _ = std::fs::remove_dir_all(&folder);
        return;
    }
    if words.first().map(String::as_str) == Some("redraws") {
        written(redraws::print(&folder, env!("CARGO_BIN_EXE_truehook")), folder.as_str());
        let _ = std::fs::remove_dir_all(&folder);
        return;
    }
    if words.first().map(String::as_str) == Some("goals") {
        written(goals::print(&folder, env!("CARGO_BIN_EXE_truehook"), number(1).unwrap_or(1) as u64), folder.as_str());
        let _ = std::fs::remove_dir_all(&folder);
        return;
    }
    if words.first().map(String::as_str) == Some("counts") {
        let fine = counts::print(&folder, env!("CARGO_BIN_EXE_truehook"));
        let _ = std::fs::remove_dir_all(&folder);
        return match fine {
            Ok(true) => (),
            Ok(false) => std::process::exit(1),
            Err(error) => written(Err(error), folder.as_str()),
        };
    }
    if words.first().map(String::as_str) == Some(counts::PAGES) {
        return counts::render_pages();
    }
    if words.first().map(String::as_str) == Some("again") {
        written(again::print(&folder, 1), folder.as_str());
        let _ = std::fs::remove_dir_all(&folder);
        return;
    }
    if words.first().map(String::as_str) == Some("editor") {
        written(editor::print(&folder, 1), folder.as_str());
        let _ = std::fs::remove_dir_all(&folder);
        return;
    }
    let seed = number(0).unwrap_or(1) as u64;
    let program = Utf8Path::new(env!("CARGO_BIN_EXE_truehook"));
    let mut rows = Vec::new();
    for (name, size) in [("small", SMALL), ("large", LARGE)] {
        let root = folder.join(name);
        written(write(&root, size, seed), root.as_str());
        let (check, grep) = in_turn(
            || run(Command::new(program).args(["check", root.as_str()])),
            || run(Command::new("grep").env("LC_ALL", "C").args(["-rcE", r"place\(|through\(", root.as_str()])),
        );
        rows.push((size, check, grep));
    }
    let demo = Utf8Path::new(concat!(env!("CARGO_MANIFEST_DIR"), "/../../demo/saltmarsh"));
    let version = median(|| run(Command::new(program).arg("--version")));
    let checked = median(|| run(Command::new(program).args(["check", demo.as_str()])));
    print(&rows, version, checked);
    let _ = std::fs::remove_dir_all(&folder);
}

fn written(result: std::io::Result<()>, folder: &str) {
    if let Err(error) = result {
        eprintln!("measure: {folder} can't be written: {error}");
        std::process::exit(2);
    }
}

/// Runs something once to warm up, then some more times; the median by time, with the most memory.
fn median(mut once: impl FnMut() -> Taken) -> Taken {
    once();
    middle((0..RUNS).map(|_| once()).collect())
}

/// As [`median`], of two things that have their turns one after the other: a machine that is slower for a while is
/// so for both.
fn in_turn(mut one: impl FnMut() -> Taken, mut other: impl FnMut() -> Taken) -> (Taken, Taken) {
    one();
    other();
    let (ones, others) = (0..3 * RUNS).map(|_| (one(), other())).unzip();
    (middle(ones), middle(others))
}

fn middle(mut taken: Vec<Taken>) -> Taken {
    taken.sort_by_key(|taken| taken.time);
    let memory = taken.iter().map(|taken| taken.memory).max().unwrap_or_default();
    Taken { memory, ..taken[taken.len() / 2] }
}

/// Runs a command.
fn run(command: &mut Command) -> Taken {
    watched(command, |own| peak(own).into_iter().collect())
}

/// Runs a command that has workers, of which the largest one's memory counts.
fn run_with_workers(command: &mut Command) -> Taken {
    let children = |task: std::fs::DirEntry| std::fs::read_to_string(task.path().join("children")).ok();
    watched(command, move |own| {
        let tasks = std::fs::read_dir(format!("/proc/{own}/task")).into_iter().flatten().flatten();
        let all: Vec<String> = tasks.filter_map(children).collect();
        let called = |id: &str| std::fs::read(format!("/proc/{id}/cmdline")).ok();
        // Until it is called otherwise, a child shows the memory of the program that begins it.
        let (mine, all) = (called(&own.to_string()), all.join(" "));
        let workers = all.split_whitespace().filter(|id| called(id).is_some_and(|name| Some(name) != mine));
        workers.filter_map(|id| peak(id.parse().ok()?)).collect()
    })
}

/// The most memory that a process held so far, in KiB; nothing when it has ended.
fn peak(process: u32) -> Option<u64> {
    let text = std::fs::read_to_string(format!("/proc/{process}/status")).ok()?;
    let line = text.lines().find_map(|line| line.strip_prefix("VmHWM:"))?;
    line.trim().trim_end_matches(" kB").parse().ok()
}

fn watched(command: &mut Command, peaks: impl Fn(u32) -> Vec<u64> + Send + 'static) -> Taken {
    let begun = Instant::now();
    let child = command.stdout(Stdio::null()).stderr(Stdio::null()).spawn();
    let mut child = match child {
        Ok(child) => child,
        Err(error) => {
            eprintln!("measure: {command:?} can't be run: {error}");
            std::process::exit(2);
        }
    };
    let own = child.id();
    let watch = std::thread::spawn(move || {
        // The kernel keeps the peak; the last reading before the end is close to it.
        let (mut most, mut work) = (0, 0);
        while peak(own).is_some() {
            most = peaks(own).into_iter().fold(most, u64::max);
            let stat = std::fs::read_to_string(format!("/proc/{own}/stat")).unwrap_or_default();
            let times = stat.rsplit(')').next().unwrap_or_default().split_whitespace().skip(11).take(2);
            work = times.filter_map(|time| time.parse::<u64>().ok()).sum::<u64>().max(work);
            std::thread::sleep(Duration::from_micros(500));
        }
        (most, work)
    });
    let _ = child.wait();
    let time = begun.elapsed();
    let (memory, work) = watch.join().unwrap_or_default();
    Taken { time, memory, work }
}

fn print(rows: &[(Size, Taken, Taken)], version: Taken, demo: Taken) {
    let ms = |taken: Taken| format!("{:.1} ms", taken.time.as_secs_f64() * 1000.0);
    println!("| tree | check | grep | check / grep | memory |\n| --- | --- | --- | --- | --- |");
    for (size, check, grep) in rows {
        println!(
            "| {} templates, {} modules | {} | {} | {:.2} | {} MiB |",
            size.templates,
            size.modules,
            ms(*check),
            ms(*grep),
            check.time.as_secs_f64() / grep.time.as_secs_f64(),
            check.memory / 1024
        );
    }
    if let [(_, small, _), (_, large, _)] = rows {
        println!("\nten times the tree: {:.1} times the time", large.time.as_secs_f64() / small.time.as_secs_f64());
    }
    println!(
        "the demo: check {}, --version {}: {:.1} ms more",
        ms(demo),
        ms(version),
        (demo.time.as_secs_f64() - version.time.as_secs_f64()) * 1000.0
    );
}
