//! Worker processes: a theme's code runs where it can be ended from outside, whatever it does.
//!
//! A worker opens the theme by itself and answers one question after the other, under limits that the system
//! enforces. A thread in it watches each step; what can't be stopped from inside ends the worker, and is named. Where
//! a worker goes without a word, the page is rendered again with each step told before it is carried out: the last
//! one told is what it was. The page is then rendered without that, and says so among its failures.
//!
//! ```no_run
//! # fn main() -> Result<(), Box<dyn std::error::Error>> {
//! use std::sync::Arc;
//!
//! use truehook_core::link::Registry;
//! use truehook_core::read::{DiskFiles, Project};
//! use truehook_stage::Manner;
//! use truehook_stage::workers::{Program, Setup, Workers};
//!
//! // The program calls `truehook_stage::workers::serve()` where it is started with this argument.
//! let program = Program::new(std::env::current_exe()?, ["worker"]);
//! let workers = Workers::start(program, Setup::new("themes/saltmarsh".into()), 2);
//! let registry = Registry::new(Project::open(&DiskFiles, "themes/saltmarsh".into())?);
//! let workers = workers.over(Arc::new(registry));
//! let page = workers.page("/", &Manner::default())?;
//! # Ok(())
//! # }
//! ```

mod frame;
mod limits;
mod message;
mod pool;
mod serve;
mod worker;

pub use message::Setup;
pub use pool::{WorkerError, Workers};
pub use serve::serve;
pub use worker::Program;

/// Reads any bytes as what workers are asked and answer, for tests. Answers how many messages there were.
#[doc(hidden)]
pub fn read_any(bytes: &[u8]) -> usize {
    let (mut asks, mut answers) = (bytes, bytes);
    let asked = std::iter::from_fn(|| frame::read::<message::Ask>(&mut asks).ok().flatten()).count();
    asked + std::iter::from_fn(|| frame::read::<message::Answer>(&mut answers).ok().flatten()).count()
}
