//! What a manifest asks of other folders.

use std::fmt;

use semver::{Version, VersionReq};

use super::At;
use crate::name::Name;

/// `base`, a companion or `host`, as the manifest asks for it.
#[derive(Clone, Debug, PartialEq)]
pub struct LayerRequest {
    /// A path relative to the layer's folder, or the name of a built-in contract.
    pub target: Name,
    /// Where it stands.
    pub at: At,
    /// The wanted versions.
    pub versions: Option<Versions>,
}

/// The versions that are wanted: those of any of several ranges.
#[derive(Clone, Debug, PartialEq)]
pub struct Versions(pub Vec<VersionReq>);

impl Versions {
    /// Is this one of them?
    pub fn matches(&self, version: &Version) -> bool {
        self.0.iter().any(|range| range.matches(version))
    }
}

impl fmt::Display for Versions {
    fn fmt(&self, out: &mut fmt::Formatter<'_>) -> fmt::Result {
        let ranges: Vec<String> = self.0.iter().map(ToString::to_string).collect();
        out.write_str(&ranges.join(" or "))
    }
}
