#![no_main]
//! Any bytes as what a worker answers.

use libfuzzer_sys::fuzz_target;

fuzz_target!(|bytes: &[u8]| truehook_fuzz::run("answer", bytes));
