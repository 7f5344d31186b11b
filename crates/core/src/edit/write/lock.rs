//! One command at a time writes to a theme. What it is about to do is written down in the theme's journal, so that the
//! next one that writes can finish it.

use std::fs::{File, TryLockError};
use std::io::{self, Read, Seek, SeekFrom};
use std::time::{Duration, Instant};

use camino::{Utf8Path, Utf8PathBuf};
use serde::{Deserialize, Serialize};

use super::WriteError;
use super::disk::{Disk, RealDisk};
use super::folder::overwrite;
use super::journal::Record;
use super::state::{is_own, journal_path, make_journals, open_options, state_folder};
use crate::read::MemoryFiles;

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
    journal: Utf8PathBuf,
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
    /// A folder on the way to a file is a link by now, so nothing was done with it.
    Refused(String),
}

/// What a command that was ended has left to be done in a theme.
#[derive(Clone, Debug)]
pub struct LeftOver {
    /// The command, as it was typed.
    pub command: String,
    /// Files as they are once that is finished or undone.
    pub over: MemoryFiles,
    /// Files that are not there any more then.
    pub gone: Vec<Utf8PathBuf>,
}

fn failed(shown: &Utf8Path) -> impl Fn(io::Error) -> WriteError {
    move |error| WriteError::System { shown: shown.to_string(), error }
}

impl Lock {
    /// Locks a theme for a command. Where another command has it, this waits for it. What one before it left begun
    /// is finished first.
    ///
    /// # Errors
    /// Where the other takes too long, or the system refuses.
    pub fn take(theme: &Utf8Path, command: &str) -> Result<(Lock, Left), WriteError> {
        let state = state_folder().map_err(failed("the journal".into()))?;
        Lock::take_in(&state, theme, command)
    }

