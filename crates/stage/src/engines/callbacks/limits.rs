//! How long callbacks may run. Limits are of processor time of this thread, so that a busy machine doesn't count; the
//! clock is the [last resort](last_resort).

use std::cell::{Cell, RefCell};
use std::time::{Duration, Instant};

use cpu_time::ThreadTime;
use truehook_core::scan::Limits;

use crate::watch::last_resort;

/// Why something was stopped.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Stop {
    /// It took its processor time.
    Work,
    /// It took far longer by the clock.
    Clock,
}

/// One callback that is running, perhaps inside another one.
struct Turn {
    began: Instant,
    /// The processor time of this thread when the engine asked for the first time. Until then it has run so few steps
    /// that they don't count.
    work_before: Option<Duration>,
}

/// Watches the time of callbacks, of one page after the other.
pub struct Clock {
    limits: Limits,
    turns: RefCell<Vec<Turn>>,
    stopped: Cell<Option<Stop>>,
    /// The processor time of this thread when the page began.
    work_before_page: Cell<Duration>,
    /// What callbacks of this page have taken by the clock: they can't have worked longer.
    spent: Cell<Duration>,
    /// What may be taken by the clock, for a limit of processor time.
    last_resort: fn(Duration) -> Duration,
}

/// The processor time of this thread.
fn work() -> Duration {
    ThreadTime::now().as_duration()
}

impl Clock {
    pub fn new(limits: Limits) -> Clock {
        let (stopped, turns) = (Cell::new(None), RefCell::default());
        Clock { limits, turns, stopped, work_before_page: Cell::new(work()), spent: Cell::default(), last_resort }
    }

    fn of_callback(&self) -> Duration {
        Duration::from_millis(self.limits.callback_milliseconds)
    }

    fn of_page(&self) -> Duration {
        Duration::from_millis(self.limits.page_milliseconds)
    }

    /// Begins the next page.
    pub fn begin_page(&self) {
        self.work_before_page.set(work());
        self.spent.set(Duration::ZERO);
    }

    /// Is it over? Asked by the engine every few thousand steps.
    pub fn is_over(&self) -> bool {
        let mut turns = self.turns.borrow_mut();
        let Some(first) = turns.first() else { return false };
        let now = work();
        let stop = if self.is_page_over(now, self.spent.get() + first.began.elapsed()) {
            Some(Stop::Work)
        } else {
            turns.iter_mut().find_map(|turn| {
                let before = *turn.work_before.get_or_insert(now);
                match () {
                    () if now.saturating_sub(before) > self.of_callback() => Some(Stop::Work),
                    () if turn.began.elapsed() > (self.last_resort)(self.of_callback()) => Some(Stop::Clock),
                    () => None,
                }
            })
        };
        if stop.is_some() && self.stopped.get().is_none() {
            self.stopped.set(stop);
        }
        stop.is_some()
    }

    fn is_page_over(&self, work: Duration, spent: Duration) -> bool {
        spent > self.of_page() && work.saturating_sub(self.work_before_page.get()) > self.of_page()
            || spent > (self.last_resort)(self.of_page())
    }

    /// Was what ran last stopped?
    pub fn has_struck(&self) -> bool {
        self.stopped.get().is_some()
    }

    /// What is said of what was stopped.
    pub fn reason(&self) -> String {
        let limit = self.limits.callback_milliseconds;
        match self.stopped.get() {
            Some(Stop::Clock) => format!(
                "stopped by the clock after {:?}, in which it did not work the {limit} ms of processor time that it may take",
                (self.last_resort)(self.of_callback())
            ),
            _ => format!("stopped after {limit} ms of processor time, its limit"),
        }
    }

    /// Runs something under the limits: that of one callback and, inside another one, what that one has left.
    ///
    /// # Errors
    /// Where the callbacks of this page have had all their time, the limit of the page.
    pub fn run<T>(&self, act: impl FnOnce() -> T) -> Result<T, Duration> {
        // The clock is asked first, since that costs least.
        if self.spent.get() > self.of_page() && self.is_page_over(work(), self.spent.get()) {
            return Err(self.of_page());
        }
        let began = Instant::now();
        self.turns.borrow_mut().push(Turn { began, work_before: None });
        self.stopped.set(None);
        let result = act();
        let mut turns = self.turns.borrow_mut();
        turns.pop();
        if turns.is_empty() {
            self.spent.set(self.spent.get() + began.elapsed());
        }
        Ok(result)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn clock(callback: u64) -> Clock {
        Clock::new(Limits { callback_milliseconds: callback, ..Limits::default() })
    }

    #[test]
    fn waiting_is_no_work() {
        let clock = clock(20);
        let over = clock.run(|| {
            let before = clock.is_over();
            std::thread::sleep(Duration::from_millis(100));
            (before, clock.is_over())
        });
        assert_eq!(over, Ok((false, false)));
        assert!(!clock.has_struck());
    }

    #[test]
    fn work_is_counted_and_waiting_far_too_long_is_the_last_resort() {
        let clock = clock(20);
        let over = clock.run(|| {
            let mut rounds = 0u64;
            while !clock.is_over() {
                rounds += 1;
            }
            rounds
        });
        assert!(over.is_ok_and(|rounds| rounds > 10) && clock.reason().contains("20 ms of processor time"));
        let clock = Clock { last_resort: |limit| limit * 20, ..clock };
        let over = clock.run(|| {
            std::thread::sleep(Duration::from_millis(450));
            clock.is_over()
        });
        assert_eq!(over, Ok(true));
        assert!(clock.reason().contains("by the clock"));
    }

    #[test]
    fn what_runs_inside_counts_for_what_it_runs_in() {
        let clock = clock(20);
        let outer = clock.run(|| {
            clock.is_over();
            for _ in 0..50 {
                let _ = clock.run(|| {
                    let begun = work();
                    while work() - begun < Duration::from_millis(2) {}
                    clock.is_over()
                });
            }
            clock.is_over()
        });
        assert_eq!(outer, Ok(true));
    }
}
