//! Points of the host that the stage itself makes use of.

use crate::address::{Address, Kind};

/// The region whose first item is the page's body.
pub fn body_region() -> Address {
    Address::new(Kind::Region, "main")
}

/// The component that renders menus, where a placement names no other.
pub fn menu_partial() -> Address {
    Address::new(Kind::Partial, "menu")
}

/// The component that prints the page's body.
pub fn body_partial() -> Address {
    Address::new(Kind::Partial, "body")
}

/// The filters through which the host sends a key of the page, and the features that show that key by
/// themselves; any other way is that something reads it.
pub const KEPT_BY_FILTERS: [(&str, &str, &[&str]); 3] = [
    ("page-heading", "heading", &["page-titles", "share-cards"]),
    ("summary", "summary", &["share-cards"]),
    ("root-attributes", "root", &[]),
];
