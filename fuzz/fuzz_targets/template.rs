#![no_main]
//! Any bytes as a template.

use libfuzzer_sys::fuzz_target;

fuzz_target!(|bytes: &[u8]| truehook_fuzz::run("template", bytes));
