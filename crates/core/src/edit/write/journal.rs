//! What is to become of files, written down before it is done.

use std::io::{self, ErrorKind};

use camino::{Utf8Path, Utf8PathBuf};
use serde::{Deserialize, Serialize};

use super::disk::Disk;
use super::{WriteError, may_be_written, missing_folders};
use crate::read::MemoryFiles;

/// One file.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct Entry {
    /// Where it lies, links followed.
    pub path: Utf8PathBuf,
    /// The link by which it was named, where it was named by one.
    pub link: Option<Utf8PathBuf>,
    /// How it is shown to people.
    pub shown: String,
    /// Its bytes before; nothing where it is new.
    #[serde(with = "bytes")]
    pub before: Option<Vec<u8>>,
    /// Its bytes after; nothing where it goes.
    #[serde(with = "bytes")]
    pub after: Option<Vec<u8>>,
    /// Is it written in its place, since it has other names or another owner?
    pub in_place: bool,
}

/// Bytes in JSON: as a text where they are one, else as a list of numbers.
mod bytes {
    use serde::{Deserialize, Deserializer, Serialize, Serializer};

    #[derive(Deserialize)]
    #[serde(untagged)]
    enum Written {
        Text(String),
        Bytes(Vec<u8>),
    }

    pub fn serialize<S: Serializer>(bytes: &Option<Vec<u8>>, to: S) -> Result<S::Ok, S::Error> {
        match bytes.as_deref().map(|bytes| std::str::from_utf8(bytes).map_err(|_| bytes)) {
            None => to.serialize_none(),
            Some(Ok(text)) => to.serialize_str(text),
            Some(Err(bytes)) => bytes.serialize(to),
        }
    }

    pub fn deserialize<'de, D: Deserializer<'de>>(from: D) -> Result<Option<Vec<u8>>, D::Error> {
        Ok(Option::<Written>::deserialize(from)?.map(|written| match written {
            Written::Text(text) => text.into_bytes(),
            Written::Bytes(bytes) => bytes,
        }))
    }
}

/// All that belongs to one change.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct Record {
    /// Folders that are made for it, the outermost first.
    pub folders: Vec<Utf8PathBuf>,
    /// The files.
    pub entries: Vec<Entry>,
}

impl Entry {
    /// Where its new text is put first, and its old one goes.
    fn beside(&self) -> Utf8PathBuf {
        self.path.with_file_name(format!(".{}.truehook-new", self.path.file_name().unwrap_or_default()))
    }

    pub fn failed(&self, error: io::Error) -> WriteError {
        WriteError::System { shown: self.shown.clone(), error }
    }

    /// Puts the new text beside the file.
    pub fn prepare(&self, disk: &dyn Disk) -> io::Result<()> {
        let Some(after) = self.after.as_ref().filter(|_| !self.in_place) else { return Ok(()) };
        disk.write(&self.beside(), after)?;
        match self.before {
            Some(_) => disk.take_after(&self.beside(), &self.path),
            None => Ok(()),
        }
    }

    /// Puts the new text in its place. What comes out has to be what had been read.
    pub fn put(&self, disk: &dyn Disk) -> Result<(), WriteError> {
        let beside = self.beside();
        let Some(before) = &self.before else {
            return disk.name(&beside, &self.path).map_err(|error| match error.kind() {
                ErrorKind::AlreadyExists => WriteError::Exists(self.shown.clone()),
                _ => self.failed(error),
            });
        };
        let Some(after) = &self.after else { return self.take_away(disk, before) };
        if self.in_place {
            return self.overwrite(disk, before, after);
        }
        let exchanged = disk.exchange(&beside, &self.path).map_err(|error| self.failed(error))?;
        // Whatever came out that isn't what had been read, a text or not, is somebody's.
        if exchanged && disk.read(&beside).as_ref() != Some(before) {
            disk.exchange(&beside, &self.path).map_err(|error| self.failed(error))?;
            return Err(WriteError::Stale(self.shown.clone()));
        }
        Ok(())
    }

