//! Components: their renderers and inputs.

pub mod idle_component;
pub mod missing_markup;
pub mod two_renderers;
pub mod unknown_input;
