//! True Hook: declare, attach, place, fill and check the extension points of a theme.
//!
//! This file only parses the command line and passes on; each command has a file of its own.

mod args;
mod commands;
mod completing;
mod given;
mod log;
mod output;
mod pages_compared;
mod progress;
mod sheets;
mod site_folder;
mod watch;
mod workshop;
mod writing;

use std::io::ErrorKind;
use std::process::ExitCode;

use clap::Parser;

/// A check makes very many small things at once; this makes them in half the time.
#[global_allocator]
static ALLOCATOR: mimalloc::MiMalloc = mimalloc::MiMalloc;

/// What came of a command that could be carried out.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Outcome {
    /// Done and clean.
    Clean,
    /// There are findings, or a page was rendered with failures.
    Findings,
}

/// Room on the stack, for texts that are nested as deep as they may be.
const STACK: usize = 64 * 1024 * 1024;

fn main() -> ExitCode {
    huge_pages(false);
    // How much the system gives differs, and can't be asked for from inside.
    match std::thread::Builder::new().name("main".into()).stack_size(STACK).spawn(begin) {
        Ok(thread) => thread.join().unwrap_or(ExitCode::from(2)),
        Err(_) => begin(),
    }
}

/// May memory be had in pages of 2 MiB, by this program and those that it starts? The allocator asks for them; half of
/// the last of each is never used, and to clear one takes as long as a small command.
pub fn huge_pages(allowed: bool) {
    #[cfg(target_os = "linux")]
    let _ = rustix::thread::disable_transparent_huge_pages(!allowed);
    #[cfg(not(target_os = "linux"))]
    let _ = allowed;
}

fn begin() -> ExitCode {
    // A worker of ours, which renders what another process of this program asks for.
    if std::env::args_os().skip(1).eq([workshop::WORKER]) {
        return truehook_stage::workers::serve().map_or(ExitCode::from(2), |()| ExitCode::SUCCESS);
    }
    if completing::answered() {
        return ExitCode::SUCCESS;
    }
    if let Err(error) = log::start() {
        output::refusal(&format!("{error:#}"));
        return ExitCode::from(2);
    }
    // Whatever the file is called, this is what the program is called.
    let words = std::iter::once("truehook".into()).chain(std::env::args_os().skip(1));
    let arguments = match args::Arguments::try_parse_from(words) {
        Ok(arguments) => arguments,
        Err(error) if !error.use_stderr() => {
            // Where nobody reads the help, that is no error.
            let _ = error.print();
            return ExitCode::SUCCESS;
        }
        Err(error) => {
            let text = error.render().to_string();
            match text.strip_prefix("error: ") {
                Some(text) => output::refusal(text.trim_end()),
                // Without a word it is the help that is asked for.
                None => drop(error.print()),
            }
            return ExitCode::from(2);
        }
    };
    match commands::run(arguments) {
        Ok(Outcome::Clean) => ExitCode::SUCCESS,
        Ok(Outcome::Findings) => ExitCode::from(1),
        Err(error) if is_closed_pipe(&error) => ExitCode::SUCCESS,
        Err(error) => {
            output::error(&error);
            ExitCode::from(2)
        }
    }
}

/// Has the reader of our output gone? That is no error.
fn is_closed_pipe(error: &anyhow::Error) -> bool {
    error.chain().any(|cause| {
        let plain = cause.downcast_ref::<std::io::Error>().map(std::io::Error::kind);
        let json = cause.downcast_ref::<serde_json::Error>().and_then(serde_json::Error::io_error_kind);
        plain.or(json) == Some(ErrorKind::BrokenPipe)
    })
}
