//! Where files come from: the disk, memory, or memory laid over the disk.

use std::collections::{BTreeMap, HashMap, HashSet};
use std::fs;
use std::io::ErrorKind;
use std::path::{MAIN_SEPARATOR, Path};
use std::sync::{Mutex, PoisonError};

use camino::{Utf8Path, Utf8PathBuf};

use walkdir::WalkDir;

use super::{LARGEST, Unreadable};

/// One file found in a folder.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Listed {
    /// Its path below the folder, with `/`.
    pub path: Utf8PathBuf,
    /// Why it can't be read, where that is known already.
    pub broken: Option<Unreadable>,
}

/// A source of files.
pub trait Files: Sync {
    /// The one true path of a folder, or nothing where there is no such folder.
    fn folder(&self, path: &Utf8Path) -> Option<Utf8PathBuf>;
    /// The names of the folders in a folder.
    fn folders(&self, path: &Utf8Path) -> Vec<String>;
    /// All files below `root/part`, sorted by path; `part` may also be one file.
    fn list(&self, root: &Utf8Path, part: &str) -> Vec<Listed>;
    /// The bytes of a file, of at most [`LARGEST`] bytes.
    ///
    /// # Errors
    /// Where the file is too large or the system refuses.
    fn read(&self, path: &Utf8Path) -> Result<Vec<u8>, Unreadable>;
}

/// The disk.
pub struct DiskFiles;

impl Files for DiskFiles {
    fn folder(&self, path: &Utf8Path) -> Option<Utf8PathBuf> {
        path.canonicalize_utf8().ok().filter(|path| path.is_dir())
    }

    fn folders(&self, path: &Utf8Path) -> Vec<String> {
        let entries = WalkDir::new(path).min_depth(1).max_depth(1).follow_links(true).into_iter().flatten();
        let folders = entries.filter(|entry| entry.file_type().is_dir());
        folders.filter_map(|entry| entry.file_name().to_str().map(str::to_string)).collect()
    }

    fn list(&self, root: &Utf8Path, part: &str) -> Vec<Listed> {
        let mut found = Vec::new();
        let path = root.join(part);
        match fs::symlink_metadata(&path) {
            Ok(data) if data.is_dir() => walk(root, part, &mut HashSet::new(), &mut found),
            Ok(data) if data.is_symlink() => follow(root, part.into(), &mut HashSet::new(), &mut found),
            Ok(data) => found.push(listed(part.into(), &data)),
            Err(_) => {}
        }
        found.sort_by(|a, b| a.path.as_str().cmp(b.path.as_str()));
        found
    }

    fn read(&self, path: &Utf8Path) -> Result<Vec<u8>, Unreadable> {
        read_plain(path, LARGEST)
    }
}

/// Reads a plain file of at most so many bytes. Nothing else is read, nor waited for: a pipe would wait for whoever
/// writes into it.
///
/// # Errors
/// Where it is not there, is no plain file or too large, or the system refuses.
pub fn read_plain(path: &Utf8Path, most: u64) -> Result<Vec<u8>, Unreadable> {
    use std::io::Read;
    let system = |error: std::io::Error| match error.kind() {
        ErrorKind::NotFound => Unreadable::DeadLink,
        _ => Unreadable::System(error.to_string()),
    };
    let is_plain = |data: &fs::Metadata| match data.is_file() {
        true => Ok(()),
        false => Err(Unreadable::NotPlain),
    };
    let file = match open_at_once(path) {
        Ok(file) => file,
        // A socket can't be opened at all.
        Err(error) => {
            is_plain(&fs::metadata(path).map_err(system)?)?;
            return Err(system(error));
        }
    };
    let data = file.metadata().map_err(system)?;
    is_plain(&data)?;
    if data.len() > most {
        return Err(Unreadable::TooLarge(data.len()));
    }
    // What comes after its end while it is read is another text. Files that the system makes up say no length.
    let length = if data.len() == 0 { most + 1 } else { data.len() };
    let mut bytes = Vec::with_capacity(data.len() as usize);
    file.take(length).read_to_end(&mut bytes).map_err(system)?;
    match bytes.len() as u64 > most {
        true => Err(Unreadable::TooLarge(bytes.len() as u64)),
        false => Ok(bytes),
    }
}

/// Opens a file without waiting for anybody who writes into it.
fn open_at_once(path: &Utf8Path) -> std::io::Result<fs::File> {
    #[cfg(unix)]
    {
        use std::os::unix::fs::OpenOptionsExt;
        fs::OpenOptions::new().read(true).custom_flags(rustix::fs::OFlags::NONBLOCK.bits().cast_signed()).open(path)
    }
    #[cfg(not(unix))]
    fs::File::open(path)
}

fn listed(path: Utf8PathBuf, data: &fs::Metadata) -> Listed {
    Listed { path, broken: (!data.is_file()).then_some(Unreadable::NotPlain) }
}

