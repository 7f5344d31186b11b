//! Doing the same to many things, several at a time where that pays.

use rayon::prelude::*;

/// Waking the other threads costs more than this many things take.
const FEW: usize = 256;

/// Does something to each of a number of things, and returns what comes of it in their order.
pub(crate) fn map<R: Send>(number: usize, act: impl Fn(usize) -> R + Send + Sync) -> Vec<R> {
    match number {
        0..FEW => (0..number).map(act).collect(),
        _ => (0..number).into_par_iter().with_min_len(4).map(act).collect(),
    }
}
