//! Files and assets by the names that other files write.

use super::names::Names;
use super::paths::format_media;
use super::reference::{Link, Meant, Outcome, Target, Wanted};
use super::refs::Refs;
use crate::address::Kind;
use crate::name::Name;
use crate::names;
use crate::scan::PointRef;
use crate::source::{LayerId, Place};

impl Names<'_> {
    /// Resolves a file, or an asset, whose address is asked for.
    pub fn link_asset(&self, refs: &mut Refs, from: Place, written: Name, layer: LayerId) {
        let point = PointRef::new(&written, from.at);
        if point.address.is_some() {
            let outcome = self.find_point(point, |kind| matches!(kind, Kind::Style | Kind::Script));
            return refs.refer(self.ground, Link::NeedToAsset, from, written, outcome);
        }
        self.link_file(refs, from, written, layer, "");
    }

    /// Resolves a file that is named relative to a folder of a layer.
    pub fn link_file(&self, refs: &mut Refs, from: Place, written: Name, layer: LayerId, folder: &str) {
        let outcome = match self.ground.find_media_file(&format_media(&written, folder), layer) {
            Some((layer, path)) => Outcome::Found(self.ground.media_target(layer, &path)),
            None => {
                let known = || {
                    let all = self.ground.project.layers.iter().flat_map(|layer| &layer.media);
                    all.filter_map(|path| path.as_str().strip_prefix(folder))
                };
                let certain = names::certain(&written, known()).is_some();
                let near = names::nearest(&written, known());
                // A file of that name may lie elsewhere.
                let near = near.or_else(|| alone(known().filter(|path| file_name(path) == file_name(&written))));
                let meant = near.map(|near| {
                    let found = self.ground.find_media_file(&format_media(near, folder), self.ground.project.top());
                    let target = found.map(|(layer, path)| self.ground.media_target(layer, &path));
                    Meant { written: near.into(), target: target.unwrap_or(Target::Media(near.into())), certain }
                });
                Outcome::Missing { wanted: Wanted::File(layer, written), meant }
            }
        };
        refs.refer(self.ground, Link::AssetToFile, from, written, outcome);
    }
}

/// The file's own name, at the end of its path.
pub(super) fn file_name(path: &str) -> &str {
    path.rsplit(['/', ':']).next().unwrap_or(path)
}

/// The only one, where there is one.
pub(super) fn alone<T>(mut all: impl Iterator<Item = T>) -> Option<T> {
    all.next().filter(|_| all.next().is_none())
}
