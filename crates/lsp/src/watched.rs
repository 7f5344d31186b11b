//! Changes on the disk, where the editor doesn't tell of them.

use std::collections::BTreeSet;
use std::thread;
use std::time::Duration;

use camino::Utf8PathBuf;
use crossbeam_channel::{Receiver, Sender, unbounded};
use truehook_changes::{Change, Changes};

/// Watches folders in a thread of its own.
pub struct Watched {
    /// What has changed.
    pub changes: Receiver<Change>,
    folders: Sender<Utf8PathBuf>,
    known: BTreeSet<Utf8PathBuf>,
}

impl Watched {
    /// Nothing where the system can't tell.
    pub fn begin() -> Option<Watched> {
        let mut changes = Changes::new().ok()?;
        let (send, receive) = unbounded();
        let (folders, asked) = unbounded::<Utf8PathBuf>();
        thread::Builder::new()
            .name("changes".into())
            .spawn(move || {
                loop {
                    while let Ok(folder) = asked.try_recv() {
                        // A folder that is gone can't be watched, and there is nothing in it.
                        drop(changes.watch(&folder));
                    }
                    match changes.wait_for(Duration::from_millis(200)) {
                        Ok(None) => {}
                        Ok(Some(change)) => {
                            if send.send(change).is_err() {
                                return;
                            }
                        }
                        Err(_) => return,
                    }
                }
            })
            .ok()?;
        Some(Watched { changes: receive, folders, known: BTreeSet::new() })
    }

    /// Watches a folder, too.
    pub fn watch(&mut self, folder: Utf8PathBuf) {
        if self.known.insert(folder.clone()) {
            drop(self.folders.send(folder));
        }
    }
}