/// Collects the files of `root/part`, following symbolic links that stay inside `root`. Folders to which links lead
/// are walked once.
fn walk(root: &Utf8Path, part: &str, linked: &mut HashSet<Utf8PathBuf>, found: &mut Vec<Listed>) {
    for entry in WalkDir::new(root.join(part)) {
        let path = entry.as_ref().map_or_else(walkdir::Error::path, |entry| Some(entry.path()));
        let path = path.map_or_else(|| part.to_string(), |path| below(root, path, part));
        match entry {
            Ok(entry) if entry.path_is_symlink() => follow(root, path, linked, found),
            Ok(entry) if entry.file_type().is_dir() => {}
            Ok(entry) => {
                let broken = (!entry.file_type().is_file()).then_some(Unreadable::NotPlain);
                found.push(Listed { path: path.into(), broken });
            }
            Err(error) => {
                let broken = Some(Unreadable::System(error.to_string()));
                found.push(Listed { path: path.into(), broken });
            }
        }
    }
}

/// A path below a folder that it lies in; `part` where it doesn't.
fn below(root: &Utf8Path, path: &Path, part: &str) -> String {
    // Most paths are letters behind those of the folder; taking all apart takes longer.
    let letters = path.to_str().and_then(|path| path.strip_prefix(root.as_str())?.strip_prefix(MAIN_SEPARATOR));
    match letters {
        Some(below) => below.to_string(),
        None => path.strip_prefix(root).unwrap_or(part.as_ref()).to_string_lossy().into_owned(),
    }
}

/// Goes where a symbolic link leads, unless that is outside `root`, nowhere or back upwards.
fn follow(root: &Utf8Path, path: String, linked: &mut HashSet<Utf8PathBuf>, found: &mut Vec<Listed>) {
    let here = root.join(&path);
    let broken = match here.canonicalize_utf8() {
        Err(_) => Unreadable::DeadLink,
        Ok(target) if !target.starts_with(root) => Unreadable::LeavesFolder(target.into()),
        Ok(target) if target.is_dir() => {
            let parent = here.parent().and_then(|parent| parent.canonicalize_utf8().ok());
            match parent {
                Some(parent) if !parent.starts_with(&target) && linked.insert(target) => {
                    return walk(root, &path, linked, found);
                }
                _ => Unreadable::DeadLink,
            }
        }
        Ok(target) => match fs::metadata(target) {
            Ok(data) => return found.push(listed(path.into(), &data)),
            Err(error) => Unreadable::System(error.to_string()),
        },
    };
    found.push(Listed { path: path.into(), broken: Some(broken) });
}

/// Files in memory, by their whole path.
#[derive(Clone, Debug, Default)]
pub struct MemoryFiles {
    files: BTreeMap<Utf8PathBuf, Vec<u8>>,
}

impl MemoryFiles {
    /// No files.
    pub fn new() -> MemoryFiles {
        MemoryFiles::default()
    }

    /// Adds a file, or replaces it.
    pub fn insert(&mut self, path: impl Into<Utf8PathBuf>, bytes: impl Into<Vec<u8>>) {
        self.files.insert(path.into(), bytes.into());
    }

    /// Takes a file away.
    pub fn remove(&mut self, path: &Utf8Path) {
        self.files.remove(path);
    }

    /// All files, in the order of their paths.
    pub fn iter(&self) -> impl Iterator<Item = (&Utf8Path, &[u8])> {
        self.files.iter().map(|(path, bytes)| (path.as_path(), bytes.as_slice()))
    }

    /// The bytes of a file.
    pub fn get(&self, path: &Utf8Path) -> Option<&[u8]> {
        self.files.get(path).map(Vec::as_slice)
    }
}

impl Files for MemoryFiles {
    fn folder(&self, path: &Utf8Path) -> Option<Utf8PathBuf> {
        let path = tidy(path);
        self.files.keys().any(|file| file.starts_with(&path)).then_some(path)
    }

    fn folders(&self, path: &Utf8Path) -> Vec<String> {
        let path = tidy(path);
        let below = self.files.keys().filter_map(|file| file.strip_prefix(&path).ok());
        let first = below.filter_map(|rest| rest.components().next().filter(|_| rest.components().count() > 1));
        let names: std::collections::BTreeSet<String> = first.map(|part| part.to_string()).collect();
        names.into_iter().collect()
    }

    fn list(&self, root: &Utf8Path, part: &str) -> Vec<Listed> {
        let whole = root.join(part);
        let below = self.files.range(whole.clone()..).map(|(path, _)| path);
        let mut found: Vec<Listed> = below
            .take_while(|path| path.as_str().starts_with(whole.as_str()))
            .filter(|path| path.starts_with(&whole))
            .filter_map(|path| path.strip_prefix(root).ok())
            .map(|path| Listed { path: path.into(), broken: None })
            .collect();
        found.sort_by(|a, b| a.path.as_str().cmp(b.path.as_str()));
        found
    }

    fn read(&self, path: &Utf8Path) -> Result<Vec<u8>, Unreadable> {
        let bytes = self.files.get(path).ok_or(Unreadable::DeadLink)?;
        match bytes.len() as u64 {
            length if length > LARGEST => Err(Unreadable::TooLarge(length)),
            _ => Ok(bytes.clone()),
        }
    }
}

