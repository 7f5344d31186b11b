//! The lock on a theme: its journal. Whoever has it is the only one who writes there.

use std::fs::{File, OpenOptions, TryLockError};
use std::io::{self, ErrorKind, Read, Seek, SeekFrom};
use std::time::{Duration, Instant};

use camino::{Utf8Path, Utf8PathBuf};
use serde::{Deserialize, Serialize};

use super::WriteError;
use super::disk::{Disk, RealDisk};
use super::journal::Record;
use crate::read::read_plain;

/// The name of the journal, beside the manifest.
pub const JOURNAL: &str = ".truehook-journal";
/// How long somebody who comes second waits.
const PATIENCE: Duration = Duration::from_secs(10);
/// How often they look.
const LOOK: Duration = Duration::from_millis(15);

/// Who holds a lock, and what they are doing.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
struct Page {
    process: u32,
    command: String,
    /// What is being done; nothing before it is begun.
    record: Option<Record>,
}

/// A theme that is locked. It is free again when this goes.
#[derive(Debug)]
pub struct Lock {
    theme: Utf8PathBuf,
    command: String,
    file: File,
    /// Does the journal hold what was begun and could not be undone?
    kept: bool,
}

/// What became of what another command had begun.
#[derive(Clone, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub enum Left {
    /// There was nothing.
    Nothing,
    /// It was finished.
    Finished(String),
    /// It was undone, since somebody had written in the meantime.
    Undone(String),
    /// It names files outside of the theme. No command of ours writes such a thing, so nothing was done with it.
    Foreign,
    /// It is still there: the folder can't be written.
    There,
}

impl Lock {
    /// Locks a theme for a command. Where another command has it, this waits for it. What one before it left begun
    /// is finished first.
    ///
    /// # Errors
    /// Where the other takes too long, or the system refuses.
    pub fn take(theme: &Utf8Path, command: &str) -> Result<(Lock, Left), WriteError> {
        let system = |error| WriteError::System { shown: JOURNAL.to_string(), error };
        let theme = theme.canonicalize_utf8().map_err(system)?;
        let path = theme.join(JOURNAL);
        let begun = Instant::now();
        loop {
            // A link, or a pipe, of that name is not ours.
            if std::fs::symlink_metadata(&path).is_ok_and(|data| !data.is_file()) {
                return Err(WriteError::NotPlain(JOURNAL.to_string()));
            }
            let open = OpenOptions::new().read(true).write(true).create(true).truncate(false).open(&path);
            let mut file = open.map_err(system)?;
            match file.try_lock() {
                Ok(()) if !is_at(&file, &path) => {}
                Ok(()) => {
                    let left = resume(&theme, &mut file);
                    let lock = Lock { theme: theme.clone(), command: command.to_string(), file, kept: false };
                    lock.write(&RealDisk, None).map_err(system)?;
                    return Ok((lock, left));
                }
                Err(TryLockError::WouldBlock) if begun.elapsed() > PATIENCE => {
                    return Err(WriteError::Busy(holder(&mut file)));
                }
                Err(TryLockError::WouldBlock) => std::thread::sleep(LOOK),
                Err(TryLockError::Error(error)) => return Err(system(error)),
            }
        }
    }

    /// Leaves the journal as it is, for the next command to look at.
    pub fn leave(mut self) {
        self.kept = true;
    }

    /// The theme's folder.
    pub fn theme(&self) -> &Utf8Path {
        &self.theme
    }

    /// Writes down what is about to be done.
    pub(super) fn note(&mut self, disk: &dyn Disk, record: &Record) -> io::Result<()> {
        self.write(disk, Some(record))?;
        self.kept = true;
        Ok(())
    }

    /// It is done, or undone.
    pub(super) fn forget(&mut self, disk: &dyn Disk) {
        // Where this can't be written down, the next command looks at what there is, and finds it done.
        self.kept = self.write(disk, None).is_err();
    }

    fn write(&self, disk: &dyn Disk, record: Option<&Record>) -> io::Result<()> {
        let (process, command) = (std::process::id(), self.command.clone());
        let page = Page { process, command, record: record.map(|record| record.below(&self.theme)) };
        let text = serde_json::to_string(&page)?;
        // The last line tells that all before it is there.
        disk.overwrite(&self.file, &format!("{text}\nall\n"))
    }
}

impl Drop for Lock {
    fn drop(&mut self) {
        if !self.kept {
            drop(std::fs::remove_file(self.theme.join(JOURNAL)));
        }
    }
}

/// Finishes, or undoes, what a command that was ended left in a theme. Where one is at work, this waits for it.
///
/// # Errors
/// Where the other takes too long.
pub fn settle(theme: &Utf8Path) -> Result<Left, WriteError> {
    let path = theme.join(JOURNAL);
    if std::fs::symlink_metadata(&path).is_err() {
        return Ok(Left::Nothing);
    }
    match Lock::take(theme, "look") {
        Ok((_, left)) => Ok(left),
        Err(WriteError::System { error, .. })
            if matches!(error.kind(), ErrorKind::PermissionDenied | ErrorKind::ReadOnlyFilesystem) =>
        {
            Ok(Left::There)
        }
        Err(error) => Err(error),
    }
}

/// Does this very process hold the lock on a theme?
pub fn is_locked_here(theme: &Utf8Path) -> bool {
    let bytes = read_plain(&theme.join(JOURNAL), u64::MAX - 1).ok();
    let page = bytes.and_then(|bytes| page_of(std::str::from_utf8(&bytes).ok()?));
    page.is_some_and(|page| page.process == std::process::id())
}

/// Is an open file still the one of that path? Whoever had it before may have taken it away.
fn is_at(file: &File, path: &Utf8Path) -> bool {
    let own = file.try_clone().and_then(same_file::Handle::from_file);
    own.and_then(|own| Ok(own == same_file::Handle::from_path(path)?)).unwrap_or(false)
}

fn read(file: &mut File) -> Option<Page> {
    let mut text = String::new();
    file.seek(SeekFrom::Start(0)).ok()?;
    file.read_to_string(&mut text).ok()?;
    page_of(&text)
}

/// What a journal says. The last line tells that all before it is there.
fn page_of(text: &str) -> Option<Page> {
    serde_json::from_str(text.strip_suffix("\nall\n")?).ok()
}

/// Goes on with what a journal holds. One that was not written to its end was not begun.
fn resume(theme: &Utf8Path, file: &mut File) -> Left {
    let Some(Page { command, record: Some(record), .. }) = read(file) else { return Left::Nothing };
    let Some(record) = record.within(theme) else { return Left::Foreign };
    match record.resume(&RealDisk, theme) {
        true => Left::Finished(command),
        false => Left::Undone(command),
    }
}

/// Who holds a lock, in words for people.
fn holder(file: &mut File) -> String {
    match read(file) {
        Some(page) => format!("`truehook {}`, process {}", page.command, page.process),
        None => "it does not say which".into(),
    }
}
