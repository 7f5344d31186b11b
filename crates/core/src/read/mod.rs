//! The first step: folders become a [`Project`], the layers of a theme with the text of their files.
//! Nothing else in the core reads the disk.

mod files;
mod stack;

use std::any::Any;
use std::collections::{BTreeSet, HashMap};
use std::sync::Arc;

use crate::name::Name;
use camino::{Utf8Path, Utf8PathBuf};

use crate::source::{At, FileId, LayerId, LayerRequest};

pub use crate::source::{Content, FileKind, LARGEST, LayerRole, SourceFile, Unreadable};
pub use files::{CachedFiles, DiskFiles, Files, Listed, MemoryFiles, OverlayFiles, read_plain};
pub use stack::standard_files;

/// One member of the stack.
#[derive(Clone, Debug)]
pub struct Layer {
    /// Its name; the contract's is `host`.
    pub name: Name,
    /// What it is.
    pub role: LayerRole,
    /// Its folder.
    pub root: Utf8PathBuf,
    /// How its files are shown: a path relative to the checked theme, ending in `/` or `:`.
    pub shown: String,
    /// Its files, as positions in [`Project::files`].
    pub files: std::ops::Range<usize>,
    /// Its `truehook.toml`.
    pub manifest: FileId,
    /// What is in its `adopted/`: the originals of templates that it took over, as they were then.
    pub originals: BTreeSet<Utf8PathBuf>,
    /// What is in its `media/`, as paths below its folder.
    pub media: BTreeSet<Utf8PathBuf>,
    /// Is it inside the program, so that its files can't be edited?
    pub built_in: bool,
    /// Do other themes build on it?
    pub open: bool,
}

/// What a manifest asks for in another folder.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum Wanted {
    /// `base`
    Base,
    /// one of `companions`
    Companion,
    /// `host`
    Host,
}

/// What is wrong with a layer that a manifest asks for.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Trouble {
    /// No such folder, or no manifest in it.
    Missing {
        /// Where it was looked for.
        path: String,
        /// A path that is there and was most likely meant.
        near: Option<String>,
    },
    /// It is there and in use, but not of the wanted version.
    Version {
        /// The layer that was found.
        found: LayerId,
        /// Its version, or nothing where it states none.
        version: String,
        /// The versions that were asked for.
        wanted: String,
    },
    /// It builds, in the end, on itself.
    Cycle {
        /// The names on the way round.
        way: Vec<String>,
    },
}

/// A layer that could not be had as a manifest asked for it.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct LayerTrouble {
    /// What was asked for.
    pub wanted: Wanted,
    /// Who asked.
    pub layer: LayerId,
    /// Where, in the asking layer's manifest.
    pub at: At,
    /// What is wrong.
    pub trouble: Trouble,
}

/// A reference from one manifest to another that was found.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct LayerLink {
    /// What was asked for.
    pub wanted: Wanted,
    /// Who asked.
    pub layer: LayerId,
    /// Where, in the asking layer's manifest.
    pub at: At,
    /// What it found.
    pub found: LayerId,
}

/// All layers of a theme, lowest first, with the text of their files.
#[derive(Clone)]
pub struct Project {
    /// The layers, the host first and the checked theme last.
    pub layers: Vec<Layer>,
    /// The files of all layers.
    pub files: Vec<SourceFile>,
    /// Layers that could not be had as asked.
    pub troubles: Vec<LayerTrouble>,
    /// Layers that were found.
    pub links: Vec<LayerLink>,
    /// What was made of the manifests that had to be known to find the layers.
    pub(crate) kept: HashMap<FileId, Kept>,
}

/// What whoever reads manifests wants to keep of one.
pub type Kept = Arc<dyn Any + Send + Sync>;

/// What reading needs to know of a manifest.
#[derive(Clone, Default)]
pub struct ManifestSays {
    /// What the layer is, where it says so.
    pub role: Option<LayerRole>,
    /// Its name.
    pub name: Option<Name>,
    /// Its version.
    pub version: Option<semver::Version>,
    /// Do other themes build on it?
    pub open: bool,
    /// The theme that it builds on.
    pub base: Option<LayerRequest>,
    /// The add-ons beside it.
    pub companions: Vec<LayerRequest>,
    /// The contract of its host.
    pub host: Option<LayerRequest>,
    /// The folder of its translations.
    pub words: String,
    /// What else was made of it.
    pub kept: Option<Kept>,
}

/// Whoever can read manifests: which layers there are depends on what they say.
pub trait Manifests {
    /// What a manifest says; that of the built-in contract says the same each time.
    fn read(&self, manifest: &SourceFile, built_in: bool) -> ManifestSays;
}

/// Why no theme could be opened.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
pub enum OpenError {
    /// The folder is not there.
    #[error("there is no folder {0}")]
    NoFolder(String),
    /// The folder holds no manifest.
    #[error("{0} holds no truehook.toml, so it is not a theme")]
    NoManifest(String),
    /// A path that is not UTF-8.
    #[error("{0} is not UTF-8")]
    Path(String),
}

impl Project {
    /// All files.
    pub fn file_ids(&self) -> impl Iterator<Item = FileId> + use<> {
        (0..self.files.len() as u32).map(FileId)
    }

    /// Opens the theme in `root` and every layer below it, each file read once; without the texts of the
    /// preview's pages where there may be many.
    pub(crate) fn read(
        files: &dyn Files,
        manifests: &dyn Manifests,
        root: &Utf8Path,
        pages: bool,
    ) -> Result<Project, OpenError> {
        stack::open(files, manifests, root, pages)
    }

