//! What scripts and style sheets ask of each other: global names, and addresses of files.

use rustc_hash::{FxHashMap, FxHashSet};

use super::ground::Ground;
use super::names::Names;
use super::paths::{path_from, relative_path};
use super::reference::{Link, Meaning, Meant, Outcome, Target, Wanted};
use super::refs::Refs;
use crate::address::{Address, Kind};
use crate::name::Name;
use crate::names::certain;
use crate::scan::{Named, Shape};
use crate::source::{FileId, Place};

/// Who gives which global name.
pub(super) struct Giving {
    /// The scripts that are declared, with their files.
    scripts: Vec<(Address, FileId)>,
    /// What declared scripts give: what they say, and what their files define.
    given: FxHashMap<Name, Vec<(Address, FileId)>>,
    /// What the scripts say that they give.
    pub said: Vec<(Name, Address)>,
    /// What is defined by files that no script declares.
    loose: FxHashMap<Name, FileId>,
    /// What scripts in the markup define.
    pub inline: FxHashSet<Name>,
}

impl Giving {
    pub fn learn(names: Names<'_>) -> Giving {
        let all = || names.declared.all().filter(|point| point.address.kind == Kind::Script);
        let scripts: Vec<(Address, FileId)> =
            all().filter_map(|point| Some((point.address, names.asset_file(point)?))).collect();
        let mut giving = Giving {
            given: FxHashMap::default(),
            said: Vec::new(),
            loose: FxHashMap::default(),
            inline: defined_inline(names.ground).collect(),
            scripts,
        };
        for (address, file) in &giving.scripts {
            let asset = names.declared.points[address].asset.iter();
            let said = asset.flat_map(|asset| &asset.gives).map(|(name, _)| *name);
            giving.said.extend(said.clone().map(|name| (name, *address)));
            let defined = names.ground.script(*file).into_iter().flat_map(|script| script.defines.iter().copied());
            for name in said.chain(defined) {
                let known = giving.given.entry(name).or_default();
                if known.last() != Some(&(*address, *file)) {
                    known.push((*address, *file));
                }
            }
        }
        let declared: FxHashSet<FileId> = giving.scripts.iter().map(|(_, file)| *file).collect();
        // Where a script's file is not found, one that is left over may be what was meant.
        if all().any(|point| point.asset.is_some() && names.asset_file(point).is_none()) {
            return giving;
        }
        let loose = names.ground.files().map(|(file, _)| file).filter(|file| !declared.contains(file));
        for file in loose.filter(|file| names.ground.project.file(*file).layer.index() > 0) {
            let script = names.ground.script(file).filter(|script| !script.module && !script.broken);
            giving.loose.extend(script.into_iter().flat_map(|script| &script.defines).map(|name| (*name, file)));
        }
        giving
    }

    /// The scripts that give a name.
    pub fn givers(&self, name: Name) -> Vec<Address> {
        self.given.get(&name).into_iter().flatten().map(|(address, _)| *address).collect()
    }

    /// The file that defines a name, where no script declares that file.
    pub fn undeclared(&self, name: Name) -> Option<FileId> {
        self.loose.get(&name).copied()
    }
}

/// Ties the global names that scripts use to the scripts that give them, and what scripts say that they give to
/// what their files define.
pub(super) fn link_globals(names: Names<'_>, refs: &mut Refs) {
    let giving = Giving::learn(names);
    let mut found: Vec<(Place, Name, Outcome)> = Vec::new();
    for (address, file) in &giving.scripts {
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
        if script.uses.is_empty() {
            continue;
        }
        let needs = names.all_needs(point);
        for used in &script.uses {
            let outcome = find_global(names, &giving, (*address, *file), &needs, used);
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
                    let meant = names.ground.near_media(&path, "").map(|near| {
                        let written = path_from(folder, &near.written);
                        let (target, certain) = (media_named(names, &near.written), near.certain);
                        Meant::from(Meaning { written: written.as_str().into(), target, certain })
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
    let meant = near
        .map(|near| Meant::from(Meaning { written: near.into(), target: Target::Global(file, near.into()), certain }));
    Outcome::Missing { wanted: Wanted::Global(file, given), meant }
}

/// The script that gives a global name; nothing where no script does, as it is the browser's.
fn find_global(
    names: Names<'_>,
    giving: &Giving,
    (script, file): (Address, FileId),
    needs: &[Address],
    used: &Named,
) -> Option<Outcome> {
    let missing = |written: Name, target: Target, certain: bool| {
        let meant = Some(Meant::from(Meaning { written, target, certain }));
        Some(Outcome::Missing { wanted: Wanted::Global(file, used.name), meant })
    };
    let given = giving.given.get(&used.name).into_iter().flatten();
    let givers = given.filter(|(other, of)| *other != script && *of != file).map(|(other, _)| *other);
    if let Some(needed) = givers.clone().find(|other| needs.contains(other)) {
        return Some(Outcome::Found(Target::Point(needed)));
    }
    if let Some(other) = givers.clone().next() {
        return missing(other.to_string().as_str().into(), Target::Point(other), false);
    }
    if giving.inline.contains(&used.name) {
        return None;
    }
    if let Some(loose) = giving.undeclared(used.name) {
        return missing(used.name, Target::Global(loose, used.name), false);
    }
    // A slip of the pen in a name of a script that is needed, and otherwise not used.
    let uses = &names.ground.script(file)?.uses;
    let (other, near) = needs.iter().filter(|needed| **needed != script).find_map(|needed| {
        let given: Vec<Name> = giving.said.iter().filter(|(_, giver)| giver == needed).map(|(name, _)| *name).collect();
        let near = certain(&used.name, given.iter().map(|name| name.as_str()))?;
        let unused = given.iter().all(|name| uses.iter().all(|used| used.name != *name));
        unused.then_some((*needed, near.into()))
    })?;
    missing(near, Target::Point(other), true)
}

fn media_named(names: Names<'_>, path: &str) -> Target {
    match names.ground.find_media_file(path, names.ground.project.top()) {
        Some((layer, path)) => names.ground.media_target(layer, &path),
        None => Target::Media(path.into()),
    }
}

/// The templates that have scripts in their markup.
pub(super) fn templates_with<'g>(ground: &'g Ground) -> impl Iterator<Item = FileId> + 'g {
    ground
        .files()
        .filter(|(file, _)| ground.template(*file).is_some_and(|one| !one.scripts.is_empty()))
        .map(|(file, _)| file)
}

/// The global names that scripts in the markup define.
fn defined_inline<'g>(ground: &'g Ground) -> impl Iterator<Item = Name> + 'g {
    let scripts = templates_with(ground).filter_map(|file| ground.template(file)).flat_map(|one| &one.scripts);
    scripts.filter(|inline| !inline.script.module).flat_map(|inline| inline.script.defines.iter().copied())
}
