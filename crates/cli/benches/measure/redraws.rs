//! What `check --watch` holds in memory while it draws very many times.

use std::fs;
use std::io::{self, BufRead, BufReader};
use std::path::Path;
use std::process::{Command, Stdio};

use camino::Utf8Path;

/// After how many drawings its memory is looked at.
const STOPS: [usize; 6] = [100, 200, 500, 1_000, 1_500, 2_000];

/// Edits a file of the demo as a person would, each time with words that were never there, and prints how much memory
/// is held.
///
/// # Errors
/// Where the system refuses.
pub fn print(folder: &Utf8Path, program: &str) -> io::Result<()> {
    let demo = Path::new(concat!(env!("CARGO_MANIFEST_DIR"), "/../../demo"));
    let status = Command::new("cp").arg("-r").arg(demo).arg(folder).status()?;
    assert!(status.success(), "the demo can't be copied");
    let mut child = Command::new(program)
        .args(["check", "--watch", folder.join("saltmarsh").as_str()])
        .stdout(Stdio::piped())
        .spawn()?;
    let mut lines = BufReader::new(child.stdout.take().ok_or(io::ErrorKind::BrokenPipe)?).lines();
    let mut drawn = || lines.by_ref().map_while(Result::ok).find(|line| line.starts_with("watching"));
    drawn();
    let path = folder.join("saltmarsh/markup/front.html");
    let text = fs::read_to_string(&path)?;
    println!("| drawings | memory |\n| --- | --- |");
    for at in 1..=STOPS[STOPS.len() - 1] {
        fs::write(&path, text.replacen("{{ greeting }}", &format!("{{{{ greeting_{at} }}}}"), at % 4))?;
        drawn();
        if STOPS.contains(&at) {
            println!("| {at} | {:.1} MiB |", memory(child.id())? / 1024.0);
        }
    }
    child.kill()?;
    child.wait()?;
    Ok(())
}

/// What a process holds now, in KiB.
fn memory(id: u32) -> io::Result<f64> {
    let status = fs::read_to_string(format!("/proc/{id}/status"))?;
    let line = status.lines().find_map(|line| line.strip_prefix("VmRSS:")).unwrap_or_default();
    Ok(line.trim().trim_end_matches(" kB").parse().unwrap_or_default())
}