    /// A file with its text, which is read now if it was left on the disk.
    pub fn with_text(&self, files: &dyn Files, id: FileId) -> std::borrow::Cow<'_, SourceFile> {
        let file = self.file(id);
        if !matches!(file.content, Content::Unread) || file.kind == FileKind::Media {
            return std::borrow::Cow::Borrowed(file);
        }
        let content = files.read(&self.path_of(id)).map_or_else(Content::Broken, Content::from_bytes);
        std::borrow::Cow::Owned(SourceFile { content, ..file.clone() })
    }

    /// No layers, and no files.
    pub(crate) fn nothing() -> Project {
        Project { layers: Vec::new(), files: Vec::new(), troubles: Vec::new(), links: Vec::new(), kept: HashMap::new() }
    }

    /// What was read of the file that lies at a path on the disk: once in each layer of which it is part.
    pub fn files_at(&self, path: &Utf8Path) -> Vec<FileId> {
        let own = |layer: &Layer| path.strip_prefix(&layer.root).ok().filter(|_| !layer.built_in);
        let layers = self.layers.iter().enumerate();
        layers.filter_map(|(at, layer)| self.find(LayerId(at as u16), own(layer)?.as_str())).collect()
    }

    /// Is this a file in a layer's `media/` whose text is not read, and still there?
    pub(crate) fn is_media(&self, files: &dyn Files, path: &Utf8Path) -> bool {
        self.layers.iter().filter(|layer| !layer.built_in).any(|layer| {
            let below = path.strip_prefix(&layer.root).ok().filter(|below| layer.media.contains(*below));
            let listed = below.map(|below| files.list(&layer.root, below.as_str()));
            matches!(listed.as_deref(), Some([Listed { broken: None, .. }]))
        })
    }

    /// Has a change at a path on the disk to do with any layer? Editors write files of their own beside those that
    /// they edit, which come and go.
    pub fn is_touched_by(&self, path: &Utf8Path) -> bool {
        self.layers.iter().filter(|layer| !layer.built_in).any(|layer| {
            let Ok(below) = path.strip_prefix(&layer.root) else { return false };
            let mut known = self.files[layer.files.clone()].iter().map(|file| &file.path);
            if known.any(|file| file.starts_with(below))
                || layer.media.iter().chain(&layer.originals).any(|file| file.starts_with(below))
            {
                return true;
            }
            match std::fs::symlink_metadata(path) {
                Ok(found) => !found.is_file() || FileKind::of(below).is_some() || below.starts_with("adopted"),
                Err(_) => false,
            }
        })
    }

    /// Is this the manifest of a layer, which says on what it builds?
    pub fn is_layers(&self, file: FileId) -> bool {
        self.layers.iter().any(|layer| layer.manifest == file)
    }

    /// Reads a file once more.
    pub(crate) fn read_again(&mut self, files: &dyn Files, id: FileId) {
        let path = self.path_of(id);
        self.files[id.index()].content = files.read(&path).map_or_else(Content::Broken, Content::from_bytes);
        self.kept.remove(&id);
    }

    /// The bytes of a file in a layer's `media/`, by its path below the layer's folder.
    ///
    /// # Errors
    /// Where it is not there, or the system refuses.
    pub fn media(&self, layer: LayerId, path: &str) -> std::io::Result<Vec<u8>> {
        let known = self.find(layer, path).map(|file| &self.file(file).content);
        if let Some(Content::Text { text, mark }) = known {
            return Ok(format!("{}{text}", if *mark { "\u{feff}" } else { "" }).into_bytes());
        }
        let place = self.layer(layer).root.join(path);
        if self.layer(layer).built_in {
            let files = stack::standard_files();
            return files.get(&place).map(<[u8]>::to_vec).ok_or_else(|| std::io::ErrorKind::NotFound.into());
        }
        // Pictures and films may be large, but have to be files.
        files::read_plain(&place, u64::MAX - 1).map_err(|why| match why {
            Unreadable::DeadLink => std::io::ErrorKind::NotFound.into(),
            why => std::io::Error::other(why.to_string()),
        })
    }

    /// The layer with this position.
    pub fn layer(&self, id: LayerId) -> &Layer {
        &self.layers[id.index()]
    }

    /// The file with this position.
    pub fn file(&self, id: FileId) -> &SourceFile {
        &self.files[id.index()]
    }

    /// The checked theme.
    pub fn top(&self) -> LayerId {
        LayerId((self.layers.len() - 1) as u16)
    }

    /// How a file is shown to people: its path relative to the checked theme's folder.
    pub fn shown(&self, id: FileId) -> String {
        let file = self.file(id);
        format!("{}{}", self.layer(file.layer).shown, file.path)
    }

    /// Where a file lies on the disk.
    pub fn path_of(&self, id: FileId) -> Utf8PathBuf {
        let file = self.file(id);
        self.layer(file.layer).root.join(&file.path)
    }

    /// The file at a path below a layer's folder.
    pub fn find(&self, layer: LayerId, path: &str) -> Option<FileId> {
        let range = self.layer(layer).files.clone();
        let files = &self.files[range.clone()];
        let at = files.binary_search_by(|file| file.path.as_str().cmp(path)).ok()?;
        Some(FileId((range.start + at) as u32))
    }

    /// The layer of that name.
    pub fn layer_named(&self, name: &str) -> Option<LayerId> {
        let at = self.layers.iter().position(|layer| layer.name == name)?;
        Some(LayerId(at as u16))
    }

    /// All files of a layer.
    pub fn files_of(&self, layer: LayerId) -> impl Iterator<Item = (FileId, &SourceFile)> {
        let range = self.layer(layer).files.clone();
        range.map(|at| (FileId(at as u32), &self.files[at]))
    }
}
