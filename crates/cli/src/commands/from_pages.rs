//! `new --from`: plain pages, read from the disk.

use crate::output;
use anyhow::{Context, Result, bail};
use camino::{Utf8Path, Utf8PathBuf};
use truehook_core::read::{LARGEST, read_plain};
use truehook_core::start::pages::{Beside, Fate, Source, Taken, from_pages};

/// The largest file that comes along, in bytes.
const LARGEST_FILE: u64 = 64 * 1024 * 1024;

/// The folder that has all of the pages.
struct Folder(Utf8PathBuf);

impl Folder {
    /// A file of it, or of a folder beside it as far as the path itself leads there. A link that leads elsewhere is
    /// somebody else's.
    fn file(&self, path: &str) -> Option<Utf8PathBuf> {
        let up = path.split('/').take_while(|part| *part == "..").count();
        let folder = self.0.ancestors().nth(up)?;
        let whole = self.0.join(path).canonicalize_utf8().ok()?;
        (whole.starts_with(folder) && whole.is_file()).then_some(whole)
    }
}

impl Beside for Folder {
    fn read(&self, path: &str) -> Option<Vec<u8>> {
        read_plain(&self.file(path)?, LARGEST_FILE).ok()
    }

    fn has(&self, path: &str) -> bool {
        self.file(path).is_some()
    }
}

/// Takes pages apart.
pub fn take(name: &str, pages: &[Utf8PathBuf]) -> Result<Taken> {
    let mut paths: Vec<Utf8PathBuf> = Vec::new();
    for page in pages {
        let whole = page.canonicalize_utf8().with_context(|| format!("{page} can't be found"))?;
        if !matches!(whole.extension(), Some("html" | "htm")) {
            bail!("{page} is no page: a file that ends in .html is wanted");
        }
        if paths.contains(&whole) {
            bail!("{page} is named twice");
        }
        paths.push(whole);
    }
    let folder = common(&paths).context("the pages have no folder in common")?;
    let mut sources = Vec::new();
    for path in &paths {
        let bytes = read_plain(path, LARGEST).with_context(|| format!("{path} can't be read"))?;
        let text = String::from_utf8(bytes);
        let Ok(text) = text else { bail!("{path} is not UTF-8; save it as that first") };
        let file = path.strip_prefix(&folder).unwrap_or(path).as_str().replace('\\', "/");
        sources.push(Source { file, text });
    }
    Ok(from_pages(name, sources, &Folder(folder))?)
}

/// The innermost folder that holds all of them.
fn common(paths: &[Utf8PathBuf]) -> Option<Utf8PathBuf> {
    let mut folder = paths.first()?.parent()?;
    while !paths.iter().all(|path| path.starts_with(folder)) {
        folder = folder.parent()?;
    }
    Some(Utf8Path::to_path_buf(folder))
}

/// What became of the pieces, for people.
pub fn told(taken: &Taken) -> Vec<String> {
    let mut lines = Vec::new();
    for (title, fates) in [("What became of it:", &taken.turned), ("What was left as it was:", &taken.left)] {
        if fates.is_empty() {
            continue;
        }
        lines.push(String::new());
        lines.push(title.to_string());
        let mut shown: Vec<(Fate, usize)> = Vec::new();
        for fate in fates {
            let name = |what: &str| what.rsplit('/').next().unwrap_or_default().to_string();
            let same = |known: &(Fate, usize)| known.0.now == fate.now && name(&known.0.what) == name(&fate.what);
            match shown.iter_mut().find(|known| same(known)) {
                Some((_, count)) => *count += 1,
                None => shown.push((fate.clone(), 1)),
            }
        }
        let place = |fate: &Fate| format!("{}:{}", fate.file, fate.line);
        let width = output::column(shown.iter().map(|(fate, _)| place(fate).len()).max().unwrap_or_default());
        lines.extend(shown.iter().map(|(fate, count)| {
            let times = if *count > 1 { format!("  ({count} times)") } else { String::new() };
            format!("  {:width$}  {}  →  {}{times}", place(fate), fate.what, fate.now)
        }));
    }
    if !lines.is_empty() {
        lines.push(String::new());
    }
    lines
}
