//! What found nothing, and will find nothing as long as all names are as they are.

use std::sync::{Mutex, PoisonError};

use rustc_hash::FxHashSet;

use crate::source::looked;

/// The rules that found nothing, and looked at no text for that: where only texts change, and none of the names in
/// them, they need not look again.
#[derive(Debug, Default)]
pub(crate) struct Quiet(Mutex<FxHashSet<&'static str>>);

impl Quiet {
    /// What a rule finds; nothing where that is known. The rule stays on this thread.
    pub fn or_found<T>(&self, rule: &'static str, look: impl FnOnce() -> Vec<T>) -> Vec<T> {
        let known = || self.0.lock().unwrap_or_else(PoisonError::into_inner);
        if known().contains(rule) {
            return Vec::new();
        }
        let (found, looked) = looked::during(look);
        if found.is_empty() && !looked {
            known().insert(rule);
        }
        found
    }

    /// Forgets all of them.
    pub fn forget(&mut self) {
        self.0.get_mut().unwrap_or_else(PoisonError::into_inner).clear();
    }
}