    /// Takes a file away, to where its new text would be: it goes for good when all is done.
    fn take_away(&self, disk: &dyn Disk, before: &[u8]) -> Result<(), WriteError> {
        let beside = self.beside();
        drop(disk.remove(&beside));
        disk.name(&self.path, &beside).map_err(|error| self.failed(error))?;
        if disk.read(&beside).as_deref() != Some(before) {
            disk.name(&beside, &self.path).map_err(|error| self.failed(error))?;
            return Err(WriteError::Stale(self.shown.clone()));
        }
        Ok(())
    }

    /// Puts a file that was taken away back in its place.
    fn bring_back(&self, disk: &dyn Disk, before: &[u8]) -> io::Result<()> {
        if disk.read(&self.beside()).as_deref() != Some(before) {
            for folder in missing_folders(self.path.parent().unwrap_or(Utf8Path::new("."))) {
                disk.make_folder(&folder)?;
            }
            disk.write(&self.beside(), before)?;
        }
        disk.name(&self.beside(), &self.path)
    }

    /// Writes a file in its place, where it holds what it is to hold before.
    fn overwrite(&self, disk: &dyn Disk, before: &[u8], after: &[u8]) -> Result<(), WriteError> {
        if disk.read(&self.path).as_deref() != Some(before) {
            return Err(WriteError::Stale(self.shown.clone()));
        }
        let file = disk.open_to_write(&self.path).map_err(|error| self.failed(error))?;
        disk.overwrite(&file, after).map_err(|error| self.failed(error))
    }

    /// Is the file what it was before, or what it is after, as far as can be seen? One that was being overwritten is
    /// neither, but nobody else has written it.
    fn is_ours(&self, disk: &dyn Disk) -> bool {
        let now = disk.read(&self.path);
        now == self.before || now == self.after || self.in_place && self.is_torn(now.as_deref())
    }

    /// Was the file left in the middle of being overwritten?
    fn is_torn(&self, now: Option<&[u8]>) -> bool {
        let (Some(now), Some(before), Some(after)) = (now, &self.before, &self.after) else { return false };
        let same = now.iter().zip(after).take_while(|(a, b)| a == b).count();
        // What follows what is written is what was there before.
        before.get(same..).is_some_and(|rest| now[same..] == *rest) || same == after.len()
    }
}

impl Record {
    pub fn new(entries: Vec<Entry>) -> Record {
        let mut folders: Vec<Utf8PathBuf> = Vec::new();
        for entry in &entries {
            for folder in missing_folders(entry.path.parent().unwrap_or(Utf8Path::new("."))) {
                if !folders.contains(&folder) {
                    folders.push(folder);
                }
            }
        }
        Record { folders, entries }
    }

    /// The same, with all paths as seen from a theme's folder: as the journal keeps it.
    pub fn below(&self, theme: &Utf8Path) -> Record {
        self.with_paths(|path| path.strip_prefix(theme).unwrap_or(path).to_path_buf())
    }

    /// The same, with all paths in a theme's folder; nothing where one of them must not be written, as where a folder
    /// on the way is a link by now.
    pub fn within(&self, theme: &Utf8Path) -> Option<Record> {
        let record = self.with_paths(|path| theme.join(path));
        let mut paths = record.folders.iter().chain(record.entries.iter().map(|entry| &entry.path));
        paths.all(|path| may_be_written(theme, path)).then_some(record)
    }

