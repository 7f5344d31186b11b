//! How addresses and callbacks are spelt, as schemas.

use serde_json::{Value, json};

use crate::address::Kind;

/// How an address is spelt.
pub fn address() -> Value {
    json!({ "type": "string", "pattern": address_pattern(&Kind::ALL) })
}

/// The pattern of the addresses of some kinds.
pub fn address_pattern(kinds: &[Kind]) -> String {
    let words: Vec<&str> = kinds.iter().map(|kind| kind.word()).collect();
    format!("^({}):[a-z][a-z0-9_.-]*(/[a-z][a-z0-9-]*)?$", words.join("|"))
}

/// How a callback is named.
pub fn callback() -> Value {
    json!({ "type": "string", "pattern": "^([^#:]+:)?[^#:]+#[^#]+$" })
}
