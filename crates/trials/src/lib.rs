//! Trials: themes made by a generator with a seed, for tests that no example by hand could cover, and
//! for measuring.
//!
//! * [`grown`] grows small themes that use everything, and that are correct: with a base or without,
//!   with copies of templates, conditions, orders, macros and includes.
//! * [`tree`] writes a theme of any size to a folder.

pub mod grown;
pub mod tree;
