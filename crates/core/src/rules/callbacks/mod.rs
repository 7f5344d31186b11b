//! Callbacks: is what is attached there, and what is there attached?

pub mod attach_kind;
pub mod attached_in_vain;
pub mod doubled_attachment;
pub mod escaped_markup;
pub mod frozen_value;
pub mod idle_callback;
pub mod left_over_note;
pub mod missing_callback;
pub mod missing_import;
pub mod returns_nothing;
pub mod undeclared_name;
pub mod unfit_return;
pub mod unfit_signature;
pub mod unknown_property;
pub mod unused_markup;
