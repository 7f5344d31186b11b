//! What layers ask of each other.

use super::names::Names;
use super::reference::{Link, Outcome, Target};
use super::refs::Refs;
use crate::source::{LayerId, Place};

/// Ties layers to those that they build on, and to their pictures.
pub(super) fn link_layers(names: Names<'_>) -> Refs {
    let (ground, mut refs) = (names.ground, Refs::default());
    for link in &ground.project.links {
        let from = Place { file: ground.project.layer(link.layer).manifest, at: link.at };
        let written = ground.project.layer(link.found).name;
        refs.refer(ground, Link::LayerToLayer, from, written, Outcome::Found(Target::Layer(link.found)));
    }
    for (at, layer) in ground.project.layers.iter().enumerate() {
        let identity = ground.manifest(layer.manifest).and_then(|manifest| manifest.identity.as_ref());
        if let Some(picture) = identity.and_then(|identity| identity.picture) {
            let from = Place { file: layer.manifest, at: picture.at };
            names.link_asset(&mut refs, from, picture.name, LayerId(at as u16));
        }
    }
    refs
}
