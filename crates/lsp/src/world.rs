//! All themes of a workspace, over the files as the editor sees them.

use std::cell::RefCell;
use std::collections::{BTreeSet, HashMap};
use std::sync::Arc;

use camino::{Utf8Path, Utf8PathBuf};
use lsp_types::{Location, Position, Uri};
use truehook_core::link::Registry;
use truehook_core::mentions::Mention;
use truehook_core::read::Files;
use truehook_core::source::{FileId, LayerId, Span};

use crate::client::Client;
use crate::kept::Kept;
use crate::laid::Laid;
use crate::paths::{path_of, uri_of};
use crate::place::{Ruler, starts};
use crate::theme::Theme;

/// All that answers are made of.
pub struct World {
    /// What the editor can do.
    pub client: Client,
    /// The disk, with what is open laid over it.
    pub files: Laid,
    /// The themes of the workspace.
    pub themes: Vec<Theme>,
    /// Texts of ours that editors can open.
    pub kept: Kept,
    /// Where the lines of texts begin, each read once until something changes; by where the text lies in memory.
    lines: RefCell<HashMap<InMemory, Arc<[usize]>>>,
}

/// Where a text lies in memory, and how long it is.
type InMemory = (usize, usize);

/// A place in a file of a theme.
#[derive(Clone, Copy)]
pub struct Spot<'w> {
    /// The theme whose own the file is, else one that builds on it.
    pub theme: &'w Theme,
    /// The file.
    pub file: FileId,
    /// The byte.
    pub offset: u32,
}

impl World {
    /// A world without themes.
    pub fn new(client: Client) -> World {
        World { client, files: Laid::default(), themes: Vec::new(), kept: Kept::new(), lines: RefCell::default() }
    }

    /// Opens the theme in a folder, unless it is open. Answers whether it was opened now.
    pub fn open(&mut self, folder: &Utf8Path) -> bool {
        let Some(folder) = self.files.folder(folder).filter(|folder| !self.kept.holds(folder)) else { return false };
        if self.themes.iter().any(|theme| theme.folder == folder) {
            return false;
        }
        self.lines.get_mut().clear();
        let opened = Theme::open(&self.files, folder);
        opened.map(|theme| self.themes.push(theme)).is_ok()
    }

    /// Closes the themes below a folder.
    pub fn close_below(&mut self, folder: &Utf8Path) {
        self.lines.get_mut().clear();
        self.themes.retain(|theme| !theme.folder.starts_with(folder));
    }

    /// The nearest folder upwards of a file that holds a manifest.
    pub fn theme_around(&self, path: &Utf8Path) -> Option<Utf8PathBuf> {
        let there = |folder: &&Utf8Path| !self.files.list(folder, "truehook.toml").is_empty();
        path.ancestors().skip(1).find(there).map(Utf8Path::to_path_buf)
    }

    /// Takes all changes into account; any file may have changed, where none are named. Answers whether there was
    /// one.
    pub fn renew(&mut self, changed: Option<&BTreeSet<Utf8PathBuf>>) -> bool {
        let mut any = false;
        self.lines.get_mut().clear();
        for theme in std::mem::take(&mut self.themes) {
            let touched: Option<Vec<Utf8PathBuf>> = changed
                .map(|paths| paths.iter().filter(|path| theme.is_touched_by(&self.files, path)).cloned().collect());
            if touched.as_ref().is_some_and(Vec::is_empty) {
                self.themes.push(theme);
                continue;
            }
            any = true;
            // What holds no manifest any more is no theme any more.
            self.themes.extend(theme.renewed(&self.files, touched.as_deref()).ok());
        }
        any
    }

    /// The file that an editor names, in the theme whose own it is, else in one that builds on it.
    pub fn find(&self, uri: &Uri) -> Option<(&Theme, FileId)> {
        let path = path_of(uri)?;
        if let Some(below) = self.kept.built_in_at(&path) {
            return self.themes.iter().find_map(|theme| {
                let project = theme.registry.project();
                let built_in = project.layers.iter().position(|layer| layer.built_in)?;
                Some((theme, project.find(LayerId(built_in as u16), below.as_str())?))
            });
        }
        let known = || self.themes.iter().filter_map(|theme| Some((theme, theme.file_at(&path)?)));
        known().find(|(theme, file)| theme.is_own(*file)).or_else(|| known().next())
    }

    /// A place that an editor names.
    pub fn spot(&self, uri: &Uri, position: Position) -> Option<Spot<'_>> {
        let (theme, file) = self.find(uri)?;
        let text = theme.registry.project().file(file).text();
        let offset = Ruler::new(text, self.client.encoding).offset(position) as u32;
        Some(Spot { theme, file, offset })
    }

    /// What an editor calls a file. One that is built in is kept where editors can read it.
    pub fn uri(&self, registry: &Registry, file: FileId) -> Option<Uri> {
        let source = registry.project().file(file);
        if registry.project().layer(source.layer).built_in {
            return self.kept.built_in(source);
        }
        let path = registry.project().path_of(file);
        match self.files.buffer(&path) {
            Some(buffer) => Some(buffer.uri.clone()),
            None => uri_of(&path),
        }
    }

    /// Where a stretch of a file is.
    pub fn location(&self, registry: &Registry, file: FileId, span: Span) -> Option<Location> {
        let range = self.ruler(registry, file).range(span);
        Some(Location { uri: self.uri(registry, file)?, range })
    }

    /// Where something is spoken of.
    pub fn location_of(&self, registry: &Registry, mention: &Mention) -> Option<Location> {
        self.location(registry, mention.file, mention.span)
    }

    /// The lines of a file.
    pub fn ruler<'r>(&self, registry: &'r Registry, file: FileId) -> Ruler<'r> {
        let text = registry.project().file(file).text();
        let key = (text.as_ptr() as usize, text.len());
        let starts = self.lines.borrow_mut().entry(key).or_insert_with(|| starts(text)).clone();
        Ruler::with(text, starts, self.client.encoding)
    }
}
