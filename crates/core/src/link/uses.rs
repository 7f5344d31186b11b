//! Uses of points in templates and modules, their arguments, and what modules import.

use camino::{Utf8Path, Utf8PathBuf};

use super::reference::{Meant, Wanted};
use super::*;
use crate::names;
use crate::read::FileKind;
use crate::scan::{BUILT_IN, Named, Prefix, Verb};

/// What the placement of a menu spot can say.
pub const MENU_ARGUMENTS: [&str; 3] = ["class", "bare", "with"];

impl Registry {
    /// Resolves every `place`, `through` and `filled`.
    pub(super) fn link_uses(&mut self) {
        let all = self.facts.clone();
        for (at, facts) in all.iter().enumerate() {
            let file = FileId(at as u32);
            for (index, found) in facts.shape.uses().iter().enumerate() {
                let id = UseId { file, index: index as u32 };
                let from = Place { file, at: found.point.at };
                let moment =
                    || found.point.address.and_then(|address| self.point(address)).is_some_and(|point| point.moment);
                let outcome = match found.verb {
                    Verb::Place if moment() => Outcome::Missing { wanted: Wanted::Point(found.point.raw), meant: None },
                    Verb::Place => self.find_point(found.point, Kind::is_placed),
                    Verb::With => self.find_point(found.point, |kind| kind == Kind::Partial),
                    Verb::Through => self.find_point(found.point, |kind| kind == Kind::Filter),
                    Verb::Filled => self.find_point(found.point, Kind::needs_placement),
                };
                let component = found.point.address.is_some_and(|address| address.kind.is_component());
                let link = match found.verb {
                    Verb::Through => Link::ThroughToFilter,
                    Verb::Place if component => Link::PlaceToComponent,
                    Verb::With => Link::PlaceToComponent,
                    _ => Link::PlaceToPoint,
                };
                self.refer(link, from, found.point.raw, outcome);
                let Outcome::Found(Target::Point(address)) = outcome else { continue };
                if found.verb != Verb::Filled {
                    self.points[&address].uses.push(id);
                    self.link_arguments(Link::ArgumentToInput, address, from, &found.args, found.open);
                }
            }
        }
        self.link_attached_partials();
    }

    /// A partial attached to a hook gets the hook's arguments as inputs.
    fn link_attached_partials(&mut self) {
        let mut lacking = Vec::new();
        for point in self.points.values() {
            for slot in &point.slots {
                let Runs::Partial(address, true) = slot.runs else { continue };
                for input in &self.points[&address].inputs {
                    let given = point.args.iter().any(|arg| arg.field.name == input.field.name);
                    if !given && input.field.default().is_none() {
                        lacking.push((address, input.field.name, slot.place, input.place));
                    }
                }
            }
        }
        self.missing_arguments.extend(lacking);
    }

    /// Resolves the named arguments of one use, and notes those that it lacks.
    pub(super) fn link_arguments(&mut self, link: Link, address: Address, from: Place, given: &[Named], open: bool) {
        let point = &self.points[&address];
        let known: Vec<(Name, bool, Place)> = match (address.kind, point.declared.last()) {
            (Kind::Menu, Some(declared)) => {
                MENU_ARGUMENTS.iter().map(|name| (Name::from(name), true, declared.place)).collect()
            }
            _ => point
                .passed()
                .iter()
                .map(|input| (input.field.name, input.field.default().is_some(), input.place))
                .collect(),
        };
        let asking = self.layer_of(from);
        let mut meant_names = Vec::new();
        for named in given {
            let place = Place { file: from.file, at: named.at };
            let outcome = if known.iter().any(|(name, _, _)| *name == named.name) {
                Outcome::Found(Target::Input(address, named.name))
            } else {
                let words = || known.iter().map(|(name, _, _)| name.as_str());
                let meant = names::nearest(&named.name, words()).map(|near| Meant {
                    written: near.into(),
                    target: Target::Input(address, near.into()),
                    certain: names::certain(&named.name, words()).is_some(),
                });
                meant_names.extend(meant.map(|meant| meant.written));
                Outcome::Missing { wanted: Wanted::Input(address, named.name), meant }
            };
            self.refer(link, place, named.name, outcome);
        }
        // An argument with a wrong name is reported under that name; then it is not missing, too.
        let wrong = given.iter().any(|named| known.iter().all(|(name, _, _)| *name != named.name));
        for (name, has_default, place) in known {
            let passed = given.iter().any(|named| named.name == name) || meant_names.contains(&name);
            // What a higher layer added, a lower one can't know of.
            let known_there = self.layer_of(place) <= asking;
            if !passed && !has_default && !open && !wrong && known_there {
                self.missing_arguments.push((address, name, from, place));
            }
        }
    }

