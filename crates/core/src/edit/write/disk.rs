//! What the disk is asked to do, step by step. Tests end it in the middle of any of them.

use std::fs::File;
use std::io;

use camino::Utf8Path;

use super::folder::{self, Folder};

/// A theme's folder on a disk. Each method is one step, which happens or doesn't. Paths are absolute and below the
/// folder; none is followed where a part of it is a link.
pub trait Disk {
    /// Makes a folder; one that is there is left as it is.
    ///
    /// # Errors
    /// Where the system refuses, as in all others.
    fn make_folder(&self, path: &Utf8Path) -> io::Result<()>;
    /// Removes a folder, if it is empty.
    ///
    /// # Errors
    /// Where it is not there, or not empty.
    fn remove_folder(&self, path: &Utf8Path) -> io::Result<()>;
    /// Replaces the file or link at a path by a new file, and waits until the new one is on the disk.
    ///
    /// # Errors
    /// Where the system refuses.
    fn write(&self, path: &Utf8Path, bytes: &[u8]) -> io::Result<()>;
    /// Opens a file to be overwritten.
    ///
    /// # Errors
    /// Where it is not there, or no plain file.
    fn open_to_write(&self, path: &Utf8Path) -> io::Result<File>;
    /// Writes over an open file, and waits until that is on the disk.
    ///
    /// # Errors
    /// Where the system refuses.
    fn overwrite(&self, file: &File, bytes: &[u8]) -> io::Result<()>;
    /// Gives one file the mode and the owner of another.
    ///
    /// # Errors
    /// Where the system refuses.
    fn take_after(&self, path: &Utf8Path, model: &Utf8Path) -> io::Result<()>;
    /// Exchanges two files, and answers true. Where the system can't, the first takes the place of the second.
    ///
    /// # Errors
    /// Where the system refuses.
    fn exchange(&self, one: &Utf8Path, other: &Utf8Path) -> io::Result<bool>;
    /// Gives a file a name that nothing has.
    ///
    /// # Errors
    /// Where something has it.
    fn name(&self, from: &Utf8Path, to: &Utf8Path) -> io::Result<()>;
    /// Removes a file.
    ///
    /// # Errors
    /// Where it is not there.
    fn remove(&self, path: &Utf8Path) -> io::Result<()>;
    /// The bytes of a plain file; nothing where there is none.
    fn read(&self, path: &Utf8Path) -> Option<Vec<u8>>;
}

/// The disk of this machine.
#[derive(Debug)]
pub struct RealDisk(Folder);

impl RealDisk {
    /// A theme's folder on it.
    ///
    /// # Errors
    /// Where there is no such folder.
    pub fn open(theme: &Utf8Path) -> io::Result<RealDisk> {
        Folder::open(theme).map(RealDisk)
    }
}

impl Disk for RealDisk {
    fn make_folder(&self, path: &Utf8Path) -> io::Result<()> {
        self.0.make_folder(path)
    }

    fn remove_folder(&self, path: &Utf8Path) -> io::Result<()> {
        self.0.remove_folder(path)
    }

    fn write(&self, path: &Utf8Path, bytes: &[u8]) -> io::Result<()> {
        self.0.write(path, bytes, true)
    }

    fn open_to_write(&self, path: &Utf8Path) -> io::Result<File> {
        self.0.open_to_write(path)
    }

    fn overwrite(&self, file: &File, bytes: &[u8]) -> io::Result<()> {
        folder::overwrite(file, bytes)
    }

    fn take_after(&self, path: &Utf8Path, model: &Utf8Path) -> io::Result<()> {
        self.0.take_after(path, model)
    }

    fn exchange(&self, one: &Utf8Path, other: &Utf8Path) -> io::Result<bool> {
        self.0.exchange(one, other)
    }

    fn name(&self, from: &Utf8Path, to: &Utf8Path) -> io::Result<()> {
        self.0.rename_new(from, to)
    }

    fn remove(&self, path: &Utf8Path) -> io::Result<()> {
        self.0.remove(path)
    }

    fn read(&self, path: &Utf8Path) -> Option<Vec<u8>> {
        self.0.read(path).ok()
    }
}
