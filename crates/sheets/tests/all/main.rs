//! The sheets, in a browser.

mod browser;
mod maps;
mod themes;
