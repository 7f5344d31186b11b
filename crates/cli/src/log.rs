//! What went on, for whoever has to report what went wrong: only where `TRUEHOOK_LOG` asks for it.

use std::fs::OpenOptions;
use std::str::FromStr;
use std::sync::Mutex;

use anyhow::{Context, Result, bail};
use tracing::Level;

/// The level from which on something is written: `error`, `warn`, `info`, `debug` or `trace`.
const LEVEL: &str = "TRUEHOOK_LOG";
/// The file that it is appended to; without it, the error output.
const FILE: &str = "TRUEHOOK_LOG_FILE";

/// Begins to write, where that is asked for.
///
/// # Errors
/// Where the level is none, or the file can't be written.
pub fn start() -> Result<()> {
    let Ok(asked) = std::env::var(LEVEL) else { return Ok(()) };
    if asked.is_empty() {
        return Ok(());
    }
    let Ok(level) = Level::from_str(&asked) else {
        bail!("{LEVEL} is `{asked}`; it is one of error, warn, info, debug and trace");
    };
    let writer = tracing_subscriber::fmt().with_max_level(level).with_ansi(false).with_target(true);
    match std::env::var_os(FILE) {
        None => writer.with_writer(std::io::stderr).init(),
        Some(path) => {
            let file = OpenOptions::new().create(true).append(true).open(&path);
            let file = file.with_context(|| format!("{} can't be written", path.display()))?;
            writer.with_writer(Mutex::new(file)).init();
        }
    }
    Ok(())
}
