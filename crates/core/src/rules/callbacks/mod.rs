//! Callbacks: is what is attached there, and what is there attached?

pub mod attach_kind;
pub mod idle_callback;
pub mod missing_callback;
pub mod missing_import;
