//! Changes of files, as they settle: told once for all that is written in one go.

use std::collections::BTreeSet;
use std::path::{Path, PathBuf};
use std::sync::mpsc::{Receiver, RecvTimeoutError, channel};
use std::time::{Duration, Instant};

use camino::{Utf8Path, Utf8PathBuf};
use notify::event::{AccessKind, AccessMode, CreateKind, ModifyKind};
use notify::{Event, EventKind, RecommendedWatcher, RecursiveMode, Watcher};

/// How long it is quiet after the last change of those that come in one go.
const QUIET: Duration = Duration::from_millis(3);
/// How long a file may stay open after something was written into it. Not every system tells that one is closed.
const OPEN: Duration = Duration::from_millis(20);
/// How long changes that never end are waited for.
const LONGEST: Duration = Duration::from_millis(200);

/// Why nothing can be watched.
#[derive(Debug, thiserror::Error)]
#[non_exhaustive]
pub enum WatchError {
    /// The system has no way to tell.
    #[error("the system can't tell when files change: {0}")]
    System(notify::Error),
    /// A folder is not there, or there are too many of them.
    #[error("{0} can't be watched: {1}")]
    Folder(Utf8PathBuf, notify::Error),
}

/// Watches folders.
pub struct Changes {
    watcher: RecommendedWatcher,
    events: Receiver<(Instant, notify::Result<Event>)>,
    folders: BTreeSet<Utf8PathBuf>,
    parents: BTreeSet<Utf8PathBuf>,
}

/// That no more changes can come.
#[derive(Clone, Copy, Debug, PartialEq, Eq, thiserror::Error)]
#[error("no more changes can come")]
pub struct Over;

/// What has changed in one go.
pub struct Change {
    /// When the first of it did.
    pub begun: Instant,
    /// Which files and folders; nothing where there was too much of it to be told.
    pub paths: Option<BTreeSet<Utf8PathBuf>>,
}

impl Changes {
    /// Watches no folder yet.
    ///
    /// # Errors
    /// Where the system can't tell when files change.
    pub fn new() -> Result<Changes, WatchError> {
        let (send, events) = channel();
        let heard = move |event| drop(send.send((Instant::now(), event)));
        let watcher = notify::recommended_watcher(heard).map_err(WatchError::System)?;
        Ok(Changes { watcher, events, folders: BTreeSet::new(), parents: BTreeSet::new() })
    }

    /// Watches a folder with all in it. Answers whether it is a new one.
    ///
    /// # Errors
    /// Where it is not there, or can't be watched.
    pub fn watch(&mut self, folder: &Utf8Path) -> Result<bool, WatchError> {
        if self.folders.contains(folder) {
            return Ok(false);
        }
        let watched = self.watcher.watch(folder.as_std_path(), RecursiveMode::Recursive);
        watched.map_err(|error| WatchError::Folder(folder.to_path_buf(), error))?;
        Ok(self.folders.insert(folder.to_path_buf()))
    }

    /// Watches the folder that a folder lies in, but nothing else in it: there it shows where that one comes and goes.
    /// Answers whether it is a new one.
    ///
    /// # Errors
    /// Where it is not there, or can't be watched.
    pub fn watch_parent(&mut self, folder: &Utf8Path) -> Result<bool, WatchError> {
        let Some(parent) = folder.parent().filter(|parent| !self.parents.contains(*parent)) else { return Ok(false) };
        let watched = self.watcher.watch(parent.as_std_path(), RecursiveMode::NonRecursive);
        watched.map_err(|error| WatchError::Folder(parent.to_path_buf(), error))?;
        Ok(self.parents.insert(parent.to_path_buf()))
    }

    /// Waits until something has changed, and nothing more does for a moment. Nothing where no more can come.
    pub fn wait(&mut self) -> Option<Change> {
        loop {
            match self.wait_for(Duration::from_secs(3600)) {
                Ok(Some(change)) => return Some(change),
                Ok(None) => {}
                Err(Over) => return None,
            }
        }
    }

    /// As [`wait`](Changes::wait), but for so long at most; nothing where nothing has changed until then.
    ///
    /// # Errors
    /// Where no more can come.
    pub fn wait_for(&mut self, longest: Duration) -> Result<Option<Change>, Over> {
        let mut settling = Settling::default();
        let mut begun = None;
        let asked = Instant::now();
        loop {
            let waited = match begun {
                None => self.events.recv_timeout(longest.saturating_sub(asked.elapsed())),
                Some(_) => self.events.recv_timeout(if settling.open.is_empty() { QUIET } else { OPEN }),
            };
            match waited {
                Ok((at, event)) => begun = begun.or(settling.hear(event).then_some(at)),
                Err(RecvTimeoutError::Timeout) => break,
                Err(RecvTimeoutError::Disconnected) => return Err(Over),
            }
            if begun.is_some_and(|begun: Instant| begun.elapsed() > LONGEST) {
                break;
            }
        }
        let Some(begun) = begun else { return Ok(None) };
        // What is gone is not watched any more, also where it comes back.
        self.folders.retain(|folder| folder.is_dir());
        let paths = settling.changed.into_iter().filter_map(|path| Utf8PathBuf::from_path_buf(path).ok());
        Ok(Some(Change { begun, paths: (!settling.lost).then(|| paths.collect()) }))
    }
}

/// Changes that may not have come to their end.
#[derive(Default)]
struct Settling {
    changed: BTreeSet<PathBuf>,
    /// Files that are being written.
    open: BTreeSet<PathBuf>,
    /// Was there too much to be told?
    lost: bool,
}

impl Settling {
    /// Takes note of an event. Answers whether it is a change.
    fn hear(&mut self, event: notify::Result<Event>) -> bool {
        let Ok(event) = event else {
            self.lost = true;
            return true;
        };
        if event.need_rescan() {
            self.lost = true;
            return true;
        }
        let opens = match event.kind {
            // Who checks reads files, which is no change of them.
            EventKind::Access(AccessKind::Close(AccessMode::Write)) => false,
            EventKind::Access(_) => return false,
            EventKind::Create(kind) => kind == CreateKind::File,
            EventKind::Modify(kind) => matches!(kind, ModifyKind::Data(_) | ModifyKind::Any),
            _ => false,
        };
        for path in event.paths {
            self.note(&path, opens);
        }
        true
    }

    fn note(&mut self, path: &Path, opens: bool) {
        self.changed.insert(path.to_path_buf());
        match opens {
            true => self.open.insert(path.to_path_buf()),
            false => self.open.remove(path),
        };
    }
}
