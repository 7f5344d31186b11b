//! The site: does what it brings have a place to go?

pub mod cut_entries;
pub mod doubled_path;
pub mod fill_kind;
pub mod fill_target;
pub mod fixed_navigation;
pub mod menu_unfilled;
pub mod missing_page;
pub mod page_template;
pub mod script_in_text;
pub mod unshown_entries;
