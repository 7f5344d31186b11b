//! Opening a theme: the layers that its manifest asks for are found by reading manifests.

use std::sync::{Arc, OnceLock};

use camino::Utf8Path;

use crate::parallel;
use crate::read::{Files, ManifestSays, Manifests, OpenError, Project};
use crate::scan::{Facts, ManifestShape, Shape, scan_file};
use crate::source::{FileId, SourceFile, leaves};

/// Reads manifests by scanning them, and keeps their facts.
struct Scanning;

/// What the manifest of the built-in contract says: a theme is opened again and again while somebody works on it.
static BUILT_IN: OnceLock<ManifestSays> = OnceLock::new();

impl Manifests for Scanning {
    fn read(&self, manifest: &SourceFile, built_in: bool) -> ManifestSays {
        match built_in {
            true => BUILT_IN.get_or_init(|| scanned(manifest)).clone(),
            false => scanned(manifest),
        }
    }
}

/// What a manifest says, by its facts.
fn scanned(manifest: &SourceFile) -> ManifestSays {
    let facts = scan_file(manifest);
    let shape = match &facts.shape {
        Shape::Manifest(shape) => Some(&**shape),
        _ => None,
    };
    let identity = shape.and_then(|shape| shape.identity.clone());
    let words = words_folder(shape);
    let says = ManifestSays { words, kept: None, ..ManifestSays::default() };
    let says = match identity {
        Some(identity) => ManifestSays {
            role: Some(identity.role),
            name: identity.name.map(|name| name.name),
            version: identity.version,
            open: identity.open,
            base: identity.base,
            companions: identity.companions,
            host: identity.host,
            ..says
        },
        None => says,
    };
    ManifestSays { kept: Some(Arc::new(facts)), ..says }
}

/// Do two manifests ask for the same layers, at the same places, and call themselves the same?
pub(crate) fn asks_the_same(one: &Shape, other: &Shape) -> bool {
    let (Shape::Manifest(one), Shape::Manifest(other)) = (one, other) else { return false };
    let same = match (&one.identity, &other.identity) {
        (Some(one), Some(other)) => {
            let named = (one.role, one.name.map(|name| name.name), one.open);
            named == (other.role, other.name.map(|name| name.name), other.open)
                && one.version == other.version
                && (&one.host, &one.base, &one.companions) == (&other.host, &other.base, &other.companions)
        }
        (one, other) => one == other,
    };
    same && words_folder(Some(&**one)) == words_folder(Some(&**other))
}

/// Where a layer's translations lie, as the feature for them says.
fn words_folder(manifest: Option<&ManifestShape>) -> String {
    let declarations = manifest.map_or(&[][..], |manifest| &manifest.declarations);
    let feature = declarations.iter().find(|declared| declared.address.to_string() == "feature:translations");
    let folder = feature.and_then(|feature| feature.feature.as_ref()?.arguments.get("folder")?.as_str());
    folder.filter(|folder| !folder.is_empty() && !leaves(folder)).unwrap_or("words").to_string()
}

impl Project {
    /// Opens the theme in `root` and every layer below it, each file read once.
    ///
    /// # Errors
    /// Only where `root` is no folder with a `truehook.toml`. Anything else that is wrong becomes
    /// part of the project, so that it can be reported.
    pub fn open(files: &dyn Files, root: &Utf8Path) -> Result<Project, OpenError> {
        Project::read(files, &Scanning, root, true)
    }

    /// As [`open`](Project::open), but the texts of the preview's pages are left on the disk, since there
    /// may be many.
    ///
    /// # Errors
    /// As for [`open`](Project::open).
    pub fn open_without_pages(files: &dyn Files, root: &Utf8Path) -> Result<Project, OpenError> {
        parallel::alone(|| Project::read(files, &Scanning, root, false))
    }

    /// The facts of a manifest that were kept when the layers were found.
    pub(crate) fn kept_facts(&self, file: FileId) -> Option<Facts> {
        self.kept.get(&file)?.downcast_ref::<Facts>().cloned()
    }
}
