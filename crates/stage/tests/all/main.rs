//! Themes on the stage, small ones and grown ones.

mod agreement;
mod assets;
mod escaping;
mod features;
mod grown;
mod kinds;
mod links;
mod mangled;
mod overlays;
mod render;
mod roles;
mod small;
mod words;
