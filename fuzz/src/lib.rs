//! What each fuzz target does with its input. The tests of the core and of the stage replay the kept inputs through
//! the same functions.

mod scanning;
mod values;

/// Runs the target of that name.
pub fn run(target: &str, bytes: &[u8]) {
    match target {
        "value" => values::returned(bytes),
        _ => scanning::scanned(target, bytes),
    }
}
