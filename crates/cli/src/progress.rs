//! A word on standard error for runs that take longer than a second, only on a terminal.

use std::io::IsTerminal;
use std::sync::atomic::{AtomicU64, Ordering};
use std::sync::mpsc::{Receiver, Sender, channel};
use std::sync::{Arc, Mutex, PoisonError};
use std::thread;
use std::time::Duration;

use indicatif::{ProgressBar, ProgressStyle};

/// Shows that something is under way, until it is dropped.
pub struct Progress {
    #[allow(dead_code, reason = "closing it is what ends the thread")]
    open: Option<Sender<()>>,
    done: Arc<AtomicU64>,
    /// The bar, once it is shown.
    bar: Arc<Mutex<Option<ProgressBar>>>,
}

impl Progress {
    /// Writes something between two pictures of the bar.
    pub fn aside<T>(&self, write: impl FnOnce() -> T) -> T {
        let bar = self.bar.lock().unwrap_or_else(PoisonError::into_inner);
        match &*bar {
            Some(bar) => bar.suspend(write),
            None => write(),
        }
    }

    /// One more is done.
    pub fn step(&self) {
        self.done.fetch_add(1, Ordering::Relaxed);
    }
}

/// Begins to show it after a second.
pub fn after_a_second(what: &str) -> Progress {
    shown(what, None)
}

/// Begins to show it after a second: how many of how many are done, and how long the rest may take.
pub fn of(what: &str, total: usize) -> Progress {
    shown(what, Some(total as u64))
}

fn shown(what: &str, total: Option<u64>) -> Progress {
    let (done, bar) = (Arc::new(AtomicU64::new(0)), Arc::new(Mutex::new(None)));
    if !std::io::stderr().is_terminal() {
        return Progress { open: None, done, bar };
    }
    let (open, closed) = channel();
    let (what, counted, place) = (what.to_string(), done.clone(), bar.clone());
    thread::spawn(move || show(&what, total, &counted, &place, &closed));
    Progress { open: Some(open), done, bar }
}

fn show(what: &str, total: Option<u64>, done: &AtomicU64, place: &Mutex<Option<ProgressBar>>, closed: &Receiver<()>) {
    let still_open =
        |time: Duration| matches!(closed.recv_timeout(time), Err(std::sync::mpsc::RecvTimeoutError::Timeout));
    if !still_open(Duration::from_secs(1)) {
        return;
    }
    let (bar, form) = match total {
        Some(total) => (ProgressBar::new(total), "{msg} {bar:20} {pos} of {len}, {eta} left"),
        None => (ProgressBar::new_spinner(), "{spinner} {msg}, {elapsed}"),
    };
    if let Ok(style) = ProgressStyle::with_template(form) {
        bar.set_style(style);
    }
    bar.set_message(what.to_string());
    let kept = |bar| *place.lock().unwrap_or_else(PoisonError::into_inner) = bar;
    kept(Some(bar.clone()));
    while still_open(Duration::from_millis(120)) {
        if total.is_some() {
            bar.set_position(done.load(Ordering::Relaxed));
        }
        bar.tick();
    }
    kept(None);
    bar.finish_and_clear();
}
