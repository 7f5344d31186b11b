//! What a manifest asks of other folders.

use semver::VersionReq;

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
    pub versions: Option<VersionReq>,
}
