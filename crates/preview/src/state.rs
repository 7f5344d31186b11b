//! What is kept between requests.

use std::sync::{Mutex, MutexGuard, PoisonError};

use truehook_core::edit::Change;
use truehook_stage::Rendered;
use truehook_stage::map::Node;

/// A page that was rendered.
pub struct Shown {
    pub page: Rendered,
    pub root: Node,
}

/// Something that was written.
pub struct Done {
    /// In a few words.
    pub what: String,
    pub changes: Vec<Change>,
}

/// What is behind a lock, whatever happened to the thread that held it.
pub fn locked<T>(mutex: &Mutex<T>) -> MutexGuard<'_, T> {
    mutex.lock().unwrap_or_else(PoisonError::into_inner)
}
