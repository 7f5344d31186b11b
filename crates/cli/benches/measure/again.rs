//! What many findings cost, and what checking again costs after one edit.

use std::fs;
use std::io::{self, BufRead, BufReader};
use std::process::{Command, Stdio};
use std::time::{Duration, Instant};

use camino::Utf8Path;

use crate::tree::{Size, write};
use crate::{LARGE, median, run};

/// How many edits are made of each kind while the theme is watched.
const EDITS: usize = 9;

/// An edit that is made and taken back in turn: its name, the file, what stands there, and what comes in its place.
type Edit = (&'static str, &'static str, &'static str, &'static str);

/// Only texts move; a name in a template changes; a manifest declares something else.
pub const KINDS: [Edit; 3] = [
    ("text alone", "markup/partials/p7.html", "<", " <"),
    ("a name in a template", "markup/partials/p7.html", "{{ heading", "{{ haeding"),
    ("a manifest", "truehook.toml", "label = \"", "about = \"\"\nlabel = \""),
];

/// Prints both.
///
/// # Errors
/// Where the system refuses.
pub fn print(folder: &Utf8Path, seed: u64) -> io::Result<()> {
    let program = env!("CARGO_BIN_EXE_truehook");
    let root = folder.join("large");
    write(&root, LARGE, seed)?;
    let check = || median(|| run(Command::new(program).args(["check", root.as_str()])));
    let clean = check();
    let times = watched(program, &root)?;
    let broken = misspell(&root, LARGE)?;
    let told = check();
    let ms = |time: Duration| format!("{:.1} ms", time.as_secs_f64() * 1000.0);
    println!("| the large tree | check | times the clean one |\n| --- | --- | --- |");
    println!("| clean | {} | 1 |", ms(clean.time));
    println!("| {broken} findings | {} | {:.2} |", ms(told.time), told.time.as_secs_f64() / clean.time.as_secs_f64());
    println!(
        "\n| from a write to the answer of --watch | median of {EDITS} | least | most |\n| --- | --- | --- | --- |"
    );
    for ((name, ..), times) in KINDS.iter().zip(times) {
        println!("| {name} | {} | {} | {} |", ms(times[EDITS / 2]), ms(times[0]), ms(times[EDITS - 1]));
    }
    Ok(())
}

/// Misspells a variable in every template.
fn misspell(root: &Utf8Path, size: Size) -> io::Result<usize> {
    let mut broken = 0;
    for part in ["markup/partials", "markup/parts"] {
        for entry in fs::read_dir(root.join(part))?.take(size.templates) {
            let path = entry?.path();
            let text = fs::read_to_string(&path)?.replacen("{{ heading", "{{ haeding", 1);
            broken += usize::from(text.contains("haeding"));
            fs::write(path, text)?;
        }
    }
    Ok(broken)
}

/// How long it takes from a write until the answer stands there, shortest first, for each kind of edit.
///
/// # Errors
/// Where the system refuses.
pub fn watched(program: &str, root: &Utf8Path) -> io::Result<Vec<Vec<Duration>>> {
    let mut child = Command::new(program).args(["check", "--watch", root.as_str()]).stdout(Stdio::piped()).spawn()?;
    let mut lines = BufReader::new(child.stdout.take().ok_or(io::ErrorKind::BrokenPipe)?).lines();
    let mut answer = || lines.by_ref().map_while(Result::ok).find(|line| line.starts_with("watching"));
    answer();
    std::thread::sleep(Duration::from_secs(1));
    let mut all = Vec::new();
    for (_, file, one, other) in KINDS {
        let path = root.join(file);
        let text = fs::read_to_string(&path)?;
        let mut times = Vec::new();
        for at in 0..EDITS {
            let new = if at % 2 == 0 { text.replacen(one, other, 1) } else { text.clone() };
            assert!(at % 2 == 1 || new != text, "{file} holds no {one}");
            let begun = Instant::now();
            fs::write(&path, new)?;
            answer();
            times.push(begun.elapsed());
            std::thread::sleep(Duration::from_millis(300));
        }
        fs::write(&path, text)?;
        answer();
        times.sort();
        all.push(times);
    }
    child.kill()?;
    child.wait()?;
    Ok(all)
}
