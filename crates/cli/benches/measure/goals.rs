//! What is wanted of a check, beside what is measured: ratios of one run, and instructions where valgrind is there.

use std::fs;
use std::io;
use std::process::Command;

use camino::Utf8Path;

use crate::tree::write;
use crate::{LARGE, Taken, median, run};

/// A row of the table.
struct Row {
    what: String,
    wanted: &'static str,
    measured: String,
}

/// Prints the table.
///
/// # Errors
/// Where the system refuses.
pub fn print(folder: &Utf8Path, program: &str, seed: u64) -> io::Result<()> {
    let root = folder.join("large");
    write(&root, LARGE, seed)?;
    let check = || median(|| run(Command::new(program).args(["check", root.as_str()])));
    let clean = check();
    let pattern = r"place\(|through\(";
    let grep = median(|| run(Command::new("grep").env("LC_ALL", "C").args(["-rcE", pattern, root.as_str()])));
    let demo = concat!(env!("CARGO_MANIFEST_DIR"), "/../../demo/saltmarsh");
    let version = median(|| run(Command::new(program).arg("--version")));
    let checked = median(|| run(Command::new(program).args(["check", demo])));
    let counted = instructions(program, &["check", root.as_str()]);
    let broken = misspell_each(&root)?;
    let told = check();
    let ms = |taken: Taken| taken.time.as_secs_f64() * 1e3;
    let size = format!("{} templates, {} modules", LARGE.templates, LARGE.modules);
    let row = |what: &str, wanted, measured: String| Row { what: what.to_string(), wanted, measured };
    let rows = [
        row(&format!("check / grep, {size}"), "3", format!("{:.2}", ms(clean) / ms(grep))),
        row(
            "instructions for it, one thread",
            "900 M",
            counted.map_or("no valgrind here".into(), |counted| format!("{} M", counted / 1_000_000)),
        ),
        row("peak memory", "90 MiB", format!("{} MiB", clean.memory / 1024)),
        row(
            &format!("{broken} findings of as many names, against the clean tree"),
            "2 times",
            format!("{:.2} times", ms(told) / ms(clean)),
        ),
        row("check of the demo beyond --version", "6 ms", format!("{:.1} ms", ms(checked) - ms(version))),
        row("--version", "2 ms", format!("{:.1} ms", ms(version))),
    ];
    println!("| what | wanted | measured |\n| --- | --- | --- |");
    for Row { what, wanted, measured } in rows {
        println!("| {what} | {wanted} | {measured} |");
    }
    Ok(())
}

/// How many instructions a run takes with one thread; nothing where they can't be counted.
fn instructions(program: &str, args: &[&str]) -> Option<u64> {
    let counting = ["--tool=cachegrind", "--cache-sim=no", "--cachegrind-out-file=/dev/null", program];
    let output = Command::new("valgrind").env("RAYON_NUM_THREADS", "1").args(counting).args(args).output().ok()?;
    let told = String::from_utf8_lossy(&output.stderr).into_owned();
    let line = told.lines().find(|line| line.contains("I ") && line.contains("refs:"))?;
    line.rsplit(' ').next()?.replace(',', "").parse().ok()
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
