#![no_main]
//! Any words as a command.

use libfuzzer_sys::fuzz_target;

fuzz_target!(|bytes: &[u8]| truehook_fuzz::run("shell", bytes));
