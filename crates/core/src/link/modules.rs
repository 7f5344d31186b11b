//! Modules: what they import, and the files whose address they ask for.

use super::names::Names;
use super::paths::{join_import, relative};
use super::reference::{Link, Meaning, Meant, Outcome, Target, Wanted};
use super::refs::Refs;
use crate::name::Name;
use crate::names::{certain, nearest};
use crate::read::FileKind;
use crate::scan::{BUILT_IN, ModuleShape, Named, Shape};
use crate::source::{FileId, Place};

/// Resolves what modules import.
pub(super) fn import(names: Names<'_>) -> Refs {
    let mut refs = Refs::default();
    for (file, facts) in names.ground.files() {
        let Shape::Module(module) = &facts.shape else { continue };
        let layer = names.ground.project.file(file).layer;
        for asset in &module.assets {
            names.link_asset(&mut refs, Place { file, at: asset.at }, asset.name, layer);
        }
        for import in &module.imports {
            let from = Place { file, at: import.from.at };
            if import.from.name == "truehook" {
                for named in &import.names {
                    let outcome = built_in(module, file, *named);
                    refs.refer(names.ground, Link::ImportToModule, Place { file, at: named.at }, named.name, outcome);
                }
                continue;
            }
            let Some(target) = names.ground.resolve_import(file, &import.from.name) else {
                let outcome = missing_import(names, file, import.from.name);
                refs.refer(names.ground, Link::ImportToModule, from, import.from.name, outcome);
                continue;
            };
            refs.refer(
                names.ground,
                Link::ImportToModule,
                from,
                import.from.name,
                Outcome::Found(Target::File(target)),
            );
            if import.all {
                let exports = names.ground.module(target).map_or(&[][..], |module| &module.exports);
                refs.referred.extend(exports.iter().map(|export| Target::Export(target, export.name)));
            }
            for named in &import.names {
                let outcome = find_import(names, module, target, named.name);
                refs.refer(names.ground, Link::ImportToModule, Place { file, at: named.at }, named.name, outcome);
            }
        }
    }
    refs
}

/// An imported name may be anything that is exported, a function or not.
fn find_import(names: Names<'_>, importer: &ModuleShape, target: FileId, name: Name) -> Outcome {
    let exports = names.ground.module(target).map_or(&[][..], |module| &module.exports);
    if names.ground.export_at(target, name).is_some() {
        return Outcome::Found(Target::Export(target, name));
    }
    let words = || exports.iter().map(|export| export.name.as_str());
    or_used(importer, names.find_export(target, name).0, words, |name| Target::Export(target, name))
}

/// Where nothing has a name like the one that is imported: the one that the module uses and does not import.
fn or_used<'w, W: Iterator<Item = &'w str>>(
    importer: &ModuleShape,
    outcome: Outcome,
    words: impl Fn() -> W,
    target: impl Fn(Name) -> Target,
) -> Outcome {
    let Outcome::Missing { wanted, meant: None } = outcome else { return outcome };
    let mut used =
        importer.undeclared.iter().filter(|used| words().any(|word| used.name == word)).map(|used| used.name);
    let meant = used.next().filter(|first| used.all(|other| other == *first));
    let meant = meant.map(|written| Meant::from(Meaning { written, target: target(written), certain: false }));
    Outcome::Missing { wanted, meant }
}

fn missing_import(names: Names<'_>, from: FileId, written: Name) -> Outcome {
    let file = names.ground.project.file(from);
    let meant = join_import(file.name(), &written).and_then(|path| {
        let known: Vec<(FileId, &str)> = names
            .ground
            .project
            .files_of(file.layer)
            .filter(|(id, file)| file.kind == FileKind::Module && *id != from)
            .map(|(id, file)| (id, file.name()))
            .collect();
        let near = nearest(path.as_str(), known.iter().map(|(_, name)| *name))?;
        let (id, _) = known.iter().find(|(_, name)| *name == near)?;
        let certain = certain(path.as_str(), known.iter().map(|(_, name)| *name)).is_some();
        let written = relative(file.name(), near);
        Some(Meant::from(Meaning { written: written.as_str().into(), target: Target::File(*id), certain }))
    });
    Outcome::Missing { wanted: Wanted::Module(file.layer, written), meant }
}

fn built_in(importer: &ModuleShape, file: FileId, named: Named) -> Outcome {
    if BUILT_IN.contains(&named.name.as_str()) {
        return Outcome::Found(Target::Given);
    }
    let meant = nearest(&named.name, BUILT_IN).map(|near| {
        Meant::from(Meaning {
            written: near.into(),
            target: Target::Given,
            certain: certain(&named.name, BUILT_IN).is_some(),
        })
    });
    let missing = Outcome::Missing { wanted: Wanted::Export(file, named.name), meant };
    or_used(importer, missing, || BUILT_IN.into_iter(), |_| Target::Given)
}
