//! What is being typed at a place of a text that need not parse.

pub mod expression;
pub mod toml;
