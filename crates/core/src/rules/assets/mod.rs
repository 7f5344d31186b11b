//! Styles, scripts and what they load.

pub mod asset_cycle;
pub mod broken_address;
pub mod early_use;
pub mod host_copy;
pub mod idle_file;
pub mod raw_asset;
pub mod unknown_asset;
pub mod unstated_need;
