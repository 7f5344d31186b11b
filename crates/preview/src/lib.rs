//! The live preview of True Hook: a theme's site on localhost, which follows every edit.
//!
//! A [`Room`](room::Room) holds the theme as it is now; what watches the disk renews it, and tells every open page.
//! Pages are rendered by workers, so that nothing in a theme can take the server away; each is kept until the next
//! change. Whatever is written goes through the same plans and locks as by command.
//!
//! Two ports are listened on. The shell's has the drawer and all that can write; the theme's pages have the other, and
//! with it another origin, so that their scripts can do what they could on any site, and no more. Everything of ours
//! lives under `/-/`, so that no page of the site is shadowed.

mod connections;
mod files;
mod good;
mod guard;
mod pages;
mod room;
mod routes;
mod server;
mod sheets;
mod state;
mod told;
mod view;
mod write;

pub use server::{Options, Started, start};

/// Why there can be no preview, or a part of it.
#[derive(Debug, thiserror::Error)]
#[non_exhaustive]
pub enum PreviewError {
    /// No port is free.
    #[error("no port from {0} to {1} is free; name another one with --port")]
    NoPort(u16, u16),
    /// The system refuses.
    #[error(transparent)]
    System(#[from] std::io::Error),
    /// Files can't be watched.
    #[error(transparent)]
    Watch(#[from] truehook_changes::WatchError),
}
