//! A word on standard error for runs that take longer than a second, only on a terminal.

use std::io::IsTerminal;
use std::sync::mpsc::{Receiver, Sender, channel};
use std::thread;
use std::time::Duration;

use indicatif::{ProgressBar, ProgressStyle};

/// Shows that something is under way, until it is dropped.
pub struct Progress(#[allow(dead_code, reason = "closing it is what ends the thread")] Option<Sender<()>>);

/// Begins to show it after a second.
pub fn after_a_second(what: &str) -> Progress {
    if !std::io::stderr().is_terminal() {
        return Progress(None);
    }
    let (open, closed) = channel();
    let what = what.to_string();
    thread::spawn(move || show(&what, &closed));
    Progress(Some(open))
}

fn show(what: &str, closed: &Receiver<()>) {
    let still_open =
        |time: Duration| matches!(closed.recv_timeout(time), Err(std::sync::mpsc::RecvTimeoutError::Timeout));
    if !still_open(Duration::from_secs(1)) {
        return;
    }
    let bar = ProgressBar::new_spinner().with_message(what.to_string());
    if let Ok(style) = ProgressStyle::with_template("{spinner} {msg}, {elapsed}") {
        bar.set_style(style);
    }
    while still_open(Duration::from_millis(120)) {
        bar.tick();
    }
    bar.finish_and_clear();
}
