//! Themes on the stage, small ones and grown ones.

mod agreement;
mod assets;
mod begun;
mod changed;
mod conditions;
mod contained;
mod corpus;
mod demo;
mod escaping;
mod features;
mod grown;
mod kinds;
mod links;
mod mangled;
mod maps;
mod origins;
mod overlays;
mod passages;
mod previews;
mod render;
mod roles;
mod sites;
mod small;
mod sown;
mod taken;
mod words;
