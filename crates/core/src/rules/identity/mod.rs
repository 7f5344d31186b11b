//! Identity: who the layers are.

pub mod bad_name;
pub mod base_cycle;
pub mod base_missing;
pub mod base_version;
pub mod folder_name;
pub mod host_missing;
pub mod host_version;
pub mod label_missing;