    /// As [`take`](Lock::take), with the journal in a state folder that the caller names.
    ///
    /// # Errors
    /// As for [`take`](Lock::take).
    pub fn take_in(state: &Utf8Path, theme: &Utf8Path, command: &str) -> Result<(Lock, Left), WriteError> {
        let theme = theme.canonicalize_utf8().map_err(failed(theme))?;
        let journal = journal_path(state, &theme).map_err(failed(&theme))?;
        make_journals(&journal).map_err(failed(&journal))?;
        let begun = Instant::now();
        loop {
            let file = open_options().write(true).create(true).truncate(false).open(&journal);
            let mut file = file.map_err(failed(&journal))?;
            if !is_own(&file) {
                return Err(WriteError::NotPlain(journal.to_string()));
            }
            match file.try_lock() {
                Ok(()) if !is_at(&file, &journal) => {}
                Ok(()) => {
                    let left = resume(&theme, &mut file).map_err(failed(&theme))?;
                    let lock = Lock { theme, journal, command: command.to_string(), file, kept: false };
                    lock.write(&overwrite, None).map_err(failed(&lock.journal))?;
                    return Ok((lock, left));
                }
                Err(TryLockError::WouldBlock) if begun.elapsed() > PATIENCE => {
                    return Err(WriteError::Busy(holder(&mut file)));
                }
                Err(TryLockError::WouldBlock) => std::thread::sleep(LOOK),
                Err(TryLockError::Error(error)) => return Err(failed(&journal)(error)),
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
        self.write(&|file, bytes| disk.overwrite(file, bytes), Some(record))?;
        self.kept = true;
        Ok(())
    }

    /// It is done, or undone.
    pub(super) fn forget(&mut self, disk: &dyn Disk) {
        // Where this can't be written down, the next command looks at what there is, and finds it done.
        self.kept = self.write(&|file, bytes| disk.overwrite(file, bytes), None).is_err();
    }

    fn write(&self, over: &dyn Fn(&File, &[u8]) -> io::Result<()>, record: Option<&Record>) -> io::Result<()> {
        let (process, command) = (std::process::id(), self.command.clone());
        let page = Page { process, command, record: record.map(|record| record.below(&self.theme)) };
        let text = serde_json::to_string(&page)?;
        // The last line tells that all before it is there.
        over(&self.file, format!("{text}\nall\n").as_bytes())
    }
}

impl Drop for Lock {
    fn drop(&mut self) {
        if !self.kept {
            drop(std::fs::remove_file(&self.journal));
        }
    }
}

/// What a command that was ended has left to be done in a theme, for one that only reads; nothing where there is
/// nothing. Where a command is at work, this waits for it. Nothing is written.
///
/// # Errors
/// Where the other takes too long.
pub fn left_over(theme: &Utf8Path) -> Result<Option<LeftOver>, WriteError> {
    match state_folder() {
        Ok(state) => left_over_in(&state, theme),
        Err(_) => Ok(None),
    }
}

/// As [`left_over`], with the journal in a state folder that the caller names.
///
/// # Errors
/// As for [`left_over`].
pub fn left_over_in(state: &Utf8Path, theme: &Utf8Path) -> Result<Option<LeftOver>, WriteError> {
    let Ok(theme) = theme.canonicalize_utf8() else { return Ok(None) };
    let begun = Instant::now();
    loop {
        let journal = journal_path(state, &theme).map_err(failed(&theme))?;
        let Some(mut file) = open_options().open(&journal).ok().filter(is_own) else { return Ok(None) };
        match file.try_lock_shared() {
            Ok(()) => {
                let Some(Page { command, record: Some(record), .. }) = read(&mut file) else { return Ok(None) };
                let Some(record) = record.within(&theme) else { return Ok(None) };
                let disk = RealDisk::open(&theme).map_err(failed(&theme))?;
                let (over, gone) = record.pending(&disk);
                return Ok(Some(LeftOver { command, over, gone }));
            }
            Err(TryLockError::WouldBlock) if begun.elapsed() > PATIENCE => {
                return Err(WriteError::Busy(holder(&mut file)));
            }
            Err(TryLockError::WouldBlock) => std::thread::sleep(LOOK),
            Err(TryLockError::Error(_)) => return Ok(None),
        }
    }
}

/// Is an open file still the one of that path? Whoever had it before may have taken it away.
fn is_at(file: &File, path: &Utf8Path) -> bool {
    let own = file.try_clone().and_then(same_file::Handle::from_file);
    own.and_then(|own| Ok(own == same_file::Handle::from_path(path)?)).unwrap_or(false)
}

fn read(file: &mut File) -> Option<Page> {
    let mut bytes = Vec::new();
    file.seek(SeekFrom::Start(0)).ok()?;
    file.read_to_end(&mut bytes).ok()?;
    page_of(&bytes)
}

/// What a journal says. The last line tells that all before it is there.
fn page_of(bytes: &[u8]) -> Option<Page> {
    serde_json::from_slice(bytes.strip_suffix(b"\nall\n")?).ok()
}

/// Can bytes be read as a journal whose paths may all be written in a theme? For tests with any bytes.
pub fn readable(bytes: &[u8], theme: &Utf8Path) -> bool {
    let record = page_of(bytes).and_then(|page| page.record);
    record.is_some_and(|record| record.within(theme).is_some())
}

/// Goes on with what a journal holds. One that was not written to its end was not begun.
fn resume(theme: &Utf8Path, file: &mut File) -> io::Result<Left> {
    let Some(Page { command, record: Some(record), .. }) = read(file) else { return Ok(Left::Nothing) };
    let Some(record) = record.within(theme) else { return Ok(Left::Refused(command)) };
    match record.resume(&RealDisk::open(theme)?, theme) {
        true => Ok(Left::Finished(command)),
        false => Ok(Left::Undone(command)),
    }
}

/// Who holds a lock, in words for people.
fn holder(file: &mut File) -> String {
    match read(file) {
        Some(page) => format!("`truehook {}`, process {}", page.command, page.process),
        None => "it does not say which".into(),
    }
}