    /// Resolves what modules import, and the files whose address they ask for.
    pub(super) fn link_modules(&mut self) {
        let all = self.facts.clone();
        for (at, facts) in all.iter().enumerate() {
            let file = FileId(at as u32);
            let Shape::Module(module) = &facts.shape else { continue };
            let layer = self.project.file(file).layer;
            for asset in &module.assets {
                self.link_asset(Place { file, at: asset.at }, asset.name, layer);
            }
            for import in &module.imports {
                let from = Place { file, at: import.from.at };
                if import.from.name == "truehook" {
                    for named in &import.names {
                        let outcome = built_in(file, *named);
                        self.refer(Link::ImportToModule, Place { file, at: named.at }, named.name, outcome);
                    }
                    continue;
                }
                let Some(target) = self.resolve_import(file, &import.from.name) else {
                    let outcome = self.missing_import(file, import.from.name);
                    self.refer(Link::ImportToModule, from, import.from.name, outcome);
                    continue;
                };
                self.refer(Link::ImportToModule, from, import.from.name, Outcome::Found(Target::File(target)));
                if import.all {
                    let exports = self.module(target).map(|module| module.exports.clone()).unwrap_or_default();
                    self.referred.extend(exports.iter().map(|export| Target::Export(target, export.name)));
                }
                for named in &import.names {
                    let outcome = self.find_import(target, named.name);
                    self.refer(Link::ImportToModule, Place { file, at: named.at }, named.name, outcome);
                }
            }
        }
    }

    /// An imported name may be anything that is exported, a function or not.
    fn find_import(&self, target: FileId, name: Name) -> Outcome {
        let known = self.module(target).is_some_and(|module| module.exports.iter().any(|export| export.name == name));
        if known { Outcome::Found(Target::Export(target, name)) } else { self.find_export(target, name).0 }
    }

    /// The module that a relative import means; it stays inside the layer's `code/`.
    pub fn resolve_import(&self, from: FileId, written: &str) -> Option<FileId> {
        let file = self.project.file(from);
        let path = join_import(file.name(), written)?;
        self.resolve(FileKind::Module, Prefix::None, path.as_str(), file.layer, true)
    }

    fn missing_import(&self, from: FileId, written: Name) -> Outcome {
        let file = self.project.file(from);
        let meant = join_import(file.name(), &written).and_then(|path| {
            let known: Vec<(FileId, &str)> = self
                .project
                .files_of(file.layer)
                .filter(|(id, file)| file.kind == FileKind::Module && *id != from)
                .map(|(id, file)| (id, file.name()))
                .collect();
            let near = names::nearest(path.as_str(), known.iter().map(|(_, name)| *name))?;
            let (id, _) = known.iter().find(|(_, name)| *name == near)?;
            let certain = names::certain(path.as_str(), known.iter().map(|(_, name)| *name)).is_some();
            let written = relative(file.name(), near);
            Some(Meant { written: written.as_str().into(), target: Target::File(*id), certain })
        });
        Outcome::Missing { wanted: Wanted::Module(file.layer, written), meant }
    }
}

fn built_in(file: FileId, named: Named) -> Outcome {
    if BUILT_IN.contains(&named.name.as_str()) {
        return Outcome::Found(Target::Given);
    }
    let meant = names::nearest(&named.name, BUILT_IN).map(|near| Meant {
        written: near.into(),
        target: Target::Given,
        certain: names::certain(&named.name, BUILT_IN).is_some(),
    });
    Outcome::Missing { wanted: Wanted::Export(file, named.name), meant }
}

/// The path below `code/` that a relative import in a module means; nothing where it leaves.
pub fn join_import(from: &str, written: &str) -> Option<Utf8PathBuf> {
    if !written.starts_with("./") && !written.starts_with("../") {
        return None;
    }
    let mut path = Utf8Path::new(from).parent()?.to_path_buf();
    for part in written.split('/') {
        match part {
            "." | "" => {}
            ".." => {
                if !path.pop() {
                    return None;
                }
            }
            part => path.push(part),
        }
    }
    Some(path)
}

/// How one module imports another.
pub fn relative(from: &str, to: &str) -> String {
    let depth = from.matches('/').count();
    let (from_folder, _) = from.rsplit_once('/').unwrap_or(("", from));
    match to.strip_prefix(from_folder).and_then(|rest| rest.strip_prefix('/').or(Some(rest).filter(|_| depth == 0))) {
        Some(rest) => format!("./{rest}"),
        None => format!("{}{to}", "../".repeat(depth)),
    }
}
