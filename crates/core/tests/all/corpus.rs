//! What fuzzing has found, replayed: small inputs that lead everywhere in the scanners, and those that once broke them.

use std::fs;
use std::path::Path;

#[path = "../../../../fuzz/src/scanning.rs"]
mod scanning;

#[test]
fn no_input_that_fuzzing_kept_breaks_a_scanner() {
    let mut replayed = 0;
    for target in ["manifest", "template", "module", "style", "script", "words", "condition", "selector"] {
        let folder = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../fuzz/corpus").join(target);
        for input in fs::read_dir(&folder).unwrap_or_else(|error| panic!("{}: {error}", folder.display())) {
            let bytes = fs::read(input.unwrap().path()).unwrap();
            scanning::scanned(target, &bytes);
            replayed += 1;
        }
    }
    assert!(replayed > 100, "{replayed}");
}
