//! The one place that writes: all files of a change, or none.

use std::fs;
use std::io::{self, Write};

use camino::Utf8Path;
use tempfile::NamedTempFile;

use super::Change;

/// Why nothing was written.
#[derive(Debug, thiserror::Error)]
pub enum WriteError {
    /// The file is not any more what it was when it was read.
    #[error("{0} was changed by somebody else in the meantime; nothing was written")]
    Stale(String),
    /// The file is there already.
    #[error("{0} is there already; nothing was written")]
    Exists(String),
    /// The system refused.
    #[error("{shown} can't be written: {error}; nothing was changed")]
    System {
        /// The file.
        shown: String,
        /// What the system said.
        error: io::Error,
    },
}

/// Writes all changes, or none. Each new text is first put beside its file, in full; only when all
/// of them lie there do they take their places, and if one can't, those before it go back.
///
/// # Errors
/// Where a file was changed in the meantime, or the system refuses.
pub fn write_all(changes: &[Change]) -> Result<(), WriteError> {
    let mut ready = Vec::new();
    let mut folders = Vec::new();
    for change in changes {
        let system = |error| WriteError::System { shown: change.shown.clone(), error };
        check_unchanged(change)?;
        // A link keeps leading where it leads; the file behind it changes.
        let target = change.path.canonicalize_utf8().unwrap_or_else(|_| change.path.clone());
        let folder = target.parent().unwrap_or(Utf8Path::new("."));
        folders.extend(missing_folders(folder));
        fs::create_dir_all(folder).map_err(system)?;
        let mut file = NamedTempFile::new_in(folder).map_err(system)?;
        file.write_all(&change.after).and_then(|()| file.as_file().sync_all()).map_err(system)?;
        keep_permissions(&target, &file).map_err(system)?;
        ready.push((change, target, file));
    }
    let mut written: Vec<&Change> = Vec::new();
    for (change, target, file) in ready {
        match file.persist(&target) {
            Ok(_) => written.push(change),
            Err(error) => {
                for change in written {
                    // The best that can be done is to try; the error tells what is at stake.
                    let _ = match &change.before {
                        Some(before) => fs::write(&change.path, before),
                        None => fs::remove_file(&change.path),
                    };
                }
                folders.iter().rev().for_each(|folder| {
                    let _ = fs::remove_dir(folder);
                });
                return Err(WriteError::System { shown: change.shown.clone(), error: error.error });
            }
        }
    }
    Ok(())
}

fn check_unchanged(change: &Change) -> Result<(), WriteError> {
    let now = fs::read(&change.path).ok();
    match (&change.before, now) {
        (None, Some(_)) => Err(WriteError::Exists(change.shown.clone())),
        (Some(before), Some(now)) if *before == now => Ok(()),
        (Some(_), _) => Err(WriteError::Stale(change.shown.clone())),
        (None, None) => Ok(()),
    }
}

/// The folders on the way to one that are not there yet, the outermost first.
fn missing_folders(folder: &Utf8Path) -> Vec<camino::Utf8PathBuf> {
    let mut missing: Vec<_> =
        folder.ancestors().take_while(|folder| !folder.exists()).map(Utf8Path::to_path_buf).collect();
    missing.reverse();
    missing
}

/// A new text keeps the permissions of the file that it replaces; a new file gets the usual ones.
fn keep_permissions(target: &Utf8Path, file: &NamedTempFile) -> io::Result<()> {
    let permissions = match fs::metadata(target) {
        Ok(data) => data.permissions(),
        Err(_) => {
            #[cfg(unix)]
            {
                use std::os::unix::fs::PermissionsExt;
                fs::Permissions::from_mode(0o644)
            }
            #[cfg(not(unix))]
            {
                return Ok(());
            }
        }
    };
    fs::set_permissions(file.path(), permissions)
}
