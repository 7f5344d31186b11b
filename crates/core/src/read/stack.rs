//! Builds the stack of layers: finds what each manifest asks for, and reads all files.

use std::collections::HashMap;

use crate::name::Name;
use camino::{Utf8Path, Utf8PathBuf};
use include_dir::{Dir, include_dir};
use semver::Version;

use super::*;
use crate::parallel;
use crate::source::{LayerRequest, Versions};

static STANDARD: Dir = include_dir!("$CARGO_MANIFEST_DIR/../../hosts/standard");

/// Where the built-in contract seems to lie.
const STANDARD_ROOT: &str = "standard:";

/// The files of the built-in host contract, each with its path.
pub fn standard_files() -> MemoryFiles {
    fn add(dir: &Dir<'_>, files: &mut MemoryFiles) {
        for file in dir.files() {
            let path = file.path().to_str().unwrap_or_default();
            files.insert(Utf8Path::new(STANDARD_ROOT).join(path), file.contents());
        }
        dir.dirs().for_each(|dir| add(dir, files));
    }
    let mut files = MemoryFiles::new();
    add(&STANDARD, &mut files);
    files
}

/// A layer that was found, before its place in the stack is known.
struct Found {
    root: Utf8PathBuf,
    role: LayerRole,
    built_in: bool,
    manifest: SourceFile,
    says: ManifestSays,
}

impl Found {
    fn open(
        files: &dyn Files,
        manifests: &dyn Manifests,
        root: Utf8PathBuf,
        role: LayerRole,
        built_in: bool,
    ) -> Option<Found> {
        let listed = files.list(&root, "truehook.toml").pop()?;
        let manifest = read_file(files, &root, listed, FileKind::Manifest);
        let says = manifests.read(&manifest, built_in);
        Some(Found { root, role, built_in, manifest, says })
    }

    fn name(&self) -> Name {
        if self.role == LayerRole::Host {
            return "host".into();
        }
        self.says.name.unwrap_or_else(|| self.root.file_name().unwrap_or("theme").into())
    }
}

/// Who asked for which layer; the positions are those in the list of found layers.
struct Asked {
    wanted: Wanted,
    by: usize,
    at: At,
    outcome: Result<usize, Trouble>,
    versions: Option<Versions>,
}

struct Search<'f> {
    files: &'f dyn Files,
    manifests: &'f dyn Manifests,
    standard: MemoryFiles,
    found: Vec<Found>,
    asked: Vec<Asked>,
}

pub(super) fn open(
    files: &dyn Files,
    manifests: &dyn Manifests,
    root: &Utf8Path,
    pages: bool,
) -> Result<Project, OpenError> {
    let folder = files.folder(root).ok_or_else(|| OpenError::NoFolder(root.to_string()))?;
    let mut theme = Found::open(files, manifests, folder, LayerRole::Theme, false)
        .ok_or_else(|| OpenError::NoManifest(root.to_string()))?;
    // A companion or a host contract can be looked at by itself, too.
    theme.role = theme.says.role.unwrap_or(LayerRole::Theme);
    if theme.role == LayerRole::Host {
        let search = Search { files, manifests, standard: standard_files(), found: vec![theme], asked: Vec::new() };
        return Ok(search.project(&[0], pages));
    }
    let mut search = Search { files, manifests, standard: standard_files(), found: vec![theme], asked: Vec::new() };

    let bases = search.bases();
    let companions = search.companions(&bases);
    let host = search.host(&bases);
    let order = host.into_iter().chain(companions).chain(bases.into_iter().rev()).collect::<Vec<_>>();
    Ok(search.project(&order, pages))
}

