//! True Hook in editors: the Language Server Protocol, 3.17, over the same registry that a check reads.
//!
//! A [`World`](world::World) holds every theme of the workspace, linked, over the files as the editor sees them: what
//! is open and not saved lies over the disk. A change is taken into account once the editor falls silent for a
//! moment, and before anything is answered that has to know of it. Every answer is a function of the world and of
//! what was asked.
//!
//! ```text
//! messages ──▶ server ──▶ world (laid ▸ theme) ──▶ diagnostics
//!                 └─────▶ answer/ ──▶ cursor/ (what is being typed)
//! ```

mod answer;
mod client;
mod conversation;
mod cursor;
mod diagnostics;
mod frames;
mod hearing;
mod kept;
mod laid;
mod offered;
mod parent;
mod paths;
mod place;
mod server;
mod telling;
mod theme;
mod watched;
mod world;

#[doc(hidden)]
pub use frames::read_any;
pub use server::{Ended, LspError, serve, serve_on};
