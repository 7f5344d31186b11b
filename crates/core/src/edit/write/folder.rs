//! A folder that is held open. Each path below it is opened part by part, and no part may be a symbolic link: a folder
//! that somebody exchanges for a link in the middle of a command leads nowhere.

use std::fs::{File, Metadata};
use std::io::{self, ErrorKind, Read, Seek, SeekFrom, Write};

use camino::{Utf8Component, Utf8Path, Utf8PathBuf};

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

    /// Writes a new file in the place of whatever file or link stands there. Where `wait`, it is on the disk then.
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

#[cfg(unix)]
mod system {
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
                folder =
                    openat(&folder, *part, FOLDER | OFlags::NOFOLLOW, Mode::empty()).map_err(|error| match error {
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
}

/// Without handles of folders: each path is looked at for links right before it is used.
#[cfg(not(unix))]
mod system {
    use std::fs;

    use super::{ErrorKind, File, Folder, Metadata, Utf8Path, Utf8PathBuf, io, refused};

    impl Folder {
        /// Opens a folder. Links on the way to it are followed.
        ///
        /// # Errors
        /// Where there is none, or the system refuses.
        pub fn open(root: &Utf8Path) -> io::Result<Folder> {
            Ok(Folder { root: root.canonicalize_utf8()? })
        }

        fn whole(&self, path: &Utf8Path) -> io::Result<Utf8PathBuf> {
            let mut whole = self.root.clone();
            for part in self.parts(path)? {
                if whole.is_symlink() {
                    return Err(refused(path));
                }
                whole.push(part);
            }
            Ok(whole)
        }

        pub(super) fn open_file(&self, path: &Utf8Path, write: bool) -> io::Result<File> {
            let whole = self.whole(path)?;
            if whole.is_symlink() {
                return Err(refused(path));
            }
            fs::OpenOptions::new().read(!write).write(write).open(whole)
        }

        pub(super) fn create(&self, path: &Utf8Path) -> io::Result<File> {
            File::create_new(self.whole(path)?)
        }

        /// Makes a folder; one that is there is left as it is.
        ///
        /// # Errors
        /// Where something else stands there, or the system refuses.
        pub fn make_folder(&self, path: &Utf8Path) -> io::Result<()> {
            let whole = self.whole(path)?;
            match fs::create_dir(&whole) {
                Err(error) if error.kind() == ErrorKind::AlreadyExists && whole.is_dir() && !whole.is_symlink() => {
                    Ok(())
                }
                made => made,
            }
        }

        /// Removes a folder, if it is empty.
        ///
        /// # Errors
        /// Where it is not there, or not empty.
        pub fn remove_folder(&self, path: &Utf8Path) -> io::Result<()> {
            fs::remove_dir(self.whole(path)?)
        }

        /// Removes a file, or a link.
        ///
        /// # Errors
        /// Where it is not there.
        pub fn remove(&self, path: &Utf8Path) -> io::Result<()> {
            fs::remove_file(self.whole(path)?)
        }

        /// Does anything have this name, a link also counted?
        pub fn has(&self, path: &Utf8Path) -> bool {
            self.whole(path).is_ok_and(|whole| whole.symlink_metadata().is_ok())
        }

        /// Gives a file another name, in the place of whatever file has it.
        ///
        /// # Errors
        /// Where the system refuses.
        pub fn rename(&self, from: &Utf8Path, to: &Utf8Path) -> io::Result<()> {
            fs::rename(self.whole(from)?, self.whole(to)?)
        }

        /// Gives a file a name that nothing has.
        ///
        /// # Errors
        /// Where something has it.
        pub fn rename_new(&self, from: &Utf8Path, to: &Utf8Path) -> io::Result<()> {
            if self.has(to) {
                return Err(ErrorKind::AlreadyExists.into());
            }
            self.rename(from, to)
        }

        /// Puts the first file in the place of the second, and answers that they were not exchanged.
        ///
        /// # Errors
        /// Where the system refuses.
        pub fn exchange(&self, one: &Utf8Path, other: &Utf8Path) -> io::Result<bool> {
            self.rename(one, other).map(|()| false)
        }

        /// Gives one file the permissions of another.
        ///
        /// # Errors
        /// Where the system refuses.
        pub fn take_after(&self, path: &Utf8Path, model: &Utf8Path) -> io::Result<()> {
            let permissions = self.metadata(model)?.permissions();
            fs::set_permissions(self.whole(path)?, permissions)
        }
    }

    /// Has a file other names, which would be left behind if it were exchanged?
    pub fn has_several_names(_: &Metadata) -> bool {
        false
    }

    /// Could a new file be given the owner of this one?
    pub fn can_be_given(_: &Metadata) -> bool {
        true
    }
}

pub use system::{can_be_given, has_several_names};
