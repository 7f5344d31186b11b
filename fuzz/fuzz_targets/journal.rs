#![no_main]
//! Any bytes as a theme's journal.

use libfuzzer_sys::fuzz_target;

fuzz_target!(|bytes: &[u8]| truehook_fuzz::run("journal", bytes));
