//! Components: their renderers and inputs.

pub mod doubled_offer;
pub mod idle_component;
pub mod idle_input;
pub mod inner_name;
pub mod input_type;
pub mod input_value;
pub mod may_not_hold;
pub mod missing_markup;
pub mod never_held;
pub mod no_offer;
pub mod no_outlet;
pub mod too_deep;
pub mod two_renderers;
pub mod unknown_input;
pub mod wrap_body;
