//! Several things at a time, where there are enough of them.

use std::cell::Cell;
use std::sync::LazyLock;

use rayon::prelude::*;
use rayon::{ThreadPool, ThreadPoolBuilder};

use crate::rows::Rows;

/// Fewer things than this, each as much work as a file, are done sooner by one thread alone: others have to begin first.
const FEW: usize = 256;
/// So many things are done in one go: a large one among the last of them keeps no thread waiting for long.
const PIECE: usize = 8;
/// So many references, points or other small things are as much work as a file.
pub const LIGHT: usize = 16;

thread_local! {
    static ALONE: Cell<bool> = const { Cell::new(false) };
}

/// What comes of each position below a length, in order.
pub fn map<T: Send>(length: usize, each: impl Fn(usize) -> T + Sync + Send) -> Vec<T> {
    match length < FEW || ALONE.get() {
        true => (0..length).map(each).collect(),
        false => pool(|| (0..length).into_par_iter().with_min_len(PIECE / 2).with_max_len(PIECE).map(each).collect()),
    }
}

/// Does something large, of which parts are done several at a time, on one of the threads that do them: so it is given
/// the memory that these were given before and need no more, and nobody is woken for each part.
pub fn inside<T: Send>(things: usize, act: impl FnOnce() -> T + Send) -> T {
    match things < FEW || ALONE.get() {
        true => act(),
        false => pool(act),
    }
}

/// What comes of each position below a length, in order: a row of things for each. What stands at all of them is as
/// much work as `things`.
pub fn rows<T: Send>(length: usize, things: usize, each: impl Fn(usize, &mut Vec<T>) + Sync + Send) -> Rows<T> {
    const PIECE: usize = 64;
    let piece = |from: usize| {
        let (mut all, mut ends) = (Vec::new(), Vec::new());
        for at in from..length.min(from + PIECE) {
            each(at, &mut all);
            ends.push(all.len() as u32);
        }
        Rows::of(all, ends)
    };
    let pieces = map_many(length.div_ceil(PIECE), things, |at| piece(at * PIECE));
    let mut rows = Rows::with_room(length, pieces.iter().map(|piece| piece.all().len()).sum());
    pieces.into_iter().for_each(|piece| rows.append(piece));
    rows
}

/// As [`map`], of a few positions at each of which as many things are looked at as `things`.
pub fn map_many<T: Send>(length: usize, things: usize, each: impl Fn(usize) -> T + Sync + Send) -> Vec<T> {
    match things < FEW || ALONE.get() {
        true => (0..length).map(each).collect(),
        false => pool(|| (0..length).into_par_iter().with_max_len(1).map(each).collect()),
    }
}

/// Two things, at the same time where as many things are looked at as `things`.
pub fn both<A: Send, B: Send>(
    things: usize,
    one: impl FnOnce() -> A + Send,
    other: impl FnOnce() -> B + Send,
) -> (A, B) {
    match things < FEW || ALONE.get() {
        true => (one(), other()),
        false => pool(|| rayon::join(one, other)),
    }
}

/// Room on the stack of each thread, for texts that are nested as deep as they may be.
const STACK: usize = 64 * 1024 * 1024;

/// Does something on threads with room enough; on those that are there where there can be no more.
fn pool<T: Send>(act: impl FnOnce() -> T + Send) -> T {
    static POOL: LazyLock<Option<ThreadPool>> =
        LazyLock::new(|| ThreadPoolBuilder::new().stack_size(STACK).build().ok());
    match &*POOL {
        Some(pool) => pool.install(act),
        None => act(),
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
