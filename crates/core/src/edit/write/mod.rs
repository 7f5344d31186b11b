//! The one place that writes: all files of a change, or none, also where the program is ended in the middle of it.
//!
//! A theme is [locked](Lock) while a command works on it, by a journal in the state folder of the user. Before
//! anything is changed, the journal has what each file holds and is to hold; the next command that writes finishes
//! what was begun, and one that only reads sees the files [as they would be then](left_over). Each new text is put
//! beside its file in full and then exchanged with it, and what comes out of the exchange is looked at: where it isn't
//! what had been read, somebody else has written in the meantime, and it goes back.

mod disk;
mod folder;
mod journal;
mod lock;
mod state;

use std::io;

use camino::{Utf8Component, Utf8Path, Utf8PathBuf};

use super::Change;
pub use disk::{Disk, RealDisk};
pub use folder::Folder;
use journal::{Entry, Record};
#[doc(hidden)]
pub use lock::readable as readable_journal;
pub use lock::{Left, LeftOver, Lock, left_over, left_over_in};
pub use state::state_folder;

/// Why nothing was written.
#[derive(Debug, thiserror::Error)]
#[non_exhaustive]
pub enum WriteError {
    /// The file is not any more what it was when it was read.
    #[error("{0} was changed by somebody else in the meantime; nothing was written")]
    Stale(String),
    /// The file is there already.
    #[error("{0} is there already; nothing was written")]
    Exists(String),
    /// The file must not be written.
    #[error("{0} is read-only; nothing was written")]
    ReadOnly(String),
    /// What is to be written is no plain file.
    #[error("{0} is no plain file; nothing was written")]
    NotPlain(String),
    /// The file lies outside of the theme, or behind a link that leads out of it.
    #[error("{0} leads out of the theme; nothing was written")]
    Outside(String),
    /// A part of the file's path begins with a dot, and is none of the program's own.
    #[error("{0} leads to a hidden file or folder, and those are never written; nothing was written")]
    Hidden(String),
    /// Another command is at work on the theme.
    #[error("another command is at work on this theme: {0}; nothing was written")]
    Busy(String),
    /// The system refused.
    #[error("{shown} can't be written: {error}; nothing was changed")]
    System {
        /// The file.
        shown: String,
        /// What the system said.
        error: io::Error,
    },
}

/// Writes all changes, or none, to a theme that is locked.
///
/// # Errors
/// Where a file was changed in the meantime, must not be written, or the system refuses.
pub fn write_all(lock: &mut Lock, changes: &[Change]) -> Result<(), WriteError> {
    let disk =
        RealDisk::open(lock.theme()).map_err(|error| WriteError::System { shown: lock.theme().to_string(), error })?;
    write_on(&disk, lock, changes)
}

/// As [`write_all`], on some disk.
///
/// # Errors
/// As for [`write_all`].
pub fn write_on(disk: &dyn Disk, lock: &mut Lock, changes: &[Change]) -> Result<(), WriteError> {
    let entries: Vec<Entry> = changes.iter().map(|change| entry(lock.theme(), change)).collect::<Result<_, _>>()?;
    let record = Record::new(entries);
    let system = |shown: &str, error| WriteError::System { shown: shown.to_string(), error };
    lock.note(disk, &record).map_err(|error| system("the journal", error))?;
    let outcome = carry_out(disk, &record);
    // What went wrong is undone; what went well needs no journal any more.
    match outcome {
        Ok(()) => record.clear_out(disk, lock.theme()),
        Err(_) => record.undo(disk),
    }
    record.clean(disk);
    lock.forget(disk);
    outcome
}

/// Puts all new texts beside their files, and then in their places.
fn carry_out(disk: &dyn Disk, record: &Record) -> Result<(), WriteError> {
    for folder in &record.folders {
        disk.make_folder(folder).map_err(|error| WriteError::System { shown: folder.to_string(), error })?;
    }
    for entry in &record.entries {
        entry.prepare(disk).map_err(|error| entry.failed(error))?;
    }
    record.entries.iter().try_for_each(|entry| entry.put(disk))
}

/// Writes one file that belongs to no theme, in one go.
///
/// # Errors
/// Where the system refuses, or something else than a plain file stands there.
pub fn save(path: &Utf8Path, bytes: &[u8]) -> Result<(), WriteError> {
    let system = |error| WriteError::System { shown: path.to_string(), error };
    match std::fs::symlink_metadata(path) {
        Ok(data) if !data.is_file() => return Err(WriteError::NotPlain(path.to_string())),
        _ => {}
    }
    let folder = path.parent().filter(|folder| !folder.as_str().is_empty()).unwrap_or(Utf8Path::new("."));
    let missing = missing_folders(folder);
    let written = std::fs::create_dir_all(folder).and_then(|()| {
        let mut file = tempfile::Builder::new();
        #[cfg(unix)]
        {
            use std::os::unix::fs::PermissionsExt;
            file.permissions(std::fs::Permissions::from_mode(0o666));
        }
        let mut file = file.prefix(".truehook-").tempfile_in(folder)?;
        io::Write::write_all(&mut file, bytes)?;
        if let Ok(data) = std::fs::metadata(path) {
            file.as_file().set_permissions(data.permissions())?;
        }
        file.persist(path).map(drop).map_err(|error| error.error)
    });
    written.map_err(|error| {
        missing.iter().rev().for_each(|folder| drop(std::fs::remove_dir(folder)));
        system(error)
    })
}

