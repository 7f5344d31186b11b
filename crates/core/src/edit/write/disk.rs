//! What the disk is asked to do, step by step. Tests end it in the middle of any of them.

use std::fs::{self, File, Metadata};
use std::io::{self, ErrorKind, Read, Seek, SeekFrom, Write};

use camino::Utf8Path;

/// A disk. Each step is one thing that happens or doesn't.
pub trait Disk {
    /// Makes a folder; one that is there is left as it is.
    ///
    /// # Errors
    /// Where the system refuses, as in all others.
    fn make_folder(&self, path: &Utf8Path) -> io::Result<()>;
    /// Takes a folder away, if it is empty.
    ///
    /// # Errors
    /// Where it is not there, or not empty.
    fn remove_folder(&self, path: &Utf8Path) -> io::Result<()>;
    /// Writes a new file in the place of whatever stands there, and waits until it is on the disk. What stood there
    /// is not followed where it is a link.
    ///
    /// # Errors
    /// Where the system refuses.
    fn write(&self, path: &Utf8Path, text: &str) -> io::Result<()>;
    /// Writes over an open file, and waits until that is on the disk.
    ///
    /// # Errors
    /// Where the system refuses.
    fn overwrite(&self, file: &File, text: &str) -> io::Result<()>;
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
    /// Takes a file away.
    ///
    /// # Errors
    /// Where it is not there.
    fn remove(&self, path: &Utf8Path) -> io::Result<()>;
    /// The text of a file; nothing where there is none, or it is no text.
    fn read(&self, path: &Utf8Path) -> Option<String>;
}

/// The disk of this machine.
pub struct RealDisk;

impl Disk for RealDisk {
    fn make_folder(&self, path: &Utf8Path) -> io::Result<()> {
        match fs::create_dir(path) {
            Err(error) if error.kind() == ErrorKind::AlreadyExists && path.is_dir() => Ok(()),
            made => made,
        }
    }

    fn remove_folder(&self, path: &Utf8Path) -> io::Result<()> {
        fs::remove_dir(path)
    }

    fn write(&self, path: &Utf8Path, text: &str) -> io::Result<()> {
        match fs::remove_file(path) {
            Err(error) if error.kind() != ErrorKind::NotFound => return Err(error),
            _ => {}
        }
        let mut file = File::create_new(path)?;
        file.write_all(text.as_bytes())?;
        file.sync_all()
    }

    fn overwrite(&self, mut file: &File, text: &str) -> io::Result<()> {
        file.seek(SeekFrom::Start(0))?;
        file.write_all(text.as_bytes())?;
        file.set_len(text.len() as u64)?;
        file.sync_all()
    }

    fn take_after(&self, path: &Utf8Path, model: &Utf8Path) -> io::Result<()> {
        let data = fs::metadata(model)?;
        #[cfg(unix)]
        {
            use std::os::unix::fs::MetadataExt;
            let own = fs::metadata(path)?;
            if (own.uid(), own.gid()) != (data.uid(), data.gid()) {
                std::os::unix::fs::chown(path, Some(data.uid()), Some(data.gid()))?;
            }
        }
        fs::set_permissions(path, data.permissions())
    }

    fn exchange(&self, one: &Utf8Path, other: &Utf8Path) -> io::Result<bool> {
        #[cfg(target_os = "linux")]
        {
            use rustix::fs::{CWD, RenameFlags, renameat_with};
            match renameat_with(CWD, one.as_std_path(), CWD, other.as_std_path(), RenameFlags::EXCHANGE) {
                Ok(()) => return Ok(true),
                Err(rustix::io::Errno::INVAL | rustix::io::Errno::NOSYS) => {}
                Err(error) => return Err(error.into()),
            }
        }
        fs::rename(one, other).map(|()| false)
    }

    fn name(&self, from: &Utf8Path, to: &Utf8Path) -> io::Result<()> {
        #[cfg(target_os = "linux")]
        {
            use rustix::fs::{CWD, RenameFlags, renameat_with};
            match renameat_with(CWD, from.as_std_path(), CWD, to.as_std_path(), RenameFlags::NOREPLACE) {
                Err(rustix::io::Errno::INVAL | rustix::io::Errno::NOSYS) => {}
                named => return Ok(named?),
            }
        }
        if to.exists() {
            return Err(ErrorKind::AlreadyExists.into());
        }
        fs::rename(from, to)
    }

    fn remove(&self, path: &Utf8Path) -> io::Result<()> {
        fs::remove_file(path)
    }

    fn read(&self, path: &Utf8Path) -> Option<String> {
        let mut text = String::new();
        File::open(path).ok()?.read_to_string(&mut text).ok()?;
        Some(text)
    }
}

/// Has a file other names, which would be left behind if it were exchanged?
pub fn has_several_names(data: &Metadata) -> bool {
    #[cfg(unix)]
    {
        use std::os::unix::fs::MetadataExt;
        data.nlink() > 1
    }
    #[cfg(not(unix))]
    {
        let _ = data;
        false
    }
}

/// Could a new file be given the owner of this one?
pub fn can_be_given(data: &Metadata) -> bool {
    #[cfg(unix)]
    {
        use std::os::unix::fs::MetadataExt;
        let own = rustix::process::geteuid();
        own.is_root() || own.as_raw() == data.uid()
    }
    #[cfg(not(unix))]
    {
        let _ = data;
        true
    }
}
