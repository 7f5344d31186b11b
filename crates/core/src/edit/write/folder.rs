//! A folder that is held open. Each path below it is opened part by part, and no part may be a symbolic link: a folder
//! that somebody exchanges for a link in the middle of a command leads nowhere.

#[cfg(unix)]
mod handles;
#[cfg(not(unix))]
mod paths;

use std::fs::{File, Metadata};
use std::io::{self, ErrorKind, Read, Seek, SeekFrom, Write};

use camino::{Utf8Component, Utf8Path, Utf8PathBuf};

#[cfg(unix)]
pub use handles::{can_be_given, has_several_names};
#[cfg(not(unix))]
pub use paths::{can_be_given, has_several_names};

/// A folder on the disk. All paths of its methods are relative to it, or absolute and below it.
#[derive(Debug)]
pub struct Folder {
    root: Utf8PathBuf,
    #[cfg(unix)]
    handle: std::os::fd::OwnedFd,
}

/// The error for a path that leaves the folder, or that has a link where a file or folder belongs.
fn refused(path: &Utf8Path) -> io::Error {
    io::Error::new(ErrorKind::InvalidInput, format!("{path} leads through a link, or out of the folder"))
}

impl Folder {
    /// The path of the folder itself.
    pub fn root(&self) -> &Utf8Path {
        &self.root
    }

    /// The parts of a path below the folder.
    fn parts<'p>(&self, path: &'p Utf8Path) -> io::Result<Vec<&'p str>> {
        let below = if path.is_absolute() { path.strip_prefix(&self.root).map_err(|_| refused(path))? } else { path };
        let part = |part: Utf8Component<'p>| match part {
            Utf8Component::Normal(name) => Ok(name),
            _ => Err(refused(path)),
        };
        below.components().map(part).collect()
    }

    /// The bytes of a plain file.
    ///
    /// # Errors
    /// Where there is none, it is no plain file, or the system refuses.
    pub fn read(&self, path: &Utf8Path) -> io::Result<Vec<u8>> {
        let mut bytes = Vec::new();
        self.open_plain(path, false)?.0.read_to_end(&mut bytes)?;
        Ok(bytes)
    }

    /// Opens a plain file to be overwritten.
    ///
    /// # Errors
    /// As for [`read`](Folder::read).
    pub fn open_to_write(&self, path: &Utf8Path) -> io::Result<File> {
        Ok(self.open_plain(path, true)?.0)
    }

    /// What the system knows of a plain file.
    ///
    /// # Errors
    /// As for [`read`](Folder::read).
    pub fn metadata(&self, path: &Utf8Path) -> io::Result<Metadata> {
        Ok(self.open_plain(path, false)?.1)
    }

    fn open_plain(&self, path: &Utf8Path, write: bool) -> io::Result<(File, Metadata)> {
        let file = self.open_file(path, write)?;
        let data = file.metadata()?;
        match data.is_file() {
            true => Ok((file, data)),
            false => Err(refused(path)),
        }
    }

    /// Replaces the file or link at a path by a new file. With `wait`, it returns once the new one is on the disk.
    ///
    /// # Errors
    /// Where a folder stands there, or the system refuses.
    pub fn write(&self, path: &Utf8Path, bytes: &[u8], wait: bool) -> io::Result<()> {
        match self.remove(path) {
            Err(error) if error.kind() != ErrorKind::NotFound => return Err(error),
            _ => {}
        }
        let mut file = self.create(path)?;
        file.write_all(bytes)?;
        if wait { file.sync_all() } else { Ok(()) }
    }

    /// Makes all folders on the way to a file.
    ///
    /// # Errors
    /// Where the system refuses.
    pub fn make_parents(&self, path: &Utf8Path) -> io::Result<()> {
        let parts = self.parts(path)?;
        let mut folder = Utf8PathBuf::new();
        for part in parts.iter().take(parts.len().saturating_sub(1)) {
            folder.push(part);
            self.make_folder(&folder)?;
        }
        Ok(())
    }
}

/// Writes over an open file, and waits until that is on the disk.
///
/// # Errors
/// Where the system refuses.
pub fn overwrite(mut file: &File, bytes: &[u8]) -> io::Result<()> {
    file.seek(SeekFrom::Start(0))?;
    file.write_all(bytes)?;
    file.set_len(bytes.len() as u64)?;
    file.sync_all()
}
