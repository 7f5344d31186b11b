//! Files by the addresses that editors give them.

use std::str::FromStr;

use camino::{Utf8Path, Utf8PathBuf};
use lsp_types::Uri;
use url::Url;

/// The path of a file that an editor names: its folder by its one true path. Nothing where it is no file of this
/// machine.
pub fn path_of(uri: &Uri) -> Option<Utf8PathBuf> {
    let url = Url::parse(uri.as_str()).ok().filter(|url| url.scheme() == "file")?;
    let path = Utf8PathBuf::from_path_buf(url.to_file_path().ok()?).ok()?;
    Some(true_path(&path))
}

/// A path whose folder is the true one, also where neither is there yet.
pub fn true_path(path: &Utf8Path) -> Utf8PathBuf {
    for folder in path.ancestors().skip(1) {
        if let (Ok(folder), Ok(rest)) = (folder.canonicalize_utf8(), path.strip_prefix(folder)) {
            return folder.join(rest);
        }
    }
    path.to_path_buf()
}

/// The address of a file.
pub fn uri_of(path: &Utf8Path) -> Option<Uri> {
    Uri::from_str(Url::from_file_path(path).ok()?.as_str()).ok()
}