/// A path without `.` and `..`, worked out on its letters alone.
fn tidy(path: &Utf8Path) -> Utf8PathBuf {
    let mut tidy = Utf8PathBuf::new();
    for part in path.components() {
        match part.as_str() {
            "." => {}
            ".." => {
                tidy.pop();
            }
            other => tidy.push(other),
        }
    }
    tidy
}

/// Texts that are not saved yet, laid over other files.
pub struct OverlayFiles<'f> {
    /// What lies below.
    pub below: &'f dyn Files,
    /// What lies on top, by the path that [`Files::folder`] gives for the folder.
    pub over: MemoryFiles,
    /// Files of what lies below that are not there any more.
    pub gone: Vec<Utf8PathBuf>,
}

impl Files for OverlayFiles<'_> {
    fn folder(&self, path: &Utf8Path) -> Option<Utf8PathBuf> {
        self.below.folder(path).or_else(|| self.over.folder(path))
    }

    fn folders(&self, path: &Utf8Path) -> Vec<String> {
        let mut names = self.below.folders(path);
        names.extend(self.over.folders(path));
        names
    }

    fn list(&self, root: &Utf8Path, part: &str) -> Vec<Listed> {
        let mut found = self.below.list(root, part);
        found.retain(|listed| !self.gone.contains(&root.join(&listed.path)));
        for listed in self.over.list(root, part) {
            match found.binary_search_by(|held| held.path.as_str().cmp(listed.path.as_str())) {
                Ok(at) => found[at].broken = None,
                Err(at) => found.insert(at, listed),
            }
        }
        found
    }

    fn read(&self, path: &Utf8Path) -> Result<Vec<u8>, Unreadable> {
        match self.over.get(path) {
            Some(_) => self.over.read(path),
            None if self.gone.iter().any(|gone| gone == path) => Err(Unreadable::DeadLink),
            None => self.below.read(path),
        }
    }
}

/// The disk, with what was read once kept in memory until it is forgotten.
#[derive(Default)]
pub struct CachedFiles {
    kept: Mutex<HashMap<Utf8PathBuf, Vec<u8>>>,
}

impl CachedFiles {
    /// Forgets a file, or all below a folder.
    pub fn forget(&mut self, path: &Utf8Path) {
        let kept = self.kept.get_mut().unwrap_or_else(PoisonError::into_inner);
        if kept.remove(path).is_none() {
            kept.retain(|known, _| !known.starts_with(path));
        }
    }
}

impl Files for CachedFiles {
    fn folder(&self, path: &Utf8Path) -> Option<Utf8PathBuf> {
        DiskFiles.folder(path)
    }

    fn folders(&self, path: &Utf8Path) -> Vec<String> {
        DiskFiles.folders(path)
    }

    fn list(&self, root: &Utf8Path, part: &str) -> Vec<Listed> {
        DiskFiles.list(root, part)
    }

    fn read(&self, path: &Utf8Path) -> Result<Vec<u8>, Unreadable> {
        let kept = || self.kept.lock().unwrap_or_else(PoisonError::into_inner);
        if let Some(known) = kept().get(path) {
            return Ok(known.clone());
        }
        let bytes = DiskFiles.read(path)?;
        kept().insert(path.to_path_buf(), bytes.clone());
        Ok(bytes)
    }
}

#[cfg(all(test, unix))]
mod tests {
    use std::os::unix::net::UnixListener;

    use super::*;

    #[test]
    fn only_plain_files_are_read_and_nobody_is_waited_for() {
        let folder = tempfile::tempdir().unwrap();
        let root = Utf8Path::from_path(folder.path()).unwrap();
        let at = |name: &str| root.join(name);
        fs::write(at("text"), "tide").unwrap();
        fs::write(at("empty"), "").unwrap();
        fs::create_dir(at("folder")).unwrap();
        let _listener = UnixListener::bind(at("socket")).unwrap();
        let mode = rustix::fs::Mode::RUSR | rustix::fs::Mode::WUSR;
        let made = rustix::fs::mknodat(rustix::fs::CWD, at("pipe").as_str(), rustix::fs::FileType::Fifo, mode, 0);
        made.unwrap();
        assert_eq!(read_plain(&at("text"), 4), Ok(b"tide".to_vec()));
        assert_eq!(read_plain(&at("text"), 3), Err(Unreadable::TooLarge(4)));
        assert_eq!(read_plain(&at("empty"), 4), Ok(Vec::new()));
        for other in ["folder", "socket", "pipe"] {
            assert_eq!(read_plain(&at(other), 4), Err(Unreadable::NotPlain), "{other}");
        }
        assert_eq!(read_plain(&at("nowhere"), 4), Err(Unreadable::DeadLink));
    }

    #[test]
    #[cfg(target_os = "linux")]
    fn what_the_system_makes_up_as_it_is_read_is_read_to_its_end() {
        let text = read_plain("/proc/self/status".into(), LARGEST).unwrap();
        assert!(text.starts_with(b"Name:"));
    }
}
