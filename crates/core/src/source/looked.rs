//! Whether something looked at texts, or only at what was found in them.

use std::cell::Cell;

thread_local! {
    static LOOKED: Cell<bool> = const { Cell::new(false) };
}

/// Notes that a text is looked at, or where something stands in one.
pub(crate) fn note() {
    LOOKED.set(true);
}

/// Does something that stays on this thread, and tells whether it looked at a text, or at where something stands in
/// one.
pub(crate) fn during<T>(act: impl FnOnce() -> T) -> (T, bool) {
    let outer = LOOKED.replace(false);
    let result = act();
    let looked = LOOKED.replace(outer);
    (result, looked)
}
