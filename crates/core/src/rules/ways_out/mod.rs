//! Ignores: what a theme has decided to live with.

pub mod idle_ignore;
