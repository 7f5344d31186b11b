//! One theme of the workspace, as it is with what is open and not saved.

use std::collections::{BTreeMap, BTreeSet};

use camino::{Utf8Path, Utf8PathBuf};
use truehook_core::link::Registry;
use truehook_core::read::{Content, DiskFiles, FileKind, Files, Listed, OpenError, Project, SourceFile, Unreadable};
use truehook_core::rules::{self, Checked, Finding};
use truehook_core::scan::{Shape, scan_file};
use truehook_core::source::FileId;

use crate::laid::Laid;

/// A theme, linked and checked.
pub struct Theme {
    /// Its folder, by its one true path.
    pub folder: Utf8PathBuf,
    /// All that is known of it.
    pub registry: Registry,
    /// What is wrong with it.
    pub checked: Checked,
    /// Why the stack of before stays, where the lines that name layers can't be followed.
    pub held: Option<Held>,
}

/// Manifests whose lines for the layers don't parse, or lead nowhere: what was known before stays until they do.
pub struct Held {
    /// What is said of them, in a registry of nothing but manifests.
    pub registry: Registry,
    /// What is wrong with them.
    pub findings: Vec<Finding>,
    /// The files that have changed since.
    waiting: BTreeSet<Utf8PathBuf>,
}

impl Theme {
    /// Opens and checks a theme.
    ///
    /// # Errors
    /// Where its folder holds no manifest any more.
    pub fn open(files: &Laid, folder: Utf8PathBuf) -> Result<Theme, OpenError> {
        let registry = Registry::new(Project::open(files, &folder)?);
        let checked = rules::check(&registry);
        Ok(Theme { folder, registry, checked, held: None })
    }

    /// The same theme after some files have changed; after anything may have, where none are named.
    ///
    /// # Errors
    /// Where its folder holds no manifest any more.
    pub fn renewed(self, files: &Laid, changed: Option<&[Utf8PathBuf]>) -> Result<Theme, OpenError> {
        let Theme { folder, registry, held, .. } = self;
        let mut all: Option<BTreeSet<Utf8PathBuf>> = changed.map(|paths| paths.iter().cloned().collect());
        if let (Some(all), Some(held)) = (&mut all, &held) {
            all.extend(held.waiting.iter().cloned());
        }
        if let Some(unfollowed) = unfollowed(files, &registry, all.as_ref()) {
            let (registry_of_manifests, findings) = unfollowed;
            // What else has changed is seen as usual, over the manifests as they were.
            let is_layers = |path: &Utf8PathBuf| is_layers(&registry, path);
            let (waiting, others): (BTreeSet<_>, Option<Vec<_>>) = match all {
                Some(all) => {
                    let (waiting, others): (BTreeSet<_>, BTreeSet<_>) = all.into_iter().partition(is_layers);
                    (waiting, Some(others.into_iter().collect()))
                }
                None => (manifests_of(&registry), None),
            };
            let before = AsBefore::new(files, &registry, &waiting);
            let registry = followed(&before, &folder, registry, others)?;
            let checked = rules::check(&registry);
            let held = Held { registry: registry_of_manifests, findings, waiting };
            return Ok(Theme { folder, registry, checked, held: Some(held) });
        }
        let registry = followed(files, &folder, registry, all.map(|all| all.into_iter().collect()))?;
        let checked = rules::check(&registry);
        Ok(Theme { folder, registry, checked, held: None })
    }

    /// Has a change at a path to do with it?
    pub fn is_touched_by(&self, files: &Laid, path: &Utf8Path) -> bool {
        let project = self.registry.project();
        if project.is_touched_by(path) {
            return true;
        }
        let open = files.buffer(path).is_some();
        open && project
            .layers
            .iter()
            .filter(|layer| !layer.built_in)
            .any(|layer| path.strip_prefix(&layer.root).is_ok_and(|below| FileKind::of(below).is_some()))
    }

    /// The file at a path, in the highest layer of which it is part.
    pub fn file_at(&self, path: &Utf8Path) -> Option<FileId> {
        self.registry.project().files_at(path).pop()
    }

    /// Is this a file of the theme's own, and not of a layer below?
    pub fn is_own(&self, file: FileId) -> bool {
        self.registry.project().file(file).layer == self.registry.project().top()
    }
}

/// A registry after some files have changed; after anything may have, where none are named.
fn followed(
    files: &dyn Files,
    folder: &Utf8Path,
    registry: Registry,
    changed: Option<Vec<Utf8PathBuf>>,
) -> Result<Registry, OpenError> {
    let begun = std::time::Instant::now();
    let known = match changed {
        Some(changed) => match registry.edited(files, &changed) {
            Ok(registry) => {
                tracing::debug!(theme = %folder, milliseconds = begun.elapsed().as_millis(), "linked as far as it changed");
                return Ok(registry);
            }
            Err(known) => *known,
        },
        None => registry,
    };
    let registry = Registry::again(known, Project::open(files, folder)?);
    let why = "files came or went, or a layer did";
    tracing::debug!(theme = %folder, milliseconds = begun.elapsed().as_millis(), why, "linked anew");
    Ok(registry)
}

fn is_layers(registry: &Registry, path: &Utf8Path) -> bool {
    registry.project().files_at(path).into_iter().any(|file| registry.project().is_layers(file))
}

fn manifests_of(registry: &Registry) -> BTreeSet<Utf8PathBuf> {
    let project = registry.project();
    let layers = project.layers.iter().filter(|layer| !layer.built_in);
    layers.map(|layer| project.path_of(layer.manifest)).collect()
}

