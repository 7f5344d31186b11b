//! What fuzzing found, and what it began with: messages of other processes, and words of commands.

use std::path::Path;

#[path = "../../../../fuzz/src/messages.rs"]
mod messages;

#[test]
fn kept_inputs_are_read_to_their_end() {
    for target in ["frames", "journal", "shell", "answer"] {
        let folder = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../fuzz/corpus").join(target);
        let files: Vec<_> = std::fs::read_dir(&folder).unwrap().flatten().collect();
        assert!(!files.is_empty(), "{target}");
        for file in files {
            messages::read(target, &std::fs::read(file.path()).unwrap());
        }
    }
}
