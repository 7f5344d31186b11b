//! The sheets, in a browser.

mod atlases;
mod browser;
mod desks;
mod maps;
mod themes;
