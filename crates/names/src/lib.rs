//! Names: how they are spelt, and which was meant by one that is misspelt, also among very many.
//!
//! A crate of its own, since comparing is nearly all that a check of many mistakes does: the build of the tests
//! optimises this, and not the core.

pub mod name_sets;
pub mod names;
