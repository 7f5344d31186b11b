//! What each fuzz target does with its input. The tests of the core, the stage and the program replay the kept
//! inputs through the same functions.

mod messages;
mod scanning;
mod values;

/// Runs the target of that name.
pub fn run(target: &str, bytes: &[u8]) {
    match target {
        "value" => values::returned(bytes),
        "frames" | "journal" | "shell" | "answer" => messages::read(target, bytes),
        _ => scanning::scanned(target, bytes),
    }
}