    /// What [`resume`](Record::resume) would write: files with other bytes than on the disk, and files that go.
    pub fn pending(&self, disk: &dyn Disk) -> (MemoryFiles, Vec<Utf8PathBuf>) {
        let (mut over, mut gone) = (MemoryFiles::new(), Vec::new());
        let goes_on = self.entries.iter().all(|entry| entry.is_ours(disk));
        for entry in &self.entries {
            let now = disk.read(&entry.path);
            let is_torn = entry.in_place && entry.is_torn(now.as_deref());
            let then = match goes_on {
                true => &entry.after,
                false if now == entry.after || is_torn => &entry.before,
                false => continue,
            };
            for path in [Some(&entry.path), entry.link.as_ref()].into_iter().flatten() {
                match then {
                    Some(bytes) => over.insert(path.clone(), bytes.clone()),
                    None => gone.push(path.clone()),
                }
            }
        }
        (over, gone)
    }

    fn with_paths(&self, path: impl Fn(&Utf8Path) -> Utf8PathBuf) -> Record {
        let entries = self.entries.iter().map(|entry| {
            let link = entry.link.as_deref().map(&path);
            Entry { path: path(&entry.path), link, ..entry.clone() }
        });
        Record { folders: self.folders.iter().map(|folder| path(folder)).collect(), entries: entries.collect() }
    }

    /// Goes on with what was begun; where somebody has written in the meantime, undoes it. True where it is finished.
    pub fn resume(&self, disk: &dyn Disk, theme: &Utf8Path) -> bool {
        let goes_on = self.entries.iter().all(|entry| entry.is_ours(disk)) && self.finish(disk).is_ok();
        match goes_on {
            true => self.clear_out(disk, theme),
            false => self.undo(disk),
        }
        self.clean(disk);
        goes_on
    }

    fn finish(&self, disk: &dyn Disk) -> Result<(), WriteError> {
        for folder in &self.folders {
            disk.make_folder(folder).map_err(|error| WriteError::System { shown: folder.to_string(), error })?;
        }
        for entry in &self.entries {
            let now = disk.read(&entry.path);
            match &entry.after {
                after if now == *after => {}
                Some(after) if entry.in_place => {
                    entry.overwrite(disk, now.as_deref().unwrap_or_default(), after)?;
                }
                _ => {
                    entry.prepare(disk).map_err(|error| entry.failed(error))?;
                    entry.put(disk)?;
                }
            }
        }
        Ok(())
    }

    /// Gives each file that holds what this was to write what it held before.
    pub fn undo(&self, disk: &dyn Disk) {
        for entry in self.entries.iter().rev() {
            let now = disk.read(&entry.path);
            let written = now == entry.after;
            let torn = entry.in_place && now != entry.before && entry.is_torn(now.as_deref());
            let (true, now) = (written || torn, now.unwrap_or_default()) else { continue };
            // What can't be undone stays in the journal of what went wrong, and nothing better can be done.
            match &entry.before {
                None => drop(disk.remove(&entry.path)),
                Some(before) if entry.after.is_none() => drop(entry.bring_back(disk, before)),
                Some(before) if entry.in_place => drop(entry.overwrite(disk, &now, before)),
                Some(_) => {
                    let back = Entry { before: entry.after.clone(), after: entry.before.clone(), ..entry.clone() };
                    drop(back.prepare(disk).map(|()| back.put(disk)));
                }
            }
        }
    }

    /// Once all is done: takes away what files that went left behind, and the folders in which they were the last.
    pub fn clear_out(&self, disk: &dyn Disk, theme: &Utf8Path) {
        for entry in self.entries.iter().filter(|entry| entry.after.is_none()) {
            drop(disk.remove(&entry.beside()));
            let above = entry.path.ancestors().skip(1).take_while(|folder| *folder != theme);
            for folder in above.filter(|folder| folder.exists()) {
                if disk.remove_folder(folder).is_err() {
                    break;
                }
            }
        }
    }

    /// Takes away what was put beside files, and folders that stayed empty.
    pub fn clean(&self, disk: &dyn Disk) {
        for entry in self.entries.iter().filter(|entry| !entry.in_place) {
            drop(disk.remove(&entry.beside()));
        }
        for folder in self.folders.iter().rev() {
            drop(disk.remove_folder(folder));
        }
    }
}
