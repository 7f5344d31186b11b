//! Several things at a time, where there are enough of them.

use std::cell::Cell;

use rayon::prelude::*;

/// Fewer things than this are done sooner by one thread alone.
const FEW: usize = 256;

thread_local! {
    static ALONE: Cell<bool> = const { Cell::new(false) };
}

/// What comes of each position below a length, in order.
pub fn map<T: Send>(length: usize, each: impl Fn(usize) -> T + Sync + Send) -> Vec<T> {
    match length < FEW || ALONE.get() {
        true => (0..length).map(each).collect(),
        false => (0..length).into_par_iter().with_min_len(4).map(each).collect(),
    }
}

/// Does something on this thread alone. Each further thread keeps room of its own, which many small
/// things don't repay.
pub fn alone<T>(act: impl FnOnce() -> T) -> T {
    let outer = ALONE.replace(true);
    let result = act();
    ALONE.set(outer);
    result
}
