//! Declarations: what the host needs to find, and what the theme switches on.

pub mod changed_contract;
pub mod done_twice;
pub mod feature_arguments;
pub mod feature_needed;
pub mod feature_unshown;
pub mod idle_option;
pub mod option_default;
pub mod required_point;
pub mod retired_point;
pub mod unknown_feature;
