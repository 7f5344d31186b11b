//! How long callbacks may run.

use std::cell::Cell;
use std::time::{Duration, Instant};

use truehook_core::scan::Limits;

/// Watches the time of callbacks, of one page after the other.
pub struct Clock {
    limits: Limits,
    deadline: Cell<Option<Instant>>,
    struck: Cell<bool>,
    spent: Cell<Duration>,
}

impl Clock {
    pub fn new(limits: Limits) -> Clock {
        Clock { limits, deadline: Cell::new(None), struck: Cell::new(false), spent: Cell::new(Duration::ZERO) }
    }

    /// Begins the next page.
    pub fn begin_page(&self) {
        self.spent.set(Duration::ZERO);
    }

    /// Is it over? Asked by the engine again and again.
    pub fn is_over(&self) -> bool {
        let over = self.deadline.get().is_some_and(|deadline| Instant::now() > deadline);
        self.struck.set(self.struck.get() || over);
        over
    }

    /// Was what ran last stopped?
    pub fn has_struck(&self) -> bool {
        self.struck.get()
    }

    /// Runs something under the limits: that of one callback and, inside another one, what that one has left.
    ///
    /// # Errors
    /// Where the callbacks of this page have had all their time, the limit of the page.
    pub fn run<T>(&self, act: impl FnOnce() -> T) -> Result<T, Duration> {
        let of_page = Duration::from_millis(self.limits.page_milliseconds);
        if self.spent.get() > of_page {
            return Err(of_page);
        }
        let outer = self.deadline.get();
        let begun = Instant::now();
        let left = of_page.saturating_sub(self.spent.get());
        let own = begun + Duration::from_millis(self.limits.callback_milliseconds).min(left);
        self.deadline.set(Some(outer.map_or(own, |outer| outer.min(own))));
        self.struck.set(false);
        let result = act();
        self.deadline.set(outer);
        if outer.is_none() {
            self.spent.set(self.spent.get() + begun.elapsed());
        }
        Ok(result)
    }
}
