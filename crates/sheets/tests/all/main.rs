//! The sheets, in a browser.

mod browser;
mod desks;
mod maps;
mod themes;
