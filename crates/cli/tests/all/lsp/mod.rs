//! The Language Server Protocol, spoken with the built program.

mod changing;
mod editor;
mod findings;
mod hostile;
mod known;
mod leading;
mod neovim;
mod sessions;
mod speaking;
mod typing;

pub use editor::{Editor, usual};
