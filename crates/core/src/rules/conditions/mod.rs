//! Conditions: can they be evaluated?

pub mod condition_constant;
pub mod condition_name;
pub mod condition_syntax;
