//! Without handles of folders: each path is looked at for links right before it is used.

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
            Err(error) if error.kind() == ErrorKind::AlreadyExists && whole.is_dir() && !whole.is_symlink() => Ok(()),
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
