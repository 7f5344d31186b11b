//! The demo's themes, and others, with their pages and maps.

use std::path::PathBuf;
use std::sync::Arc;

use camino::Utf8PathBuf;
use tempfile::TempDir;
use truehook_core::link::Registry;
use truehook_core::read::{DiskFiles, Project};
use truehook_sheets::{MapSheet, Samples};
use truehook_stage::map::{self, Node};
use truehook_stage::{Manner, Rendered, Stage, page_file};

/// Themes on the disk, which may be changed.
pub struct Themes {
    folder: TempDir,
}

impl Themes {
    pub fn none() -> Themes {
        Themes { folder: tempfile::tempdir().unwrap() }
    }

    /// Those of the demo.
    pub fn demo() -> Themes {
        let themes = Themes::none();
        let demo = PathBuf::from(concat!(env!("CARGO_MANIFEST_DIR"), "/../../demo"));
        let mut open = vec![demo.clone()];
        while let Some(path) = open.pop() {
            if path.is_dir() {
                open.extend(std::fs::read_dir(&path).unwrap().flatten().map(|entry| entry.path()));
            } else {
                themes.write(path.strip_prefix(&demo).unwrap().to_str().unwrap(), std::fs::read(&path).unwrap());
            }
        }
        themes
    }

    pub fn write(&self, file: &str, text: impl AsRef<[u8]>) {
        let path = self.folder.path().join(file);
        std::fs::create_dir_all(path.parent().unwrap()).unwrap();
        std::fs::write(path, text).unwrap();
    }

    pub fn read(&self, file: &str) -> String {
        std::fs::read_to_string(self.folder.path().join(file)).unwrap()
    }

    pub fn open(&self, theme: &str) -> Staged {
        let folder = Utf8PathBuf::from_path_buf(self.folder.path().join(theme)).unwrap();
        let registry = Arc::new(Registry::new(Project::open(&DiskFiles, &folder).unwrap()));
        Staged { stage: Stage::new(registry.clone()), registry, out: tempfile::tempdir().unwrap() }
    }
}

/// A theme on the stage, and a folder for what is made of it.
pub struct Staged {
    pub registry: Arc<Registry>,
    pub stage: Stage,
    out: TempDir,
}

impl Staged {
    pub fn page(&self, path: &str) -> (Rendered, Node) {
        let page = self.stage.rendered(path, Manner::watched()).unwrap();
        let root = map::map(&self.registry, &page);
        (page, root)
    }

    /// Writes the map of a page, and answers its file.
    pub fn map(&self, path: &str) -> PathBuf {
        let (page, root) = self.page(path);
        let samples = Samples::of(&self.registry, &root);
        let filled = self.stage.rendered(path, Manner::with_samples(samples.clone())).filter(|_| !samples.is_empty());
        let filled = filled.map(|page| (map::map(&self.registry, &page), page));
        let sheet =
            MapSheet::new(&self.registry, path, (&page, &root), filled.as_ref().map(|(root, page)| (page, root)));
        let file = self.out.path().join("map.html");
        std::fs::write(&file, sheet.html().unwrap()).unwrap();
        file
    }

    /// Writes a page as it is, with its files beside it, and answers its file.
    pub fn plain(&self, path: &str) -> PathBuf {
        let (page, _) = self.page(path);
        let write = |name: &str, bytes: &[u8]| {
            let file = self.out.path().join("site").join(name);
            std::fs::create_dir_all(file.parent().unwrap()).unwrap();
            std::fs::write(&file, bytes).unwrap();
            file
        };
        for (name, media) in &page.media {
            let bytes = match &media.text {
                Some(text) => text.as_bytes().to_vec(),
                None => self.registry.project().media(media.layer, &media.path).unwrap(),
            };
            write(name, &bytes);
        }
        write(&page_file(path), page.html.as_bytes())
    }
}