/// What is to become of one file, once it is certain that it may be written.
fn entry(theme: &Utf8Path, change: &Change) -> Result<Entry, WriteError> {
    let shown = change.shown.clone();
    let system = |error| WriteError::System { shown: shown.clone(), error };
    let there = match std::fs::symlink_metadata(&change.path) {
        Ok(data) => Some(data),
        Err(error) if error.kind() == io::ErrorKind::NotFound => None,
        Err(error) => return Err(system(error)),
    };
    let (target, in_place) = match (&there, &change.before) {
        (Some(_), None) => return Err(WriteError::Exists(shown)),
        (None, Some(_)) => return Err(WriteError::Stale(shown)),
        (None, None) => {
            // Links on the way to a new file are followed once, here.
            let Some(target) = resolved(&change.path).filter(|target| target.starts_with(theme)) else {
                return Err(WriteError::Outside(shown));
            };
            (target, false)
        }
        (Some(_), Some(before)) => {
            // A link keeps leading where it leads; the file behind it changes.
            let target = change.path.canonicalize_utf8().map_err(system)?;
            if !target.starts_with(theme) || change.after.is_none() && !is_inside(theme, &change.path) {
                return Err(WriteError::Outside(shown));
            }
            let data = std::fs::metadata(&target).map_err(system)?;
            if !data.is_file() {
                return Err(WriteError::NotPlain(shown));
            }
            if data.permissions().readonly() {
                return Err(WriteError::ReadOnly(shown));
            }
            if std::fs::read(&target).map_err(system)? != *before {
                return Err(WriteError::Stale(shown));
            }
            match change.after {
                // What goes is the name: a file's other names, and what a link leads to, stay.
                None => (resolved(&change.path).ok_or(WriteError::Outside(shown.clone()))?, false),
                Some(_) => (target, folder::has_several_names(&data) || !folder::can_be_given(&data)),
            }
        }
    };
    if has_hidden_part(theme, &target) {
        return Err(WriteError::Hidden(shown));
    }
    let link = (target != change.path).then(|| change.path.clone());
    Ok(Entry { path: target, link, shown, before: change.before.clone(), after: change.after.clone(), in_place })
}

/// Files and folders of the program's own in a theme whose names begin with a dot.
const OWN: [&str; 1] = [".truehook"];

/// Does a path below a theme's folder have a part that begins with a dot, and is none of the program's own? Such files
/// are other programs' to write, and some of those carry out what stands there.
fn has_hidden_part(theme: &Utf8Path, path: &Utf8Path) -> bool {
    let below = path.strip_prefix(theme).unwrap_or(path);
    below.components().any(|part| part.as_str().starts_with('.') && !OWN.contains(&part.as_str()))
}

/// May a path be written: does it lie in a theme's folder, with no link on the way and no hidden part?
fn may_be_written(theme: &Utf8Path, path: &Utf8Path) -> bool {
    is_inside(theme, path) && !has_hidden_part(theme, path) && resolved(path).is_some_and(|real| real == path)
}

/// A path with all links on the way to it followed, but not the last part; also where folders on the way are not there
/// yet.
fn resolved(path: &Utf8Path) -> Option<Utf8PathBuf> {
    let there = path.parent()?.ancestors().find_map(|part| Some((part, part.canonicalize_utf8().ok()?)));
    let (part, real) = there?;
    // What follows is not there, so it can hold no link; a link that leads nowhere is refused when it is opened.
    Some(real.join(path.strip_prefix(part).ok()?))
}

/// Does a path lie in a theme's folder, also where links on the way are followed?
fn is_inside(theme: &Utf8Path, path: &Utf8Path) -> bool {
    let plain = path.components().all(|part| !matches!(part, Utf8Component::ParentDir | Utf8Component::CurDir));
    let there = path.ancestors().find_map(|part| part.canonicalize_utf8().ok());
    plain && path.starts_with(theme) && there.is_some_and(|there| there.starts_with(theme))
}

/// The folders on the way to one that are not there yet, the outermost first.
fn missing_folders(folder: &Utf8Path) -> Vec<Utf8PathBuf> {
    let there = |folder: &&Utf8Path| !folder.as_str().is_empty() && !folder.exists();
    let mut missing: Vec<_> = folder.ancestors().take_while(there).map(Utf8Path::to_path_buf).collect();
    missing.reverse();
    missing
}
