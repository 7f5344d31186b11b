//! What components and assets need, directly and through others.

use rustc_hash::FxHashSet;

use super::names::Names;
use super::paths::format_media;
use super::point::Said;
use crate::address::Address;
use crate::scan::PointRef;
use crate::source::{FileId, Place};

impl Names<'_> {
    /// The file of an asset.
    pub fn asset_file(&self, point: &Said) -> Option<FileId> {
        let (written, place) = point.asset.as_ref()?.file?;
        let (layer, path) =
            self.ground.find_media_file(&format_media(&written, "media/"), self.ground.layer_of(place))?;
        self.ground.project.find(layer, path.as_str())
    }

    /// What an asset needs directly.
    pub fn needs_of(&self, point: &Said) -> Vec<Address> {
        let there = |(needed, _): &(PointRef, Place)| needed.address.filter(|address| self.declared.has(*address));
        point.needs.iter().filter_map(there).filter(|address| address.kind.is_asset()).collect()
    }

    /// All that an asset or component needs, directly or through others, without itself.
    pub fn all_needs(&self, point: &Said) -> Vec<Address> {
        let mut seen = FxHashSet::default();
        let mut found = self.needs_of(point);
        found.retain(|address| seen.insert(*address));
        let mut at = 0;
        while let Some(needed) = found.get(at).copied() {
            let further = self.needs_of(&self.declared.points[&needed]);
            found.extend(further.into_iter().filter(|next| *next != point.address && seen.insert(*next)));
            at += 1;
        }
        found
    }
}
