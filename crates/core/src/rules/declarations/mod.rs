//! Declarations: what the host needs to find.

pub mod required_point;
