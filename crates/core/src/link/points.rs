//! Finds what references mean: points, callbacks and exports, by what was written.

use super::reference::{Meant, Wanted};
use super::*;
use crate::names;
use crate::read::FileKind;
use crate::scan::{PointRef, Prefix};

impl Registry {
    pub(super) fn link_layers(&mut self) {
        for link in self.project.links.clone() {
            let from = Place { file: self.project.layer(link.layer).manifest, at: link.at };
            let written = self.project.layer(link.found).name;
            self.refer(Link::LayerToLayer, from, written, Outcome::Found(Target::Layer(link.found)));
        }
        let pictures: Vec<_> = (0..self.project.layers.len())
            .filter_map(|at| {
                let manifest = self.project.layers[at].manifest;
                let picture = self.manifest(manifest)?.identity.as_ref()?.picture?;
                Some((Place { file: manifest, at: picture.at }, picture.name, LayerId(at as u16)))
            })
            .collect();
        for (from, picture, layer) in pictures {
            self.link_asset(from, picture, layer);
        }
    }

    /// The point that a reference means, among the kinds that fit there.
    pub(super) fn find_point(&self, point: PointRef, fits: impl Fn(Kind) -> bool) -> Outcome {
        if let Some(address) = point.address
            && fits(address.kind)
            && self.points.contains_key(&address)
        {
            return Outcome::Found(Target::Point(address));
        }
        if self.blind.declarations {
            return Outcome::Unknown;
        }
        let meant = self.meant_point(point, fits);
        Outcome::Missing { wanted: Wanted::Point(point.raw), meant }
    }

    fn meant_point(&self, point: PointRef, fits: impl Fn(Kind) -> bool) -> Option<Meant> {
        let fitting = || self.points.keys().filter(|address| fits(address.kind) && address.inner().is_none());
        // The same name of another kind is nearer than another name of the same kind.
        let (_, name) = point.raw.split_once(':').unwrap_or(("", &point.raw));
        let same_name = fitting().find(|address| address.name == name);
        let same_kind = || fitting().filter(|address| point.address.is_none_or(|written| written.kind == address.kind));
        let (near, certain) = match same_name {
            Some(address) => (*address, false),
            None => {
                let near = names::nearest(name, same_kind().map(|address| address.name.as_str()))?;
                let certain = names::certain(name, same_kind().map(|address| address.name.as_str())).is_some();
                (*same_kind().find(|address| address.name == near)?, certain && point.address.is_some())
            }
        };
        Some(Meant { written: near.to_string().as_str().into(), target: Target::Point(near), certain })
    }

    /// The callback that a reference means.
    pub(super) fn find_callback(&self, call: &CallRef, layer: LayerId) -> (Outcome, Option<Callback>) {
        let Some(file) = self.resolve(FileKind::Module, call.prefix, &call.file, layer, true) else {
            return (self.missing_module(call, layer), None);
        };
        let (outcome, found) = self.find_export(file, call.export);
        let found = found.map(|export| Callback { file, export });
        match outcome {
            Outcome::Missing { wanted, meant } => {
                let meant = meant.map(|meant| {
                    let (whole, _) = call.raw.split_once('#').unwrap_or((&call.raw, ""));
                    Meant { written: format!("{whole}#{}", meant.written).as_str().into(), ..meant }
                });
                (Outcome::Missing { wanted, meant }, None)
            }
            outcome => (outcome, found),
        }
    }

    /// The callback of that name, seen from a layer.
    pub fn callback_named(&self, name: &str, layer: LayerId) -> Option<Callback> {
        self.find_callback(&CallRef::parse(name, At::default())?, layer).1
    }

    fn missing_module(&self, call: &CallRef, layer: LayerId) -> Outcome {
        if let Prefix::Layer(name) = call.prefix
            && self.project.layer_named(&name).is_none()
            && self.blind.declarations
        {
            return Outcome::Unknown;
        }
        let own = self.project.files_of(layer).filter(|(_, file)| file.kind == FileKind::Module);
        let known: Vec<(FileId, &str)> = own.map(|(id, file)| (id, file.name())).collect();
        let near = names::nearest(&call.file, known.iter().map(|(_, name)| *name));
        let meant = near.filter(|_| call.prefix == Prefix::None).and_then(|near| {
            let (file, _) = known.iter().find(|(_, name)| *name == near)?;
            let written = format!("{near}#{}", call.export).as_str().into();
            let certain = names::certain(&call.file, known.iter().map(|(_, name)| *name)).is_some();
            self.find_export(*file, call.export).1?;
            Some(Meant { written, target: Target::Export(*file, call.export), certain })
        });
        Outcome::Missing { wanted: Wanted::Module(layer, call.file), meant }
    }

    /// An export of a module, its own or one that it passes on.
    pub(super) fn find_export(&self, file: FileId, name: Name) -> (Outcome, Option<Name>) {
        let Some(module) = self.module(file).filter(|module| !module.broken) else { return (Outcome::Unknown, None) };
        if module.exports.iter().any(|export| export.name == name && !export.no_function) {
            return (Outcome::Found(Target::Export(file, name)), Some(name));
        }
        for passed in module.imports.iter().filter(|import| import.passes_on) {
            if let Some(other) = self.resolve_import(file, &passed.from.name)
                && let (Outcome::Found(_), found) = self.find_export(other, name)
            {
                return (Outcome::Found(Target::Export(other, name)), found);
            }
        }
        let known: Vec<&str> =
            module.exports.iter().filter(|export| !export.no_function).map(|export| export.name.as_str()).collect();
        let meant = names::nearest(&name, known.iter().copied()).map(|near| Meant {
            written: near.into(),
            target: Target::Export(file, near.into()),
            certain: names::certain(&name, known.iter().copied()).is_some(),
        });
        (Outcome::Missing { wanted: Wanted::Export(file, name), meant }, None)
    }
}
