//! What scripts and style sheets ask of each other: global names, and addresses of files.

use super::files::{alone, file_name};
use super::names::Names;
use super::paths::{path_from, relative_path};
use super::reference::{Link, Meant, Outcome, Target, Wanted};
use super::refs::Refs;
use crate::address::{Address, Kind};
use crate::name::Name;
use crate::scan::{Named, Shape};
use crate::source::{FileId, Place};

/// Ties the global names that scripts use to the scripts that give them, and what scripts say that they give to
/// what their files define.
pub(super) fn link_globals(names: Names<'_>, refs: &mut Refs) {
    let scripts: Vec<(Address, FileId)> = names
        .declared
        .all()
        .filter(|point| point.address.kind == Kind::Script)
        .filter_map(|point| Some((point.address, names.asset_file(point)?)))
        .collect();
    let mut found: Vec<(Place, Name, Outcome)> = Vec::new();
    for (address, file) in &scripts {
        let Some(script) = names.ground.script(*file).filter(|script| !script.broken) else { continue };
        let point = &names.declared.points[address];
        for (given, place) in point.asset.iter().flat_map(|asset| &asset.gives) {
            let outcome = match script.defines.contains(given) {
                true => Outcome::Found(Target::Global(*file, *given)),
                false if script.dynamic => Outcome::Unknown,
                false => undefined(names, *file, *given),
            };
            // A layer that gives the asset another file has to keep what is said of it.
            let of_file = point.asset.as_ref().and_then(|asset| asset.file).map(|(_, place)| place);
            let layer = |place: Place| names.ground.layer_of(place);
            let over =
                of_file.filter(|file| layer(*file) > layer(*place) && matches!(outcome, Outcome::Missing { .. }));
            found.push((over.unwrap_or(*place), *given, outcome));
        }
        // Where a need leads nowhere, nobody can say what it would give.
        if point.needs.iter().any(|(needed, _)| needed.address.is_none_or(|address| !names.declared.has(address))) {
            continue;
        }
        let needs = names.all_needs(point);
        for used in &script.uses {
            let outcome = find_global(names, *address, *file, &needs, used, &scripts);
            found.extend(outcome.map(|outcome| (Place { file: *file, at: used.at }, used.name, outcome)));
        }
    }
    for (from, written, outcome) in found {
        refs.refer(names.ground, Link::GlobalToScript, from, written, outcome);
    }
}

/// Ties the addresses in style sheets to the files of the theme.
pub(super) fn link_addresses(names: Names<'_>, refs: &mut Refs) {
    for (file, facts) in names.ground.files() {
        let Shape::Style(style) = &facts.shape else { continue };
        for address in &style.addresses {
            let source = names.ground.project.file(file);
            let Some(path) = relative_path(source.path.as_str(), &address.name) else { continue };
            let layer = source.layer;
            let folder = source.path.parent().map_or("", |folder| folder.as_str());
            let outcome = match names.ground.find_media_file(&path, layer) {
                Some((layer, path)) => Outcome::Found(names.ground.media_target(layer, &path)),
                None => {
                    let known =
                        || names.ground.project.layers.iter().flat_map(|layer| &layer.media).map(|path| path.as_str());
                    let certain = crate::names::certain(&path, known()).is_some();
                    let near = crate::names::nearest(&path, known());
                    let near = near.or_else(|| alone(known().filter(|known| file_name(known) == file_name(&path))));
                    let meant = near.map(|near| {
                        let written = path_from(folder, near);
                        Meant { written: written.as_str().into(), target: media_named(names, near), certain }
                    });
                    Outcome::Missing { wanted: Wanted::Address(file, address.name), meant }
                }
            };
            refs.refer(names.ground, Link::AddressToFile, Place { file, at: address.at }, address.name, outcome);
        }
    }
}

/// What a script says that it gives, and its file does not define.
fn undefined(names: Names<'_>, file: FileId, given: Name) -> Outcome {
    let defines = || names.ground.script(file).into_iter().flat_map(|script| &script.defines).map(|name| name.as_str());
    let near = crate::names::nearest(&given, defines()).or_else(|| {
        let mut all = defines();
        all.next().filter(|_| all.next().is_none())
    });
    let certain = crate::names::certain(&given, defines()).is_some();
    let meant = near.map(|near| Meant { written: near.into(), target: Target::Global(file, near.into()), certain });
    Outcome::Missing { wanted: Wanted::Global(file, given), meant }
}

/// The script that gives a global name; nothing where no script does, as it is the browser's.
fn find_global(
    names: Names<'_>,
    script: Address,
    file: FileId,
    needs: &[Address],
    used: &Named,
    scripts: &[(Address, FileId)],
) -> Option<Outcome> {
    let gives = |other: &Address, file: FileId, name: &str| {
        let asset = names.declared.points[other].asset.as_ref();
        let said = asset.is_some_and(|asset| asset.gives.iter().any(|(given, _)| *given == *name));
        said || names.ground.script(file).is_some_and(|script| script.defines.iter().any(|known| *known == *name))
    };
    let others = || scripts.iter().filter(|(other, of)| *other != script && *of != file);
    let givers: Vec<&(Address, FileId)> = others().filter(|(other, of)| gives(other, *of, &used.name)).collect();
    if let Some((needed, _)) = givers.iter().find(|(other, _)| needs.contains(other)) {
        return Some(Outcome::Found(Target::Point(*needed)));
    }
    if let Some((other, _)) = givers.first() {
        let written = other.to_string().as_str().into();
        let meant = Some(Meant { written, target: Target::Point(*other), certain: false });
        return Some(Outcome::Missing { wanted: Wanted::Global(file, used.name), meant });
    }
    // A slip of the pen in a name of a script that is needed, and otherwise not used.
    let uses = names.ground.script(file)?.uses.iter().map(|used| used.name).collect::<Vec<_>>();
    let idle = others().filter(|(other, _)| needs.contains(other)).find_map(|(other, _)| {
        let given = names.declared.points[other].asset.iter().flat_map(|asset| &asset.gives).map(|(name, _)| *name);
        let given: Vec<Name> = given.collect();
        let near = crate::names::certain(&used.name, given.iter().map(|name| name.as_str()))?;
        let unused = given.iter().all(|name| !uses.contains(name));
        unused.then_some((*other, near))
    });
    let (other, near) = idle?;
    let meant = Some(Meant { written: near.into(), target: Target::Point(other), certain: true });
    Some(Outcome::Missing { wanted: Wanted::Global(file, used.name), meant })
}

fn media_named(names: Names<'_>, path: &str) -> Target {
    match names.ground.find_media_file(path, names.ground.project.top()) {
        Some((layer, path)) => names.ground.media_target(layer, &path),
        None => Target::Media(path.into()),
    }
}
