//! How the time of a command grows with each thing that a theme can have much of.
//!
//! Each dimension is a theme with `n` of one thing and a command on it, run with two sizes, the second
//! ten times the first. The exponent is the logarithm of how many times as long the second takes: 1 is
//! in proportion, 2 is quadratic. Processor time of the process is what is compared, so that what else
//! the machine does counts little, and what the program takes for nothing at all is taken off.

mod dimensions;
mod themes;

use std::fs;
use std::process::{Command, Stdio};

use camino::Utf8Path;

use dimensions::DIMENSIONS;
use nix::sys::resource::{UsageWho, getrusage};
use themes::Theme;

/// Ten times as much is to take twelve times as long at most; so much more is measured by chance now and then.
const MOST: f64 = 12.0 * 1.15;
/// Where the sizes are small, chance counts for more; what grows quadratically takes a hundred times as long.
const MOST_OF_FEW: f64 = 25.0;
/// What counts as few.
const FEW: usize = 500;
/// What is shorter is not measured well beside the start of a process, in seconds; it counts as this long.
const GRAIN: f64 = 0.02;

/// Prints a table of all dimensions, or of those with a word in their name.
///
/// # Errors
/// Where the system refuses.
pub fn print(folder: &Utf8Path, program: &str, size: usize, word: Option<&str>) -> std::io::Result<bool> {
    let nothing = least(program, &write(&folder.join("nothing/theme"), &Theme::default())?, &["check"]);
    let mut fine = true;
    let most = if size < FEW { MOST_OF_FEW } else { MOST };
    println!("| what there is more of | {size}, s | {}, s | times | exponent |", size * 10);
    println!("| --- | --- | --- | --- | --- |");
    for dimension in DIMENSIONS.iter().filter(|dimension| word.is_none_or(|word| dimension.name.contains(word))) {
        let mut took = [0.0, 0.0];
        for (at, n) in [size, size * 10].into_iter().enumerate() {
            let n = n / dimension.each;
            let root = write(&folder.join("theme"), &(dimension.theme)(n))?;
            took[at] = (least(program, &root, dimension.command) - nothing).max(0.0005);
            fs::remove_dir_all(&root)?;
        }
        let times = took[1] / took[0].max(GRAIN);
        let late = took[1] > took[0].max(GRAIN) * most;
        fine &= !late;
        println!(
            "| {} | {:.3} | {:.3} | {times:.1} | {:.2}{} |",
            dimension.name,
            took[0],
            took[1],
            times.log10(),
            if late { " ✗" } else { "" }
        );
    }
    Ok(fine)
}

/// Writes the themes of all dimensions with a word in their name into a folder, to be looked at.
///
/// # Errors
/// Where the system refuses.
pub fn lay_out(folder: &Utf8Path, size: usize, word: &str) -> std::io::Result<()> {
    for dimension in DIMENSIONS.iter().filter(|dimension| dimension.name.contains(word)) {
        let name = dimension.name.replace(|letter: char| !letter.is_alphanumeric(), "-");
        let root = write(&folder.join(name).join("theme"), &(dimension.theme)(size / dimension.each))?;
        println!("cd {root}; truehook {}", dimension.command.join(" "));
    }
    Ok(())
}

fn write(root: &Utf8Path, theme: &Theme) -> std::io::Result<camino::Utf8PathBuf> {
    for (name, text) in theme.files() {
        let path = root.join(name);
        fs::create_dir_all(path.parent().unwrap_or(root))?;
        fs::write(path, text)?;
    }
    Ok(root.to_path_buf())
}

/// The least processor time of three runs, in seconds.
fn least(program: &str, root: &Utf8Path, command: &[&str]) -> f64 {
    let mut least = f64::MAX;
    for _ in 0..3 {
        let before = children();
        let status = Command::new(program)
            .args(command)
            .current_dir(root)
            .env("NO_COLOR", "1")
            .stdout(Stdio::null())
            .stderr(Stdio::null())
            .status();
        let took = children() - before;
        if status.ok().and_then(|status| status.code()).is_none() {
            eprintln!("measure: {command:?} did not end well in {root}");
            std::process::exit(2);
        }
        least = least.min(took);
        if took > 5.0 {
            break;
        }
    }
    least
}

/// The processor time of all processes that this one has started and waited for, in seconds.
fn children() -> f64 {
    let usage = getrusage(UsageWho::RUSAGE_CHILDREN).expect("a process may ask for its children");
    let seconds = |time: nix::sys::time::TimeVal| time.tv_sec() as f64 + time.tv_usec() as f64 / 1e6;
    seconds(usage.user_time()) + seconds(usage.system_time())
}