impl Search<'_> {
    fn request(&self, by: usize, pick: impl Fn(&ManifestSays) -> Option<&LayerRequest>) -> Option<LayerRequest> {
        pick(&self.found[by].says).cloned()
    }

    /// The theme and its bases, highest first.
    fn bases(&mut self) -> Vec<usize> {
        let mut chain = vec![0];
        while let Some(request) = self.request(chain[chain.len() - 1], |id| id.base.as_ref()) {
            let by = chain[chain.len() - 1];
            let known = self.folder_of(by, &request);
            if let Some(again) =
                known.as_ref().and_then(|root| chain.iter().position(|at| self.found[*at].root == *root))
            {
                let way = chain[again..].iter().chain([&chain[again]]);
                let way = way.map(|at| self.found[*at].name().to_string()).collect();
                self.note(Wanted::Base, by, &request, Err(Trouble::Cycle { way }));
                break;
            }
            match self.fetch(Wanted::Base, by, &request) {
                Some(at) => chain.push(at),
                None => break,
            }
        }
        chain
    }

    /// The companions of all bases and of the theme, lowest first, each folder once.
    fn companions(&mut self, bases: &[usize]) -> Vec<usize> {
        let mut found = Vec::new();
        for by in bases.iter().rev() {
            let requests = self.found[*by].says.companions.clone();
            for request in requests {
                if let Some(at) = self.fetch(Wanted::Companion, *by, &request)
                    && !found.contains(&at)
                {
                    found.push(at);
                }
            }
        }
        found
    }

    /// The host contract: the theme's, else the nearest base's, else the built-in one.
    fn host(&mut self, bases: &[usize]) -> Option<usize> {
        let mut host = None;
        for by in bases {
            if let Some(request) = self.request(*by, |id| id.host.as_ref()) {
                let found = self.fetch(Wanted::Host, *by, &request);
                host = host.or(Some(found));
            }
        }
        host.unwrap_or_else(|| self.standard())
    }

    fn standard(&mut self) -> Option<usize> {
        if let Some(at) = self.found.iter().position(|found| found.built_in) {
            return Some(at);
        }
        let found = Found::open(&self.standard, self.manifests, STANDARD_ROOT.into(), LayerRole::Host, true)?;
        self.found.push(found);
        Some(self.found.len() - 1)
    }

    /// The folder that a request means, if it is there.
    fn folder_of(&self, by: usize, request: &LayerRequest) -> Option<Utf8PathBuf> {
        self.files.folder(&self.found[by].root.join(request.target.as_str()))
    }

    fn fetch(&mut self, wanted: Wanted, by: usize, request: &LayerRequest) -> Option<usize> {
        let at = if wanted == Wanted::Host && request.target == "standard" {
            self.standard()
        } else {
            let role = match wanted {
                Wanted::Base => LayerRole::Theme,
                Wanted::Companion => LayerRole::Companion,
                Wanted::Host => LayerRole::Host,
            };
            self.folder_of(by, request).and_then(|root| {
                let known = self.found.iter().position(|found| found.root == root && found.role == role);
                known.or_else(|| {
                    self.found.push(Found::open(self.files, self.manifests, root, role, false)?);
                    Some(self.found.len() - 1)
                })
            })
        };
        let missing = || Trouble::Missing { path: request.target.to_string(), near: self.near(by, request) };
        let outcome = at.ok_or_else(missing);
        self.note(wanted, by, request, outcome);
        at
    }

    /// A path with a manifest that differs from the wanted one by a slip of the pen in its last name.
    fn near(&self, by: usize, request: &LayerRequest) -> Option<String> {
        let wanted = Utf8Path::new(request.target.as_str());
        let (parent, name) = (wanted.parent()?, wanted.file_name()?);
        let folder = self.found[by].root.join(parent);
        let mut names = self.files.folders(&folder);
        names.retain(|name| {
            let found = self.files.folder(&folder.join(name));
            found.is_some_and(|found| !self.files.list(&found, "truehook.toml").is_empty())
        });
        let near = crate::names::nearest(name, names.iter().map(String::as_str))?;
        Some(parent.join(near).to_string())
    }

    fn note(&mut self, wanted: Wanted, by: usize, request: &LayerRequest, outcome: Result<usize, Trouble>) {
        let versions = request.versions.clone();
        self.asked.push(Asked { wanted, by, at: request.at, outcome, versions });
    }

    /// Puts the found layers in their order and reads the rest of their files.
    fn project(self, order: &[usize], pages: bool) -> Project {
        let place: HashMap<usize, LayerId> =
            order.iter().enumerate().map(|(at, found)| (*found, LayerId(at as u16))).collect();
        let top_root = self.found[0].root.clone();
        let mut project = Project {
            layers: Vec::new(),
            files: Vec::new(),
            troubles: Vec::new(),
            links: Vec::new(),
            kept: HashMap::new(),
        };
        for asked in &self.asked {
            let Some(layer) = place.get(&asked.by).copied() else { continue };
            let (wanted, at) = (asked.wanted, asked.at);
            let trouble = match &asked.outcome {
                Err(trouble) => Some(trouble.clone()),
                Ok(found) => {
                    let Some(found_at) = place.get(found).copied() else { continue };
                    project.links.push(LayerLink { wanted, layer, at, found: found_at });
                    version_trouble(&self.found[*found], found_at, asked.versions.as_ref())
                }
            };
            project.troubles.extend(trouble.map(|trouble| LayerTrouble { wanted, layer, at, trouble }));
        }
        let mut found: Vec<Option<Found>> = self.found.into_iter().map(Some).collect();
        for (position, at) in order.iter().enumerate() {
            let Some(layer) = found[*at].take() else { continue };
            let id = LayerId(position as u16);
            let source: &dyn Files = if layer.built_in { &self.standard } else { self.files };
            add_layer(&mut project, source, layer, id, pages, &top_root);
        }
        project
    }
}

