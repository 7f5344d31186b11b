//! With Unix's handles of folders: each part of a path is opened by the handle of the one before it.

use std::os::fd::OwnedFd;
use std::os::unix::fs::MetadataExt;

use rustix::fs::{AtFlags, CWD, Gid, Mode, OFlags, Uid, fchown, mkdirat, openat, renameat, statat, unlinkat};
use rustix::io::Errno;

use super::{ErrorKind, File, Folder, Metadata, Utf8Path, io, refused};

const FOLDER: OFlags = OFlags::DIRECTORY.union(OFlags::CLOEXEC).union(OFlags::RDONLY);

impl Folder {
    /// Opens a folder. Links on the way to it are followed.
    ///
    /// # Errors
    /// Where there is none, or the system refuses.
    pub fn open(root: &Utf8Path) -> io::Result<Folder> {
        let root = root.canonicalize_utf8()?;
        let handle = openat(CWD, root.as_std_path(), FOLDER, Mode::empty())?;
        Ok(Folder { root, handle })
    }

    /// The folder of a file, and the file's name in it.
    fn parent<'p>(&self, path: &'p Utf8Path) -> io::Result<(OwnedFd, &'p str)> {
        let parts = self.parts(path)?;
        let (name, above) = parts.split_last().ok_or_else(|| refused(path))?;
        let mut folder = self.handle.try_clone()?;
        for part in above {
            folder = openat(&folder, *part, FOLDER | OFlags::NOFOLLOW, Mode::empty()).map_err(|error| match error {
                Errno::LOOP | Errno::NOTDIR => refused(path),
                error => error.into(),
            })?;
        }
        Ok((folder, name))
    }

    pub(super) fn open_file(&self, path: &Utf8Path, write: bool) -> io::Result<File> {
        let (folder, name) = self.parent(path)?;
        let access = if write { OFlags::WRONLY } else { OFlags::RDONLY };
        // A pipe is not waited for.
        let flags = access | OFlags::NOFOLLOW | OFlags::NONBLOCK | OFlags::CLOEXEC;
        let file = openat(&folder, name, flags, Mode::empty()).map_err(|error| match error {
            Errno::LOOP | Errno::NXIO => refused(path),
            error => error.into(),
        })?;
        Ok(File::from(file))
    }

    pub(super) fn create(&self, path: &Utf8Path) -> io::Result<File> {
        let (folder, name) = self.parent(path)?;
        let flags = OFlags::WRONLY | OFlags::CREATE | OFlags::EXCL | OFlags::NOFOLLOW | OFlags::CLOEXEC;
        Ok(File::from(openat(&folder, name, flags, Mode::from_raw_mode(0o666))?))
    }

    /// Makes a folder; one that is there is left as it is.
    ///
    /// # Errors
    /// Where something else stands there, or the system refuses.
    pub fn make_folder(&self, path: &Utf8Path) -> io::Result<()> {
        let (folder, name) = self.parent(path)?;
        match mkdirat(&folder, name, Mode::from_raw_mode(0o777)) {
            Err(Errno::EXIST) => match openat(&folder, name, FOLDER | OFlags::NOFOLLOW, Mode::empty()) {
                Ok(_) => Ok(()),
                Err(_) => Err(refused(path)),
            },
            made => Ok(made?),
        }
    }

    /// Removes a folder, if it is empty.
    ///
    /// # Errors
    /// Where it is not there, or not empty.
    pub fn remove_folder(&self, path: &Utf8Path) -> io::Result<()> {
        let (folder, name) = self.parent(path)?;
        Ok(unlinkat(&folder, name, AtFlags::REMOVEDIR)?)
    }

    /// Removes a file, or a link.
    ///
    /// # Errors
    /// Where it is not there.
    pub fn remove(&self, path: &Utf8Path) -> io::Result<()> {
        let (folder, name) = self.parent(path)?;
        Ok(unlinkat(&folder, name, AtFlags::empty())?)
    }

    /// Does anything have this name, a link also counted?
    pub fn has(&self, path: &Utf8Path) -> bool {
        self.parent(path).is_ok_and(|(folder, name)| statat(&folder, name, AtFlags::SYMLINK_NOFOLLOW).is_ok())
    }

    /// Gives a file another name, in the place of whatever file has it.
    ///
    /// # Errors
    /// Where the system refuses.
    pub fn rename(&self, from: &Utf8Path, to: &Utf8Path) -> io::Result<()> {
        let ((old, from), (new, to)) = (self.parent(from)?, self.parent(to)?);
        Ok(renameat(&old, from, &new, to)?)
    }

    /// Gives a file a name that nothing has.
    ///
    /// # Errors
    /// Where something has it.
    pub fn rename_new(&self, from: &Utf8Path, to: &Utf8Path) -> io::Result<()> {
        #[cfg(target_os = "linux")]
        {
            use rustix::fs::{RenameFlags, renameat_with};
            let ((old, from), (new, to)) = (self.parent(from)?, self.parent(to)?);
            match renameat_with(&old, from, &new, to, RenameFlags::NOREPLACE) {
                Err(Errno::INVAL | Errno::NOSYS) => {}
                named => return Ok(named?),
            }
        }
        if self.has(to) {
            return Err(ErrorKind::AlreadyExists.into());
        }
        self.rename(from, to)
    }

    /// Exchanges two files, and answers true. Where the system can't, the first takes the place of the second.
    ///
    /// # Errors
    /// Where the system refuses.
    pub fn exchange(&self, one: &Utf8Path, other: &Utf8Path) -> io::Result<bool> {
        #[cfg(target_os = "linux")]
        {
            use rustix::fs::{RenameFlags, renameat_with};
            let ((old, one), (new, other)) = (self.parent(one)?, self.parent(other)?);
            match renameat_with(&old, one, &new, other, RenameFlags::EXCHANGE) {
                Err(Errno::INVAL | Errno::NOSYS) => {}
                exchanged => return Ok(exchanged.map(|()| true)?),
            }
        }
        self.rename(one, other).map(|()| false)
    }

    /// Gives one file the mode and the owner of another.
    ///
    /// # Errors
    /// Where the system refuses.
    pub fn take_after(&self, path: &Utf8Path, model: &Utf8Path) -> io::Result<()> {
        let data = self.metadata(model)?;
        let file = self.open_file(path, true)?;
        let own = file.metadata()?;
        if (own.uid(), own.gid()) != (data.uid(), data.gid()) {
            fchown(&file, Some(Uid::from_raw(data.uid())), Some(Gid::from_raw(data.gid())))?;
        }
        file.set_permissions(data.permissions())
    }
}

/// Has a file other names, which would be left behind if it were exchanged?
pub fn has_several_names(data: &Metadata) -> bool {
    data.nlink() > 1
}

/// Could a new file be given the owner of this one?
pub fn can_be_given(data: &Metadata) -> bool {
    let own = rustix::process::geteuid();
    own.is_root() || own.as_raw() == data.uid()
}
