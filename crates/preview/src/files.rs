//! The files that pages refer to.

use std::collections::HashMap;
use std::sync::{PoisonError, RwLock};

use camino::{Utf8Path, Utf8PathBuf};
use truehook_core::read::{Project, read_plain};
use truehook_stage::{MediaFile, Rendered};

/// How large a file may be, in bytes.
const LARGEST: u64 = 512 * 1024 * 1024;

/// Where a file comes from.
#[derive(Clone)]
enum From {
    /// A text that was made for the page, or lies in the program itself.
    Bytes(Vec<u8>),
    /// A file in a layer's folder.
    Below(Utf8PathBuf, String),
}

/// All files that pages have asked for so far, by the addresses that pages have for them.
#[derive(Default)]
pub struct Files(RwLock<HashMap<String, (MediaFile, From)>>);

impl Files {
    /// Learns the files of a page.
    pub fn learn(&self, project: &Project, page: &Rendered) {
        let mut known = self.0.write().unwrap_or_else(PoisonError::into_inner);
        for (target, file) in &page.media {
            let layer = project.layer(file.layer);
            let from = match &file.text {
                Some(text) => Some(From::Bytes(text.as_bytes().to_vec())),
                None if layer.built_in => project.media(file.layer, &file.path).ok().map(From::Bytes),
                None => Some(From::Below(layer.root.clone(), file.path.clone())),
            };
            known.extend(from.map(|from| (target.clone(), (file.clone(), from))));
        }
    }

    /// A page with all files that any page refers to: of what one has told, its worker is silent on others.
    pub fn whole(&self, page: &Rendered) -> Rendered {
        let known = self.0.read().unwrap_or_else(PoisonError::into_inner);
        let mut whole = page.clone();
        whole.media = known.iter().map(|(target, (file, _))| (target.clone(), file.clone())).collect();
        whole
    }

    /// The bytes of a file; nothing where no page refers to it, or it is not there any more. No link leads out of the
    /// layer that it is in.
    pub fn read(&self, target: &str) -> Option<Vec<u8>> {
        let from = self.0.read().unwrap_or_else(PoisonError::into_inner).get(target)?.1.clone();
        match from {
            From::Bytes(bytes) => Some(bytes),
            From::Below(root, path) => {
                let root = root.canonicalize_utf8().ok()?;
                let whole = Utf8Path::new(&root).join(path).canonicalize_utf8().ok()?;
                whole.starts_with(&root).then(|| read_plain(&whole, LARGEST).ok())?
            }
        }
    }
}
