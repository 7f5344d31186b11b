//! Files as an editor sees them: texts that are open, and not saved yet, laid over the disk.

use std::collections::BTreeMap;

use camino::{Utf8Path, Utf8PathBuf};
use lsp_types::{TextDocumentContentChangeEvent, Uri};
use truehook_core::read::{CachedFiles, Files, LARGEST, Listed, Unreadable};

use crate::place::{Encoding, Ruler};

/// A text that is open.
pub struct Buffer {
    /// What the editor calls it.
    pub uri: Uri,
    /// The editor's number for this state of it.
    pub version: i32,
    /// The text.
    pub text: String,
}

impl Buffer {
    /// Makes a change: of a range, or of all of it.
    pub fn change(&mut self, change: TextDocumentContentChangeEvent, encoding: Encoding) {
        match change.range {
            None => self.text = change.text,
            Some(range) => {
                let span = Ruler::new(&self.text, encoding).span(range);
                self.text.replace_range(span.range(), &change.text);
            }
        }
    }
}

/// The disk, with what is open laid over it.
#[derive(Default)]
pub struct Laid {
    disk: CachedFiles,
    buffers: BTreeMap<Utf8PathBuf, Buffer>,
}

impl Laid {
    /// Forgets what was read of a file, or of all below a folder.
    pub fn forget(&mut self, path: &Utf8Path) {
        self.disk.forget(path);
    }

    /// Forgets all that was read.
    pub fn forget_all(&mut self) {
        self.disk = CachedFiles::default();
    }

    /// Opens a text.
    pub fn open(&mut self, path: Utf8PathBuf, buffer: Buffer) {
        self.buffers.insert(path, buffer);
    }

    /// Closes a text: what is on the disk counts again.
    pub fn close(&mut self, path: &Utf8Path) -> Option<Buffer> {
        self.disk.forget(path);
        self.buffers.remove(path)
    }

    /// A text that is open.
    pub fn buffer(&self, path: &Utf8Path) -> Option<&Buffer> {
        self.buffers.get(path)
    }

    /// A text that is open, to be changed.
    pub fn buffer_mut(&mut self, path: &Utf8Path) -> Option<&mut Buffer> {
        self.buffers.get_mut(path)
    }
}

impl Files for Laid {
    fn folder(&self, path: &Utf8Path) -> Option<Utf8PathBuf> {
        self.disk.folder(path)
    }

    fn folders(&self, path: &Utf8Path) -> Vec<String> {
        self.disk.folders(path)
    }

    fn list(&self, root: &Utf8Path, part: &str) -> Vec<Listed> {
        let mut found = self.disk.list(root, part);
        let whole = root.join(part);
        for path in self.buffers.range(whole.clone()..).map(|(path, _)| path) {
            if !path.as_str().starts_with(whole.as_str()) {
                break;
            }
            let Some(below) = path.strip_prefix(root).ok().filter(|_| path.starts_with(&whole)) else { continue };
            match found.binary_search_by(|listed| listed.path.as_str().cmp(below.as_str())) {
                Ok(at) => found[at].broken = None,
                Err(at) => found.insert(at, Listed { path: below.into(), broken: None }),
            }
        }
        found
    }

    fn read(&self, path: &Utf8Path) -> Result<Vec<u8>, Unreadable> {
        match self.buffers.get(path) {
            Some(buffer) if buffer.text.len() as u64 > LARGEST => Err(Unreadable::TooLarge(buffer.text.len() as u64)),
            Some(buffer) => Ok(buffer.text.clone().into_bytes()),
            None => self.disk.read(path),
        }
    }
}