fn version_trouble(found: &Found, at: LayerId, wanted: Option<&Versions>) -> Option<Trouble> {
    let wanted = wanted?;
    let version: Option<&Version> = found.says.version.as_ref();
    if version.is_some_and(|version| wanted.matches(version)) {
        return None;
    }
    let version = version.map(Version::to_string).unwrap_or_default();
    Some(Trouble::Version { found: at, version, wanted: wanted.to_string() })
}

fn add_layer(project: &mut Project, files: &dyn Files, found: Found, id: LayerId, pages: bool, theme: &Utf8Path) {
    let name = found.name();
    let open = found.says.open;
    let first = project.files.len();
    let translations =
        files.list(&found.root, &found.says.words).into_iter().filter(|listed| listed.path.extension() == Some("po"));
    let of_parts = |parts: &[&str]| -> Vec<(Listed, FileKind)> {
        let listed = parts.iter().flat_map(|part| files.list(&found.root, part));
        let listed = listed.filter_map(|listed| kind_of(&listed).map(|kind| (listed, kind)));
        listed.filter(|(_, kind)| *kind != FileKind::Words).collect()
    };
    let read_all = |listed: &[(Listed, FileKind)]| -> Vec<SourceFile> {
        parallel::map(listed.len(), |at| {
            let (listed, kind) = listed[at].clone();
            if kind == FileKind::Page && !pages && listed.broken.is_none() {
                return SourceFile { layer: id, path: listed.path, kind, content: Content::Unread };
            }
            SourceFile { layer: id, ..read_file(files, &found.root, listed, kind) }
        })
    };
    // Where there are many modules, there are many templates: those are listed while these are read.
    let modules = of_parts(&["code"]);
    let (mut read, mut listed) =
        parallel::both(modules.len(), || read_all(&modules), || of_parts(&["markup", "media", "points", "preview"]));
    listed.extend(translations.map(|listed| (listed, FileKind::Words)));
    let media = listed.iter().filter(|(_, kind)| kind.is_media()).map(|(listed, _)| listed.path.clone()).collect();
    // Of pictures and the like it is enough to know that they are there, unless that is in doubt.
    let told = |(listed, kind): &(Listed, FileKind)| *kind != FileKind::Media || listed.broken.is_some();
    let rest: Vec<_> = listed.into_iter().filter(told).collect();
    read.extend(read_all(&rest));
    read.push(SourceFile { layer: id, ..found.manifest });
    read.sort_by(|a, b| a.path.as_str().cmp(b.path.as_str()));
    project.files.extend(read);

    let originals = files.list(&found.root, "adopted").into_iter().map(|listed| listed.path).collect();
    let layer = Layer {
        originals,
        name,
        role: found.role,
        shown: if found.built_in { STANDARD_ROOT.into() } else { shown(&found.root, theme) },
        root: found.root,
        files: first..project.files.len(),
        manifest: FileId(0),
        media,
        built_in: found.built_in,
        open: open || found.role != LayerRole::Theme,
    };
    project.layers.push(layer);
    if let Some(manifest) = project.find(id, "truehook.toml") {
        project.layers[id.index()].manifest = manifest;
        project.kept.extend(found.says.kept.map(|kept| (manifest, kept)));
    }
}

/// What a listed file is for. A link that could not be followed may have been a folder, so it is
/// kept where its folder is one of ours.
fn kind_of(listed: &Listed) -> Option<FileKind> {
    let kind = FileKind::of(&listed.path);
    if listed.broken.is_none() || kind.is_some() {
        return kind;
    }
    match listed.path.components().next()?.as_str() {
        "markup" => Some(FileKind::Template),
        "code" => Some(FileKind::Module),
        "points" => Some(FileKind::Manifest),
        "media" | "words" | "preview" => Some(FileKind::Media),
        _ => None,
    }
}

fn read_file(files: &dyn Files, root: &Utf8Path, listed: Listed, kind: FileKind) -> SourceFile {
    let content = match listed.broken {
        Some(broken) => Content::Broken(broken),
        None => files.read(&root.join(&listed.path)).map_or_else(Content::Broken, Content::from_bytes),
    };
    SourceFile { layer: LayerId(0), path: listed.path, kind, content }
}

/// A folder's path relative to the checked theme's, ending in `/`; empty for the theme itself.
fn shown(root: &Utf8Path, theme: &Utf8Path) -> String {
    if root == theme {
        return String::new();
    }
    let common = root.components().zip(theme.components()).take_while(|(a, b)| a == b).count();
    let up = theme.components().count() - common;
    if up > 3 {
        return format!("{root}/");
    }
    let down = root.components().skip(common).map(|part| format!("{part}/"));
    "../".repeat(up) + &down.collect::<String>()
}
