//! Declarations: what the host needs to find, and what the theme switches on.

pub mod changed_contract;
pub mod done_twice;
pub mod option_default;
pub mod required_point;
pub mod retired_point;
pub mod support_arguments;
pub mod support_needed;
pub mod support_unshown;
pub mod unknown_support;
