#![no_main]
//! Any bytes as a translation.

use libfuzzer_sys::fuzz_target;

fuzz_target!(|bytes: &[u8]| truehook_fuzz::run("words", bytes));
