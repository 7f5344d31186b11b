//! The folder that pages are written into: what is in it that `render` wrote, and what isn't.

use std::collections::BTreeMap;
use std::fs;
use std::io::ErrorKind;
use std::time::{Duration, Instant};

use anyhow::{Context, Result, bail};
use camino::{Utf8Component, Utf8Path, Utf8PathBuf};
use sha2::{Digest, Sha256};
use truehook_core::edit::Folder;

/// The list of what was written, in the folder itself: a line for each file, its SHA-256 in hex, two blanks and its path
/// below the folder, as `sha256sum` reads and writes them.
const LIST: &str = ".truehook-site";
/// Where a file is written before it takes its place.
const PART: &str = ".truehook-part";
/// The largest list that is read, in bytes.
const LARGEST: usize = 64 * 1024 * 1024;

/// How long this waits for another command that writes into the same folder.
const PATIENCE: Duration = Duration::from_secs(10);

/// A folder for a site.
pub struct SiteFolder {
    folder: Folder,
    /// How the folder was named.
    root: Utf8PathBuf,
    /// May files that `render` did not write be overwritten?
    over: bool,
    /// What was written before: paths, with the hashes of what was written there.
    before: BTreeMap<String, Vec<String>>,
    /// What is written now.
    now: BTreeMap<String, String>,
    /// The list on the disk, which is added to before each file is written.
    list: fs::File,
    /// The folder itself, locked until this goes.
    _lock: Option<fs::File>,
}

/// Refuses a folder that is a theme's, or lies in one.
pub fn outside_themes(folder: &Utf8Path) -> Result<()> {
    let whole = camino::absolute_utf8(folder)?;
    let there = whole.ancestors().find_map(|folder| folder.canonicalize_utf8().ok()).unwrap_or_default();
    if let Some(theme) = there.ancestors().find(|folder| folder.join("truehook.toml").exists()) {
        let what = if there == theme && folder.exists() { "is" } else { "lies in" };
        bail!("{folder} {what} the theme's own folder, {theme}; name another one");
    }
    Ok(())
}

impl SiteFolder {
    /// A folder that may be written into: one that is empty, that we wrote, or whose files may go.
    pub fn open(root: &Utf8Path, over: bool) -> Result<SiteFolder> {
        if root.as_str().trim().is_empty() {
            bail!("--into needs the name of a folder");
        }
        match fs::metadata(root) {
            Ok(data) if !data.is_dir() => bail!("{root} is no folder; a folder is needed"),
            Ok(_) => {}
            Err(error) if error.kind() == ErrorKind::NotFound => {}
            Err(error) => return Err(error).with_context(|| format!("{root} can't be looked into")),
        }
        outside_themes(root)?;
        fs::create_dir_all(root).with_context(|| format!("{root} can't be made"))?;
        let folder = Folder::open(root).with_context(|| format!("{root} can't be opened"))?;
        let lock = lock(root)?;
        let list = folder.read(LIST.into()).ok().filter(|bytes| bytes.len() <= LARGEST);
        let is_ours = list.is_some();
        let before = known(&String::from_utf8(list.unwrap_or_default()).unwrap_or_default());
        let others = || root.read_dir_utf8().into_iter().flatten().flatten().next().is_some();
        if !is_ours && !over && others() {
            bail!(
                "{root} holds other files; name an empty folder, or say --over and what has the same name is overwritten"
            );
        }
        let root = root.to_path_buf();
        // From here on the folder knows what is ours, wherever this is ended.
        let list = begin_list(&folder, &before).with_context(|| format!("{} can't be written", root.join(LIST)))?;
        Ok(SiteFolder { folder, root, over, before, now: BTreeMap::new(), list, _lock: lock })
    }

    /// Writes a file below the folder, in one go. Links are not followed, and what isn't ours stays.
    pub fn write(&mut self, path: &str, bytes: &[u8]) -> Result<()> {
        let target = self.root.join(path);
        if let Some(part) = Utf8Path::new(path).components().find(|part| !is_plain(*part)) {
            bail!(
                "{target} can't be written: `{part}` begins with a dot or leads elsewhere; give that page another path"
            );
        }
        if path.chars().any(char::is_control) {
            bail!("{target:?} can't be written: its name holds control characters; give that page another path");
        }
        let hash = hash(bytes);
        self.now.insert(path.to_string(), hash.clone());
        if let Some(link) = self.link_to(path) {
            bail!("{link} is a link, and pages are not written through links");
        }
        match fs::metadata(&target) {
            Ok(data) if data.is_dir() => bail!("{target} is a folder, and a page of that name is to be written"),
            Ok(_) => {
                let there = self.folder.read(path.into()).unwrap_or_default();
                if there == bytes {
                    return self.note(path, &hash);
                }
                if !self.over && !self.wrote(path, &there) {
                    bail!("{target} is there already, and not as render wrote it; --over overwrites it")
                }
            }
            Err(_) => {}
        }
        self.note(path, &hash)?;
        let written = self
            .folder
            .write(PART.into(), bytes, false)
            .and_then(|()| self.folder.make_parents(path.into()))
            .and_then(|()| self.folder.rename(PART.into(), path.into()));
        written.with_context(|| format!("{target} can't be written"))
    }

