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
    /// Its type.
    page_type: String,
    /// The points on it.
    points: BTreeSet<Address>,
    /// What failed: the point, the callback or template, and the message; places move.
    failures: BTreeSet<(Option<String>, Option<String>, String)>,
}

impl Shown {
    /// What fails there now and did not before. Where a callback failed at a point, its next failure is no news.
    fn news<'n>(&self, now: &'n Shown) -> Option<&'n str> {
        let failed = |point: &Option<String>, source: &Option<String>, message: &String| {
            let same = |known: &&(Option<String>, Option<String>, String)| (&known.0, &known.1) == (point, source);
            self.failures.iter().filter(same).any(|known| source.is_some() || known.2 == *message)
        };
        let mut news = now.failures.iter().filter(|(point, source, message)| !failed(point, source, message));
        news.next().map(|(_, _, message)| message.as_str())
    }
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
            let failed = shown.news(then);
            // A page of another type has other points, and so has one that failed and was rendered in another way.
            let alike = shown.page_type == then.page_type && shown.failures.is_subset(&then.failures);
            // What a name was mended to takes the place of the misspelt one.
            let mut lost = shown.points.difference(&then.points).filter(|_| alike);
            let lost = lost.find(|point| after.point(**point).is_some());
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
        let mut pages = BTreeMap::new();
        for page in first.into_iter().chain(others).take(MOST) {
            let rendered: Rendered = workers.page(&page.path, &Manner::watched()).ok()??;
            let points = rendered.trace.points.iter().copied().collect();
            let failures =
                rendered.failures.into_iter().map(|failure| (failure.point, failure.source, failure.message));
            let shown = Shown { page_type: page.page_type.to_string(), points, failures: failures.collect() };
            pages.insert(page.path.clone(), shown);
        }
        Some(pages)
    }
}