/// What is wrong with the lines that name layers, where they have changed and can't be followed: a registry of
/// manifests alone, and what it says of them.
fn unfollowed(
    files: &Laid,
    registry: &Registry,
    changed: Option<&BTreeSet<Utf8PathBuf>>,
) -> Option<(Registry, Vec<Finding>)> {
    let changed = match changed {
        Some(changed) => changed.clone(),
        None => manifests_of(registry),
    };
    let says_otherwise = |path: &Utf8PathBuf| {
        let known = registry.project().files_at(path).into_iter().find(|file| registry.project().is_layers(*file));
        known.is_some_and(|file| !says_the_same(files, registry, file, path))
    };
    if !changed.iter().any(says_otherwise) {
        return None;
    }
    let project =
        Project::open(&OnlyManifests(files), &registry.project().layer(registry.project().top()).root).ok()?;
    let small = Registry::new(project);
    let found = |finding: &Finding| {
        let place = finding.places.first();
        let in_layers = place.is_some_and(|place| small.project().is_layers(place.file));
        let broken = place.is_some_and(|place| small.facts(place.file).shape.is_broken());
        in_layers && (LAYERS.contains(&finding.rule) || finding.rule == BROKEN && broken)
    };
    let mut findings = rules::check(&small).findings;
    findings.retain(found);
    // The lowest cause alone: where a manifest can't be read, what else is said of it may not be so.
    if findings.iter().any(|finding| finding.rule == BROKEN) {
        findings.retain(|finding| finding.rule == BROKEN);
    }
    (!findings.is_empty()).then_some((small, findings))
}

/// Rules that say of a line which names a layer that it can't be followed.
const LAYERS: [&str; 3] = ["base-missing", "base-cycle", "host-missing"];
/// The rule that says of a manifest that it can't be read.
const BROKEN: &str = "manifest-syntax";

fn says_the_same(files: &Laid, registry: &Registry, file: FileId, path: &Utf8Path) -> bool {
    let source = registry.project().file(file);
    let content = files.read(path).map_or_else(Content::Broken, Content::from_bytes);
    let now = scan_file(&SourceFile { content, ..source.clone() });
    match (&registry.facts(file).shape, &now.shape) {
        (Shape::Manifest(before), Shape::Manifest(now)) => {
            let (before, now) = (before.identity.as_ref(), now.identity.as_ref());
            before.map(|says| (says.role, &says.base, &says.companions, &says.host))
                == now.map(|says| (says.role, &says.base, &says.companions, &says.host))
        }
        _ => false,
    }
}

/// Files among which some are as they were.
struct AsBefore<'f> {
    files: &'f Laid,
    texts: BTreeMap<Utf8PathBuf, Vec<u8>>,
}

impl<'f> AsBefore<'f> {
    fn new(files: &'f Laid, registry: &Registry, which: &BTreeSet<Utf8PathBuf>) -> AsBefore<'f> {
        let project = registry.project();
        let text = |path: &Utf8PathBuf| {
            let file = *project.files_at(path).first()?;
            project.file(file).content.is_text().then(|| (path.clone(), project.file(file).text().as_bytes().to_vec()))
        };
        AsBefore { files, texts: which.iter().filter_map(text).collect() }
    }
}

impl Files for AsBefore<'_> {
    fn folder(&self, path: &Utf8Path) -> Option<Utf8PathBuf> {
        self.files.folder(path)
    }

    fn folders(&self, path: &Utf8Path) -> Vec<String> {
        self.files.folders(path)
    }

    fn list(&self, root: &Utf8Path, part: &str) -> Vec<Listed> {
        let found = self.files.list(root, part);
        let whole = root.join(part);
        // A manifest that is gone for a moment was there.
        match found.is_empty() && self.texts.contains_key(&whole) {
            true => vec![Listed { path: part.into(), broken: None }],
            false => found,
        }
    }

    fn read(&self, path: &Utf8Path) -> Result<Vec<u8>, Unreadable> {
        self.texts.get(path).map_or_else(|| self.files.read(path), |text| Ok(text.clone()))
    }
}

/// Files of which only manifests are seen.
struct OnlyManifests<'f>(&'f Laid);

impl Files for OnlyManifests<'_> {
    fn folder(&self, path: &Utf8Path) -> Option<Utf8PathBuf> {
        self.0.folder(path)
    }

    fn folders(&self, path: &Utf8Path) -> Vec<String> {
        self.0.folders(path)
    }

    fn list(&self, root: &Utf8Path, part: &str) -> Vec<Listed> {
        if part == "truehook.toml" { self.0.list(root, part) } else { Vec::new() }
    }

    fn read(&self, path: &Utf8Path) -> Result<Vec<u8>, Unreadable> {
        self.0.read(path)
    }
}

/// The folders below a folder that hold a manifest, each with how deep it may be nested.
pub fn themes_below(folder: &Utf8Path) -> Vec<Utf8PathBuf> {
    /// How deep themes are looked for.
    const DEPTH: usize = 6;
    let hidden = |entry: &walkdir::DirEntry| {
        let name = entry.file_name().to_str().unwrap_or_default();
        entry.depth() > 0 && (name.starts_with('.') || ["node_modules", "target"].contains(&name))
    };
    let entries = walkdir::WalkDir::new(folder).max_depth(DEPTH).sort_by_file_name().into_iter();
    let found = entries.filter_entry(|entry| !hidden(entry)).flatten();
    let manifests = found.filter(|entry| entry.file_name() == "truehook.toml" && !entry.file_type().is_dir());
    let folders = manifests.filter_map(|entry| Utf8PathBuf::from_path_buf(entry.path().parent()?.to_path_buf()).ok());
    folders.filter_map(|folder| DiskFiles.folder(&folder)).collect()
}