    /// Appends a file to the list on the disk.
    fn note(&mut self, path: &str, hash: &str) -> Result<()> {
        use std::io::Write;
        let written = self.list.write_all(line(path, hash).as_bytes());
        written.with_context(|| format!("{} can't be written", self.root.join(LIST)))
    }

    /// Are these the bytes that were written to a path, now or before?
    fn wrote(&self, path: &str, bytes: &[u8]) -> bool {
        let hash = hash(bytes);
        self.now.get(path).is_some_and(|now| *now == hash)
            || self.before.get(path).is_some_and(|before| before.contains(&hash))
    }

    /// The link on the way to a file, or in its place.
    fn link_to(&self, path: &str) -> Option<Utf8PathBuf> {
        let target = self.root.join(path);
        let mut parts = target.ancestors().take_while(|part| part.starts_with(&self.root) && *part != self.root);
        parts.find(|part| part.is_symlink()).map(Utf8Path::to_path_buf)
    }

    /// Is a file still there as it was written before?
    fn is_there(&self, path: &str) -> bool {
        self.folder.read(path.into()).is_ok_and(|bytes| self.wrote(path, &bytes))
    }

    /// Writes the list, and answers what was written before and is not needed any more. Where the site was not
    /// written as a whole, everything is still needed.
    pub fn end(&mut self, whole: bool) -> Result<Vec<String>> {
        let gone: Vec<String> = match whole {
            true => {
                let old = self.before.keys().filter(|path| !self.now.contains_key(*path));
                old.filter(|path| self.is_there(path)).cloned().collect()
            }
            false => Vec::new(),
        };
        self.keep_list()?;
        Ok(gone)
    }

    /// Writes the list anew, with what is there: also where the site was not written to its end.
    pub fn keep_list(&mut self) -> Result<()> {
        let old = self.before.iter().filter(|(path, _)| !self.now.contains_key(*path) && self.is_there(path));
        let mut text = String::new();
        for (path, hashes) in old {
            let there = self.folder.read(path.as_str().into()).map(|bytes| hash(&bytes)).unwrap_or_default();
            text.extend(hashes.iter().filter(|hash| **hash == there).take(1).map(|hash| line(path, hash)));
        }
        text.extend(self.now.iter().map(|(path, hash)| line(path, hash)));
        let written = self
            .folder
            .write(PART.into(), text.as_bytes(), false)
            .and_then(|()| self.folder.rename(PART.into(), LIST.into()));
        written.with_context(|| format!("{} can't be written", self.root.join(LIST)))
    }

    /// Takes away what is not needed any more, and folders that stay empty.
    pub fn clean(&mut self, gone: &[String]) -> Result<()> {
        for path in gone.iter().filter(|path| self.is_there(path)).cloned().collect::<Vec<_>>() {
            let target = Utf8Path::new(&path);
            self.folder.remove(target).with_context(|| format!("{} can't be taken away", self.root.join(target)))?;
            let folders = target.ancestors().skip(1).filter(|folder| !folder.as_str().is_empty());
            // The first that isn't empty ends it.
            let _ = folders.map(|folder| self.folder.remove_folder(folder)).take_while(Result::is_ok).count();
            self.before.remove(&path);
        }
        self.keep_list()
    }
}

/// Locks a folder, so that one command at a time writes into it; nothing where the system can't lock folders.
fn lock(root: &Utf8Path) -> Result<Option<fs::File>> {
    let begun = Instant::now();
    let Ok(folder) = fs::File::open(root) else { return Ok(None) };
    loop {
        match folder.try_lock() {
            Ok(()) => return Ok(Some(folder)),
            Err(fs::TryLockError::WouldBlock) if begun.elapsed() > PATIENCE => {
                bail!("another command writes into {root}; wait until it is done")
            }
            Err(fs::TryLockError::WouldBlock) => std::thread::sleep(Duration::from_millis(15)),
            Err(fs::TryLockError::Error(_)) => return Ok(None),
        }
    }
}

/// May this part of a path be written: is it a name that doesn't begin with a dot?
fn is_plain(part: Utf8Component<'_>) -> bool {
    matches!(part, Utf8Component::Normal(name) if !name.starts_with('.'))
}

fn hash(bytes: &[u8]) -> String {
    Sha256::digest(bytes).iter().map(|byte| format!("{byte:02x}")).collect()
}

fn line(path: &str, hash: &str) -> String {
    format!("{hash}  {path}\n")
}

/// What a list says. Whatever that is, it speaks of plain files of this folder alone.
fn known(list: &str) -> BTreeMap<String, Vec<String>> {
    let mut known: BTreeMap<String, Vec<String>> = BTreeMap::new();
    for (hash, path) in list.lines().filter_map(|line| line.split_once("  ")) {
        if hash.len() == 64 && Utf8Path::new(path).components().all(is_plain) {
            known.entry(path.to_string()).or_default().push(hash.to_string());
        }
    }
    known
}

/// Writes the list as it was, to be added to.
fn begin_list(folder: &Folder, before: &BTreeMap<String, Vec<String>>) -> std::io::Result<fs::File> {
    let lines = before.iter().flat_map(|(path, hashes)| hashes.iter().map(|hash| line(path, hash)));
    folder.write(PART.into(), lines.collect::<String>().as_bytes(), false)?;
    folder.rename(PART.into(), LIST.into())?;
    let mut list = folder.open_to_write(LIST.into())?;
    std::io::Seek::seek(&mut list, std::io::SeekFrom::End(0))?;
    Ok(list)
}
