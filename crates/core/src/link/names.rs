//! Names: what a written name means here, and what it may have meant.

use rustc_hash::FxHashSet;

use super::declare::Declared;
use super::ground::Ground;
use super::lookups::SetOf;
use super::point::Callback;
use super::reference::{Meaning, Meant, Outcome, Target, Wanted};
use crate::address::{Address, Kind};
use crate::name::Name;
use crate::name_sets::Nearest;
use crate::names;
use crate::read::FileKind;
use crate::scan::{CallRef, PointRef, Prefix};
use crate::source::{At, FileId, LayerId};

/// All that names can mean: what there is on the ground, and what is declared.
#[derive(Clone, Copy)]
pub(super) struct Names<'n> {
    pub ground: &'n Ground,
    pub declared: &'n Declared,
}

impl Names<'_> {
    /// The point that a reference means, among the kinds that fit there.
    pub(super) fn find_point(&self, point: PointRef, fits: impl Fn(Kind) -> bool) -> Outcome {
        if let Some(address) = point.address
            && fits(address.kind)
            && self.declared.has(address)
        {
            return Outcome::Found(Target::Point(address));
        }
        if self.ground.blind.declarations {
            return Outcome::Unknown;
        }
        let meant = self.meant_point(point, fits);
        Outcome::Missing { wanted: Wanted::Point(point.raw), meant }
    }

    fn meant_point(&self, point: PointRef, fits: impl Fn(Kind) -> bool) -> Option<Meant> {
        // The same name of another kind is nearer than another name of the same kind.
        let (_, name) = point.raw.split_once(':').unwrap_or(("", &point.raw));
        let kinds = || Kind::ALL.into_iter().filter(|kind| fits(*kind));
        let same_name = kinds().map(|kind| Address::new(kind, name));
        let same_name = same_name.filter(|address| self.may_be_meant(*address));
        // A word from elsewhere is no slip of the pen.
        let habit = kinds().flat_map(|kind| super::habits::point(name).map(move |here| Address::new(kind, here)));
        let same_name = same_name.chain(habit.filter(|address| {
            self.may_be_meant(*address) && point.address.is_none_or(|written| written.kind == address.kind)
        }));
        let (near, certain) = match same_name.min_by_key(|address| self.declared.points.get_index_of(address)) {
            Some(address) => (address, false),
            None => {
                let kinds = kinds().filter(|kind| point.address.is_none_or(|written| written.kind == *kind));
                let near = kinds.filter_map(|kind| Some((self.near_point(kind, name)?, kind)));
                let (near, kind) = near.min_by(|(one, _), (other, _)| {
                    (one.distance, &one.written).cmp(&(other.distance, &other.written))
                })?;
                (Address::new(kind, near.written.as_str()), near.certain && point.address.is_some())
            }
        };
        Some(Meant::from(Meaning { written: near.to_string().as_str().into(), target: Target::Point(near), certain }))
    }

    /// What is retired is no longer to be used, and inner pieces are nobody else's.
    fn may_be_meant(&self, address: Address) -> bool {
        address.inner().is_none() && self.declared.points.get(&address).is_some_and(|point| point.retired.is_none())
    }

    /// The point of a kind whose name is nearest to a misspelt one.
    pub(super) fn near_point(&self, kind: Kind, name: &str) -> Option<Nearest> {
        let points = || self.declared.points.keys().filter(|address| address.kind == kind);
        let set = self.ground.looked.sets.of(SetOf::Points(kind), || {
            points().filter(|address| self.may_be_meant(**address)).map(|address| address.name.as_str())
        });
        set.nearest(name)
    }

    /// The callback that a reference means.
    pub(super) fn find_callback(&self, call: &CallRef, layer: LayerId) -> (Outcome, Option<Callback>) {
        let Some(file) = self.ground.resolve(FileKind::Module, call.prefix, &call.file, layer, true) else {
            return (self.missing_module(call, layer), None);
        };
        let (outcome, found) = self.find_export(file, call.export);
        let found = found.map(|export| Callback { file, export });
        match outcome {
            Outcome::Missing { wanted, meant } => {
                let meant = meant.map(|meant| {
                    let (whole, _) = call.raw.split_once('#').unwrap_or((&call.raw, ""));
                    Meant::from(Meaning { written: format!("{whole}#{}", meant.written).as_str().into(), ..*meant })
                });
                (Outcome::Missing { wanted, meant }, None)
            }
            outcome => (outcome, found),
        }
    }

    /// The callback of that name, seen from a layer.
    pub fn callback_named(&self, name: &str, layer: LayerId) -> Option<Callback> {
        let call = CallRef::parse(name, At::default())?;
        let file = self.ground.resolve(FileKind::Module, call.prefix, &call.file, layer, true)?;
        self.exporter(file, call.export).map(|_| Callback { file, export: call.export })
    }

    /// The module that a callback's name leads to, whatever it exports.
    pub fn module_of(&self, call: &CallRef, layer: LayerId) -> Option<FileId> {
        self.ground.resolve(FileKind::Module, call.prefix, &call.file, layer, true)
    }

    fn missing_module(&self, call: &CallRef, layer: LayerId) -> Outcome {
        if let Prefix::Layer(name) = call.prefix
            && self.ground.project.layer_named(&name).is_none()
            && self.ground.blind.declarations
        {
            return Outcome::Unknown;
        }
        let own = || self.ground.project.files_of(layer).filter(|(_, file)| file.kind == FileKind::Module);
        let known = self.ground.looked.sets.of(SetOf::Modules(layer), || own().map(|(_, file)| file.name()));
        let near = known.nearest(&call.file).filter(|_| call.prefix == Prefix::None);
        let meant = near.and_then(|near| {
            let (file, _) = own().find(|(_, file)| file.name() == near.written)?;
            let written = format!("{}#{}", near.written, call.export).as_str().into();
            self.find_export(file, call.export).1?;
            Some(Meant::from(Meaning { written, target: Target::Export(file, call.export), certain: near.certain }))
        });
        Outcome::Missing { wanted: Wanted::Module(layer, call.file), meant }
    }

    /// An export of a module, its own or one that it passes on.
    pub(super) fn find_export(&self, file: FileId, name: Name) -> (Outcome, Option<Name>) {
        let Some(module) = self.ground.module(file).filter(|module| !module.broken) else {
            return (Outcome::Unknown, None);
        };
        if let Some(owner) = self.exporter(file, name) {
            return (Outcome::Found(Target::Export(owner, name)), Some(name));
        }
        let known = self.ground.looked.sets.of(SetOf::Exports(file), || {
            module.exports.iter().filter(|export| !export.no_function).map(|export| export.name.as_str())
        });
        let meant = known.nearest(&name).map(|near| {
            Meant::from(Meaning {
                written: near.written.as_str().into(),
                target: Target::Export(file, near.written.as_str().into()),
                certain: near.certain,
            })
        });
        (Outcome::Missing { wanted: Wanted::Export(file, name), meant }, None)
    }

    /// The module that has an export of that name: this one, or one whose exports it passes on.
    fn exporter(&self, file: FileId, name: Name) -> Option<FileId> {
        let mut seen = FxHashSet::default();
        let mut open = vec![file];
        while let Some(file) = open.pop() {
            let Some(module) = self.ground.module(file).filter(|module| !module.broken && seen.insert(file)) else {
                continue;
            };
            let there = self.ground.export_at(file, name).is_some_and(|at| !module.exports[at].no_function);
            if there {
                return Some(file);
            }
            let passed = module.imports.iter().filter(|import| import.passes_on).rev();
            open.extend(passed.filter_map(|passed| self.ground.resolve_import(file, &passed.from.name)));
        }
        None
    }

    pub(super) fn find_option(&self, name: Name) -> Outcome {
        let address = Address::new(Kind::Option, name);
        if self.declared.has(address) {
            return Outcome::Found(Target::Point(address));
        }
        if self.ground.blind.declarations {
            return Outcome::Unknown;
        }
        let meant = self.near_point(Kind::Option, &name).map(|near| {
            Meant::from(Meaning {
                written: near.written.as_str().into(),
                target: Target::Point(Address::new(Kind::Option, near.written.as_str())),
                certain: near.certain,
            })
        });
        Outcome::Missing { wanted: Wanted::Option(name), meant }
    }

    pub(super) fn find_type(&self, name: Name) -> Outcome {
        if self.declared.types.iter().any(|page_type| page_type.name == name) {
            return Outcome::Found(Target::PageType(name));
        }
        if self.ground.blind.declarations {
            return Outcome::Unknown;
        }
        let known = || self.declared.types.iter().map(|page_type| page_type.name.as_str());
        let meant = names::nearest(&name, known()).map(|near| {
            Meant::from(Meaning {
                written: near.into(),
                target: Target::PageType(near.into()),
                certain: names::certain(&name, known()).is_some(),
            })
        });
        Outcome::Missing { wanted: Wanted::PageType(name), meant }
    }

    pub(super) fn find_body(&self, page: FileId, name: Name) -> Outcome {
        if let Some(file) = self.ground.body_file(page, &name) {
            return Outcome::Found(Target::File(file));
        }
        let layer = self.ground.project.file(page).layer;
        let bodies: Vec<(FileId, &str)> = self
            .ground
            .project
            .files_of(layer)
            .filter(|(_, file)| file.kind == FileKind::Body)
            .map(|(id, file)| (id, file.name()))
            .collect();
        let near = names::nearest(&name, bodies.iter().map(|(_, name)| *name));
        let meant = near.and_then(|near| bodies.iter().find(|(_, name)| *name == near)).map(|(file, near)| {
            Meant::from(Meaning {
                written: (*near).into(),
                target: Target::File(*file),
                certain: names::certain(&name, bodies.iter().map(|(_, name)| *name)).is_some(),
            })
        });
        Outcome::Missing { wanted: Wanted::File(layer, name), meant }
    }

    /// The component that an item uses, seen from what holds it: a section's own pieces come before
    /// shared ones.
    pub fn item_component(&self, written: &str, holder: Option<Address>) -> Option<Address> {
        let own = holder.filter(|holder| holder.kind == Kind::Section);
        if let (Some(own), Some(name)) = (own, written.strip_prefix("piece:")) {
            let inner = Address::new(Kind::Piece, format!("{}/{name}", own.name).as_str());
            if self.declared.has(inner) {
                return Some(inner);
            }
        }
        let (word, name) = written.split_once(':')?;
        let address = Address::new(Kind::from_word(word).filter(|kind| kind.is_component())?, name);
        self.declared.has(address).then_some(address)
    }

    /// May a component be an item of that holder? Regions and areas hold whatever is no inner piece.
    pub fn may_hold(&self, holder: Address, held: Address) -> bool {
        if let Some((own, _)) = held.inner() {
            return own == holder;
        }
        if holder.kind.holds_items() {
            return true;
        }
        let fits = |pattern: &PointRef| match pattern.raw.as_str().split_once(':') {
            Some((word, "*")) => word == held.kind.word(),
            _ => pattern.address == Some(held),
        };
        self.declared.point(holder).is_some_and(|point| point.holds.iter().any(|(pattern, _)| fits(pattern)))
    }

    /// Is this the template of a type of page, in any layer?
    pub fn is_page_template(&self, file: FileId) -> bool {
        self.declared.types.iter().any(|page_type| page_type.templates.contains(&file))
            || self.ground.files_named(FileKind::Template, "page.html").contains(&file)
    }
}
