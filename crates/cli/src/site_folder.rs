//! The folder that pages are written into: what is in it that we wrote, and what isn't ours.

use std::collections::BTreeSet;
use std::fs;
use std::io::ErrorKind;

use anyhow::{Context, Result, bail};
use camino::{Utf8Component, Utf8Path, Utf8PathBuf};
use truehook_core::edit;
use truehook_core::read::read_plain;

/// The list of what was written, in the folder itself.
const LIST: &str = ".truehook-site";

/// A folder for a site.
pub struct SiteFolder {
    root: Utf8PathBuf,
    /// May files that we did not write be overwritten?
    over: bool,
    /// What was written before.
    before: BTreeSet<String>,
    /// What is written now.
    now: BTreeSet<String>,
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
        let list = read_plain(&root.join(LIST), u64::MAX - 1).ok().and_then(|bytes| String::from_utf8(bytes).ok());
        // Whatever the list says, it speaks of this folder alone.
        let plain = |path: &&str| Utf8Path::new(path).components().all(|part| matches!(part, Utf8Component::Normal(_)));
        let before: BTreeSet<String> =
            list.iter().flat_map(|list| list.lines()).filter(plain).map(str::to_string).collect();
        let others = || root.read_dir_utf8().into_iter().flatten().flatten().next().is_some();
        if before.is_empty() && !over && others() {
            bail!(
                "{root} holds other files; name an empty folder, or say --over and what has the same name is overwritten"
            );
        }
        Ok(SiteFolder { root: root.to_path_buf(), over, before, now: BTreeSet::new() })
    }

    /// Writes a file below the folder, in one go. Links are not followed, and what isn't ours stays.
    pub fn write(&mut self, path: &str, bytes: &[u8]) -> Result<()> {
        let target = self.root.join(path);
        let known = self.before.contains(path) || self.now.contains(path);
        self.now.insert(path.to_string());
        if let Some(link) = self.link_to(path) {
            bail!("{link} is a link, and pages are not written through links");
        }
        match fs::metadata(&target) {
            Ok(data) if data.is_dir() => bail!("{target} is a folder, and a page of that name is to be written"),
            Ok(_) if fs::read(&target).is_ok_and(|there| there == bytes) => return Ok(()),
            Ok(_) if !known && !self.over => {
                bail!("{target} is there already, and was not written by render; --over overwrites it")
            }
            _ => {}
        }
        Ok(edit::save(&target, bytes)?)
    }

    /// The link on the way to a file, or in its place.
    fn link_to(&self, path: &str) -> Option<Utf8PathBuf> {
        let target = self.root.join(path);
        let mut parts = target.ancestors().take_while(|part| part.starts_with(&self.root) && *part != self.root);
        parts.find(|part| part.is_symlink()).map(Utf8Path::to_path_buf)
    }

    /// Is a file that was written before still there, as a file of this folder?
    fn is_there(&self, path: &str) -> bool {
        self.link_to(path).is_none() && self.root.join(path).is_file()
    }

    /// Writes the list, and answers what was written before and is not needed any more. Where the site was not
    /// written as a whole, everything is still needed.
    pub fn end(&mut self, whole: bool) -> Result<Vec<String>> {
        let gone: Vec<String> = match whole {
            true => self.before.difference(&self.now).filter(|path| self.is_there(path)).cloned().collect(),
            false => Vec::new(),
        };
        self.keep_list(&gone)?;
        Ok(gone)
    }

    /// Writes down what has been written so far: also where it went no further.
    pub fn keep_list(&self, gone: &[String]) -> Result<()> {
        let still = self.before.iter().filter(|path| gone.contains(path) || self.is_there(path));
        let all: BTreeSet<&String> = self.now.iter().chain(still).collect();
        if all.is_empty() {
            return Ok(());
        }
        let text: String = all.into_iter().map(|path| format!("{path}\n")).collect();
        Ok(edit::save(&self.root.join(LIST), text.as_bytes())?)
    }

    /// Takes away what is not needed any more, and folders that stay empty.
    pub fn clean(&mut self, gone: &[String]) -> Result<()> {
        for path in gone {
            let target = self.root.join(path);
            fs::remove_file(&target).with_context(|| format!("{target} can't be taken away"))?;
            let folders =
                target.ancestors().skip(1).take_while(|folder| folder.starts_with(&self.root) && *folder != self.root);
            // The first that isn't empty ends it.
            let _ = folders.map(fs::remove_dir).take_while(Result::is_ok).count();
            self.before.remove(path);
        }
        self.keep_list(&[])
    }
}
