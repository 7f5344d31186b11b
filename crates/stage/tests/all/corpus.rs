//! What fuzzing has found of values that callbacks return, replayed: each beside an innocent callback that has to run.

use std::fs;
use std::path::Path;

#[path = "../../../../fuzz/src/values.rs"]
mod values;

#[test]
fn no_value_that_fuzzing_kept_stops_an_innocent_callback() {
    let folder = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../fuzz/corpus/value");
    let mut replayed = 0;
    for input in fs::read_dir(&folder).unwrap_or_else(|error| panic!("{}: {error}", folder.display())) {
        values::returned(&fs::read(input.unwrap().path()).unwrap());
        replayed += 1;
    }
    assert!(replayed > 10, "{replayed}");
}
