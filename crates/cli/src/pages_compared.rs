//! Pages before and after some changes: what they would lose by them.

use std::collections::{BTreeMap, BTreeSet};
use std::sync::Arc;

use camino::{Utf8Path, Utf8PathBuf};
use truehook_core::address::Address;
use truehook_core::edit::Change;
use truehook_core::link::Registry;
use truehook_core::read::OverlayFiles;
use truehook_stage::{Manner, Rendered, Stage};

use crate::workshop;

/// How many pages are rendered at most: the first of each type, then others in their order.
const MOST: usize = 40;

/// The pages of a theme as they were after the last changes that cost them nothing.
pub struct Pages<'p> {
    folder: Utf8PathBuf,
    files: &'p OverlayFiles<'p>,
    before: Option<BTreeMap<String, Shown>>,
}

/// What a page shows.
#[derive(Default)]
struct Shown {
    /// The points on it.
    points: BTreeSet<Address>,
    /// What failed, by the message; places move.
    failures: BTreeSet<String>,
}

impl<'p> Pages<'p> {
    /// The pages of a theme on disk.
    pub fn of(folder: &Utf8Path, files: &'p OverlayFiles<'p>) -> Pages<'p> {
        Pages { folder: folder.to_path_buf(), files, before: None }
    }

    /// What a page would lose by these changes, in a sentence. Where nothing is lost, the pages are from now on as they
    /// are then. Where they can't be rendered, nobody can tell, and nothing is said.
    pub fn loss(&mut self, changes: &[Change], after: &Registry) -> Option<String> {
        if self.before.is_none() {
            self.before = Some(self.rendered(&[])?);
        }
        let now = self.rendered(changes)?;
        let before = self.before.as_ref()?;
        let loss = before.iter().find_map(|(path, shown)| {
            let then = now.get(path)?;
            let failed = then.failures.difference(&shown.failures).next();
            // What a name was mended to takes the place of the misspelt one.
            let lost = shown.points.difference(&then.points).find(|point| after.point(**point).is_some());
            let failed = failed.map(|message| format!("{path} would fail: {message}"));
            failed.or_else(|| lost.map(|point| format!("{path} would lose `{point}`")))
        });
        if loss.is_none() {
            self.before = Some(now);
        }
        loss
    }

    fn rendered(&self, changes: &[Change]) -> Option<BTreeMap<String, Shown>> {
        let mut files =
            OverlayFiles { below: self.files.below, over: self.files.over.clone(), gone: self.files.gone.clone() };
        for change in changes {
            match &change.after {
                Some(text) => files.over.insert(change.path.clone(), text.clone()),
                None => files.gone.push(change.path.clone()),
            }
        }
        let registry = Arc::new(workshop::open_files(&self.folder, &files).ok()?);
        let workers = workshop::workers(&self.folder, &files, None, None).ok()?.over(registry.clone());
        let stage = Stage::new(registry);
        let mut types = BTreeSet::new();
        let all = stage.pages();
        let (first, others): (Vec<_>, Vec<_>) = all.iter().partition(|page| types.insert(page.page_type.clone()));
        let paths = first.into_iter().chain(others).take(MOST).map(|page| page.path.clone());
        let mut pages = BTreeMap::new();
        for path in paths {
            let page: Rendered = workers.page(&path, &Manner::watched()).ok()??;
            let points = page.trace.points.iter().copied().collect();
            let failures = page.failures.iter().map(|failure| failure.message.clone()).collect();
            pages.insert(path, Shown { points, failures });
        }
        Some(pages)
    }
}
