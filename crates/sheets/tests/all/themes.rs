//! The demo's themes, and others, with their pages and maps.

use std::path::PathBuf;
use std::sync::Arc;

use camino::Utf8PathBuf;
use tempfile::TempDir;
use truehook_core::address::Address;
use truehook_core::link::Registry;
use truehook_core::read::{DiskFiles, Project};
use truehook_core::view::{AtlasView, DeskView, holder_for};
use truehook_sheets::{AtlasSheet, DeskSheet, MapSheet, PlannedPage, Samples, Shown};
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

    /// Writes the desk, and answers its file, and a page for each offer.
    pub fn desk(&self) -> (PathBuf, Vec<(String, Rendered)>) {
        let view = DeskView::new(&self.registry);
        let mut pages = Vec::new();
        for (at, component) in view.components.iter().enumerate() {
            let address: Address = component.address.parse().unwrap();
            let Some((holder, types)) = holder_for(&self.registry, address) else { continue };
            let pages_of = self.stage.pages();
            let page = pages_of.iter().find(|page| types.contains(&page.page_type.as_str())).unwrap();
            for (nth, offer) in component.offers.iter().enumerate() {
                let rendered = self.stage.rendered(&page.path, Manner::with_only(holder, offer.item.clone())).unwrap();
                pages.push(((at, nth), address, holder, page.path.clone(), rendered));
            }
        }
        let shown: Vec<Shown<'_>> = pages
            .iter()
            .map(|(offer, component, holder, path, page)| Shown {
                offer: *offer,
                component: *component,
                holder: *holder,
                path,
                page,
            })
            .collect();
        let path = self.stage.pages().into_iter().find(|page| !page.sample).map_or("/".to_string(), |page| page.path);
        let (page, root) = self.page(&path);
        let file = self.out.path().join("desk.html");
        std::fs::write(&file, DeskSheet::new(&self.registry, &view, (&path, &page, &root), &shown).html().unwrap())
            .unwrap();
        (file, pages.into_iter().map(|(_, _, _, path, page)| (path, page)).collect())
    }

    /// Writes the atlas, and answers its file.
    pub fn atlas(&self) -> PathBuf {
        let view = AtlasView::new(&self.registry);
        let pages = self.stage.pages();
        let maps: Vec<(String, Node)> = view
            .theme
            .types
            .iter()
            .filter_map(|page_type| {
                let page = pages.iter().find(|page| page.page_type == *page_type)?;
                Some((page_type.clone(), self.page(&page.path).1))
            })
            .collect();
        let planned = maps.iter().map(|(page_type, root)| PlannedPage { page_type: page_type.clone(), root });
        let planned: Vec<PlannedPage<'_>> = planned.collect();
        let file = self.out.path().join("atlas.html");
        std::fs::write(&file, AtlasSheet::new(&view, &planned).html().unwrap()).unwrap();
        file
    }

    /// Writes a page as it is, with its files beside it, and answers its file.
    pub fn plain(&self, path: &str) -> PathBuf {
        self.written(path, &self.page(path).0)
    }

    /// The same for a page that was rendered before.
    pub fn written(&self, path: &str, page: &Rendered) -> PathBuf {
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

/// A theme whose page has five hundred points: in a table, between words, nested, empty and full, with long labels.
pub fn many() -> Themes {
    let themes = Themes::none();
    let mut manifest = String::from(
        "[theme]\nname = \"quay\"\nlabel = \"Quay\"\nversion = \"1.0.0\"\n\n[partial.berth]\nlabel = \"A berth with its number, the length of what may lie there, and whose it is this year\"\ninputs = { number = { type = \"integer\" } }\n",
    );
    let mut body = String::new();
    for number in 0..125 {
        manifest.push_str(&format!(
            "\n[hook.between-the-berths-{number}]\nabout = \"Between two berths\"\n\n[hook.in-words-{number}]\nabout = \"In the words\"\n\n[region.board-{number}]\nlabel = \"Board {number}\"\n"
        ));
        body.push_str(&format!(
            "<section>{{{{ place('hook:between-the-berths-{number}') }}}}<p>Berth {{{{ place('hook:in-words-{number}') }}}} is free</p>\
             <table><tr><td>{{{{ place('partial:berth', number={number}) }}}}</td><td>{{{{ place('region:board-{number}') }}}}</td></tr></table></section>\n"
        ));
    }
    themes.write("quay/truehook.toml", manifest);
    themes.write("quay/markup/partials/berth.html", "<b>Berth {{ number }}</b>");
    let page = format!(
        "<!doctype html><html lang=en><head><title>Quay</title>{{{{ place('hook:document-head') }}}}</head><body>{{{{ place('region:main') }}}}{body}{{{{ place('hook:document-end') }}}}</body></html>"
    );
    themes.write("quay/markup/page.html", page);
    themes
}
