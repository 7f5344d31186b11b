//! What is wanted of a check, a watched theme and the stage, beside what is measured: ratios of one run, and
//! instructions where valgrind is there.

use std::fs;
use std::io;
use std::process::Command;
use std::time::Duration;

use camino::{Utf8Path, Utf8PathBuf};

use crate::again::{KINDS, watched};
use crate::counts::instructions;
use crate::stage::{callbacks_taken, pages_taken, templates_taken};
use crate::tree::{Size, write};
use crate::{LARGE, in_turn, median, run};

/// Ten times the large tree.
const HUGE: Size = Size { templates: 100_000, modules: 20_000 };
/// How long an answer of `--watch` may take, in milliseconds, for each kind of edit.
const ANSWERS: [&str; 3] = ["40 ms", "60 ms", "150 ms"];

/// A row of the table.
struct Row {
    what: String,
    wanted: &'static str,
    measured: String,
    /// The same of what people install.
    dist: String,
}

fn row(what: impl Into<String>, wanted: &'static str, measured: String) -> Row {
    Row { what: what.into(), wanted, measured, dist: String::new() }
}

/// A row that was measured of both programs.
fn both(what: impl Into<String>, wanted: &'static str, [measured, dist]: [String; 2]) -> Row {
    Row { what: what.into(), wanted, measured, dist }
}

/// What people install: it lies beside the program, once it was built.
fn installed(program: &str) -> Option<Utf8PathBuf> {
    let program = Utf8Path::new(program);
    let dist = program.parent()?.parent()?.join("dist").join(program.file_name()?);
    dist.is_file().then_some(dist)
}

/// What is measured of the program, and of what people install.
fn of_both<const N: usize>(program: &str, measure: impl Fn(&str) -> [String; N]) -> [[String; 2]; N] {
    let mut dist = installed(program).map(|dist| measure(dist.as_str()));
    let mut measured = measure(program);
    std::array::from_fn(|at| {
        let dist = dist.as_mut().map_or("not built".into(), |dist| std::mem::take(&mut dist[at]));
        [std::mem::take(&mut measured[at]), dist]
    })
}

fn ms(time: Duration) -> f64 {
    time.as_secs_f64() * 1e3
}

/// Prints the table.
///
/// # Errors
/// Where the system refuses.
pub fn print(folder: &Utf8Path, program: &str, seed: u64) -> io::Result<()> {
    let mut rows = checking(folder, program, seed)?;
    rows.extend(rendering(folder));
    rows.extend(starting(program));
    println!("| what | wanted | measured | of `dist` |\n| --- | --- | --- | --- |");
    for Row { what, wanted, measured, dist } in rows {
        println!("| {what} | {wanted} | {measured} | {dist} |");
    }
    Ok(())
}

fn checking(folder: &Utf8Path, program: &str, seed: u64) -> io::Result<Vec<Row>> {
    let (root, huge) = (folder.join("large"), folder.join("huge"));
    write(&root, LARGE, seed)?;
    let check = |root: &Utf8Path| run(Command::new(program).args(["check", root.as_str()]));
    let grep = || run(Command::new("grep").env("LC_ALL", "C").args(["-rcE", r"place\(|through\(", root.as_str()]));
    let [ratio, counted, memory] = of_both(program, |program| {
        let (clean, grep) = in_turn(|| run(Command::new(program).args(["check", root.as_str()])), grep);
        let counted = instructions(program, &["check", root.as_str()]);
        let counted = counted.map_or("no valgrind here".into(), |counted| format!("{} M", counted / 1_000_000));
        [format!("{:.2}", ms(clean.time) / ms(grep.time)), counted, format!("{} MiB", clean.memory / 1024)]
    });
    let grep = median(grep);
    let answers = watched(program, &root)?;
    let whole = folder.join("whole");
    write(&whole, LARGE, seed)?;
    let broken = misspell_each(&root)?;
    let (told, untold) = in_turn(|| check(&root), || check(&whole));
    write(&huge, HUGE, seed)?;
    let (ten_times, once) = in_turn(|| check(&huge), || check(&whole));
    let size = format!("{} templates, {} modules", LARGE.templates, LARGE.modules);
    let mut rows = vec![
        both(format!("check / grep, {size}"), "3", ratio),
        both("instructions for it, one thread", "900 M", counted),
        both("peak memory", "90 MiB", memory),
        row(
            "ten times the tree against it, work of all threads",
            "10.5 times",
            format!("{:.1} times", ten_times.work as f64 / once.work as f64),
        ),
        row("peak memory there", "800 MiB", format!("{} MiB", ten_times.memory / 1024)),
        row(
            format!("{broken} findings of as many names, against the clean tree"),
            "2 times",
            format!("{:.2} times", ms(told.time) / ms(untold.time)),
        ),
    ];
    for (((name, ..), wanted), times) in KINDS.iter().zip(ANSWERS).zip(answers) {
        let measured = format!("{:.0} ms, while grep took {:.0} ms", ms(times[times.len() / 2]), ms(grep.time));
        rows.push(row(format!("--watch, from a write to the answer: {name}"), wanted, measured));
    }
    Ok(rows)
}

fn rendering(folder: &Utf8Path) -> Vec<Row> {
    let pages = pages_taken(folder);
    let templates = templates_taken();
    let callbacks = callbacks_taken();
    let micros = |time: Duration| time.as_secs_f64() * 1e6;
    let mut rows = Vec::new();
    if let [(_, few), (number, many)] = pages[..] {
        let rate = number as f64 / many.time.as_secs_f64();
        rows.push(row(
            format!("render --into, {number} demo pages, fresh folder"),
            "618 a second",
            format!("{rate:.0}"),
        ));
        let more = many.memory as f64 / few.memory as f64;
        rows.push(row("memory of its workers against a tenth of the pages", "1.1 times", format!("{more:.2} times")));
    }
    rows.push(row(
        "page without callbacks / the template engine alone",
        "1.3",
        format!(
            "{:.2}; {:.2} against each template by itself",
            micros(templates.ours) / micros(templates.alone),
            micros(templates.ours) / micros(templates.apart)
        ),
    ));
    rows.push(row(
        "one callback beyond the bare call",
        "2 µs",
        format!("{:.1} µs, while the bare call took {:.1} µs", micros(callbacks.beyond()), micros(callbacks.bare)),
    ));
    rows
}

fn starting(program: &str) -> Vec<Row> {
    let demo = concat!(env!("CARGO_MANIFEST_DIR"), "/../../demo/saltmarsh");
    let [checked, version] = of_both(program, |program| {
        let version = || run(Command::new(program).arg("--version"));
        let (checked, version) = in_turn(|| run(Command::new(program).args(["check", demo])), version);
        let nothing = median(|| run(&mut Command::new("true")));
        let alone = format!("{:.1} ms, while true took {:.1} ms", ms(version.time), ms(nothing.time));
        [format!("{:.1} ms", ms(checked.time) - ms(version.time)), alone]
    });
    vec![both("check of the demo beyond --version", "6 ms", checked), both("--version", "2 ms", version)]
}

/// Misspells a variable in every template, each time in another way.
fn misspell_each(root: &Utf8Path) -> io::Result<usize> {
    let mut broken = 0;
    for part in ["markup/partials", "markup/parts"] {
        for entry in fs::read_dir(root.join(part))? {
            let path = entry?.path();
            let text = fs::read_to_string(&path)?;
            let new = text.replacen("{{ heading", &format!("{{{{ haeding{broken}"), 1);
            broken += usize::from(new != text);
            fs::write(path, new)?;
        }
    }
    Ok(broken)
}
