#![no_main]
//! Any bytes as an expression that a callback returns.

use libfuzzer_sys::fuzz_target;

fuzz_target!(|bytes: &[u8]| truehook_fuzz::run("value", bytes));
