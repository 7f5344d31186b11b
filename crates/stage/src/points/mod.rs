//! What happens at points: attachments have their turn, values go through filters, items are gathered and
//! arranged, components get their inputs, assets are chosen. [`host`] ties all of it together.

pub mod assets;
pub mod components;
pub mod contents;
pub mod filters;
pub mod head;
pub mod host;
pub mod media;
pub mod moments;
pub mod turns;
