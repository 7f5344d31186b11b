//! Files and assets by the names that other files write.

use super::ground::Ground;
use super::lookups::SetOf;
use super::names::Names;
use super::paths::{file_name, format_media};
use super::reference::{Link, Meaning, Meant, Outcome, Target, Wanted};
use super::refs::Refs;
use crate::address::Kind;
use crate::name::Name;
use crate::name_sets::Nearest;
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
    pub fn link_file(&self, refs: &mut Refs, from: Place, written: Name, layer: LayerId, folder: &'static str) {
        let outcome = match self.ground.find_media_file(&format_media(&written, folder), layer) {
            Some((layer, path)) => Outcome::Found(self.ground.media_target(layer, &path)),
            None => {
                let meant = self.ground.near_media(&written, folder).map(|near| {
                    let (certain, near) = (near.certain, near.written.as_str());
                    let found = self.ground.find_media_file(&format_media(near, folder), self.ground.project.top());
                    let target = found.map(|(layer, path)| self.ground.media_target(layer, &path));
                    Meant::from(Meaning {
                        written: near.into(),
                        target: target.unwrap_or(Target::Media(near.into())),
                        certain,
                    })
                });
                Outcome::Missing { wanted: Wanted::File(layer, written), meant }
            }
        };
        refs.refer(self.ground, Link::AssetToFile, from, written, outcome);
    }
}

impl Ground {
    /// The file below a folder, seen from there, whose path is nearest to one that leads nowhere; a file of
    /// that name may also lie elsewhere.
    pub(crate) fn near_media(&self, written: &str, folder: &'static str) -> Option<Nearest> {
        self.near_path(written, folder).or_else(|| {
            let only = self.looked.lone_media(&self.project, file_name(written))?.strip_prefix(folder)?;
            Some(Nearest { written: only.to_string(), distance: only.len(), certain: false })
        })
    }

    fn near_path(&self, written: &str, folder: &'static str) -> Option<Nearest> {
        let all = || self.project.layers.iter().flat_map(|layer| &layer.media);
        let known = || all().filter_map(|path| path.as_str().strip_prefix(folder));
        self.looked.sets.of(SetOf::MediaBelow(folder), known).nearest(written)
    }

    /// The file of the theme whose path is nearest to one that leads nowhere, and whether it is certain.
    pub(crate) fn near_file(&self, path: &str) -> Option<(String, bool)> {
        self.near_path(path, "").map(|near| (near.written, near.certain))
    }
}
