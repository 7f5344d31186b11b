#![no_main]
//! Any bytes as what an editor sends.

use libfuzzer_sys::fuzz_target;

fuzz_target!(|bytes: &[u8]| truehook_fuzz::run("frames", bytes));
