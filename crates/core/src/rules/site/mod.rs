//! The site: does what it brings have a place to go?

pub mod fill_target;
pub mod page_template;
