//! Declarations: what the host needs to find.

pub mod changed_contract;
pub mod option_default;
pub mod required_point;
pub mod retired_point;
