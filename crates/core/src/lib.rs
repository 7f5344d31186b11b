//! The core of True Hook: reads the layers of a theme, learns what each file declares, refers to
//! and places, links all of it into one [`Registry`](link::Registry), and checks it.
//!
//! Everything walks in one direction:
//!
//! ```text
//! read ──▶ scan ──▶ link ──▶ rules ──▶ findings
//! ```
//!
//! Only [`read`] (and [`edit::write`], the way back) touch the disk. Nothing in this crate prints.

pub mod address;
pub mod catalogue;
pub mod css;
pub mod edit;
pub mod forms;
pub mod html;
pub mod keys;
pub mod link;
mod loads;
pub mod mending;
pub mod mentions;
pub mod name;
mod open;
mod parallel;
pub mod read;
mod rows;
pub mod rules;
pub mod scan;
pub mod schema;
pub mod shell;
pub mod source;
pub mod start;
pub mod typings;
pub mod view;
pub mod visible;
pub mod why;

use truehook_names::name_sets;
pub use truehook_names::names;
