//! The theme as it is now, and its pages, rendered when somebody asks for them.

use std::collections::HashMap;
use std::sync::{Arc, Mutex, OnceLock, PoisonError, RwLock};

use std::time::{Instant, SystemTime, UNIX_EPOCH};

use camino::Utf8PathBuf;
use tokio::sync::{Semaphore, watch};
use truehook_changes::{Change, Changes, WatchError};
use truehook_core::edit;
use truehook_core::link::Registry;
use truehook_core::read::{CachedFiles, DiskFiles, Project};
use truehook_core::rules::{self, Checked};
use truehook_stage::map;
use truehook_stage::workers::{Program, Setup, Workers};
use truehook_stage::{Failure, Manner, PageInfo, Stage};

use crate::files::Files;
use crate::good::Good;
use crate::state::{Done, Shown, locked};
use crate::view::View;

/// How many workers there may be at once.
const WORKERS: usize = 8;
/// Of how many views workers are kept.
const VIEWS: usize = 4;

/// The ports that are listened on: two, so that pages of the theme have another origin than what can write.
#[derive(Clone, Copy, Debug)]
pub struct Ports {
    /// Of the shell, with the drawer, the token and all that writes.
    pub shell: u16,
    /// Of the theme's pages, and of the sheets that show them.
    pub site: u16,
}

/// A theme that is looked at.
pub struct Room {
    pub folder: Utf8PathBuf,
    pub ports: Ports,
    program: Program,
    /// The language of all who choose none.
    language: Option<String>,
    now: RwLock<Arc<Now>>,
    /// The number of what is there now.
    pub number: watch::Sender<u64>,
    pub good: Good,
    pub files: Files,
    /// Whoever renders has one of these.
    pub turns: Arc<Semaphore>,
    /// Known to our own pages alone.
    pub token: String,
    /// What was written from here, to be taken back.
    pub done: Mutex<Vec<Done>>,
}

/// What is there between two changes.
pub struct Now {
    pub number: u64,
    /// The theme, or why it can't be opened.
    pub theme: Result<Theme, String>,
}

/// A theme that could be opened.
pub struct Theme {
    pub registry: Arc<Registry>,
    /// Can one of its files not be understood?
    pub broken: bool,
    checked: OnceLock<Checked>,
    site: OnceLock<Site>,
    stands: Mutex<Vec<(String, Arc<Stand>)>>,
    pages: Mutex<HashMap<String, Once>>,
}

/// A page that somebody has asked for: it is rendered once.
type Once = Arc<OnceLock<Result<Arc<Shown>, String>>>;

/// What a theme has to show.
pub struct Site {
    pub pages: Vec<PageInfo>,
    /// What no page can show.
    pub failures: Vec<Failure>,
}

/// A theme as one view wants it, with those who render it.
pub struct Stand {
    pub registry: Arc<Registry>,
    pub workers: Workers,
}

impl Theme {
    fn new(registry: Registry) -> Theme {
        let broken = registry.all_facts().iter().any(|facts| facts.shape.is_broken());
        Theme {
            registry: Arc::new(registry),
            broken,
            checked: OnceLock::new(),
            site: OnceLock::new(),
            stands: Mutex::default(),
            pages: Mutex::default(),
        }
    }

    /// Its registry, where nobody looks at it any more, and the workers of a view.
    fn taken_apart(self, view: &str) -> (Option<Registry>, Option<Workers>) {
        let Theme { registry, stands, pages, .. } = self;
        // What they have rendered holds the registry, too.
        drop(pages);
        let stands = stands.into_inner().unwrap_or_else(PoisonError::into_inner);
        let stand = stands.into_iter().find(|(key, _)| key == view).and_then(|(_, stand)| Arc::try_unwrap(stand).ok());
        let workers = stand.map(|Stand { workers, .. }| workers.without_registry());
        (Arc::try_unwrap(registry).ok(), workers)
    }

    /// Takes over the workers of the theme before some files have changed. Where they can't be used, others are
    /// started once somebody asks for a page.
    fn take_over(&self, workers: Workers, changed: &[Utf8PathBuf]) {
        if let Ok(workers) = workers.again(self.registry.clone(), changed) {
            let stand = Arc::new(Stand { registry: self.registry.clone(), workers });
            locked(&self.stands).push((View::default().key(), stand));
        }
    }

    /// What is wrong with it.
    pub fn checked(&self) -> &Checked {
        self.checked.get_or_init(|| rules::check(&self.registry))
    }

    /// Its pages.
    pub fn site(&self) -> &Site {
        self.site.get_or_init(|| {
            let stage = Stage::new(self.registry.clone());
            Site { pages: stage.pages(), failures: stage.failures() }
        })
    }

    /// The page of that path, with or without the slash at its end.
    pub fn find(&self, path: &str) -> Option<&PageInfo> {
        let slashed = format!("{}/", path.trim_end_matches('/'));
        self.site().pages.iter().find(|page| page.path == path || page.path == slashed)
    }
}

impl Room {
    /// A theme's room. It is opened at once; where it can't be, that is shown instead.
    pub fn new(folder: Utf8PathBuf, ports: Ports, program: Program, language: Option<String>) -> Room {
        // Another number than any that a page can have from a preview before this one.
        let number = SystemTime::now().duration_since(UNIX_EPOCH).map_or(1, |time| time.as_millis() as u64);
        let now = Now { number, theme: Err("it is being opened".into()) };
        Room {
            folder,
            ports,
            program,
            language,
            now: RwLock::new(Arc::new(now)),
            number: watch::channel(number).0,
            good: Good::default(),
            files: Files::default(),
            turns: Arc::new(Semaphore::new(WORKERS)),
            token: uuid::Uuid::new_v4().simple().to_string(),
            done: Mutex::default(),
        }
    }

    /// What is there now. Whoever asks while it changes waits until it has.
    pub fn now(&self) -> Arc<Now> {
        self.now.read().unwrap_or_else(PoisonError::into_inner).clone()
    }

    /// Follows every change, until no more can come.
    ///
    /// # Errors
    /// Where the theme's folder can't be watched from the beginning.
    pub fn follow(&self, mut changes: Changes, ready: impl FnOnce()) -> Result<(), WatchError> {
        let mut files = CachedFiles::default();
        self.renew(&mut files, None);
        while self.watch(&mut changes)? {
            files = CachedFiles::default();
            self.renew(&mut files, None);
        }
        self.number.send_replace(self.now().number);
        ready();
        while let Some(change) = changes.wait() {
            let begun = self.now().number;
            self.renew(&mut files, Some(&change));
            // A folder that comes back is another one for the system.
            while self.watch(&mut changes).unwrap_or(false) {
                files = CachedFiles::default();
                self.renew(&mut files, None);
            }
            let number = self.now().number;
            if number != begun {
                self.number.send_replace(number);
            }
        }
        Ok(())
    }

    fn watch(&self, changes: &mut Changes) -> Result<bool, WatchError> {
        let now = self.now();
        let mut new = changes.watch_parent(&self.folder)?;
        if let Ok(theme) = &now.theme {
            for layer in theme.registry.project().layers.iter().filter(|layer| !layer.built_in) {
                new |= changes.watch(&layer.root)?;
            }
        } else if self.folder.is_dir() {
            new |= changes.watch(&self.folder)?;
        }
        Ok(new)
    }

    /// Opens the theme anew, as far as a change has to do with it.
    fn renew(&self, files: &mut CachedFiles, change: Option<&Change>) {
        let paths = change.and_then(|change| change.paths.clone());
        match &paths {
            Some(paths) => paths.iter().for_each(|path| files.forget(path)),
            None => *files = CachedFiles::default(),
        }
        let mut now = self.now.write().unwrap_or_else(PoisonError::into_inner);
        let number = now.number;
        let touched: Option<Vec<Utf8PathBuf>> = match (&now.theme, paths) {
            (Ok(theme), Some(paths)) => {
                Some(paths.into_iter().filter(|path| theme.registry.project().is_touched_by(path)).collect())
            }
            _ => None,
        };
        if touched.as_ref().is_some_and(Vec::is_empty) {
            return;
        }
        let begun = Instant::now();
        let empty = Arc::new(Now { number, theme: Err(String::new()) });
        let before = std::mem::replace(&mut *now, empty);
        // Where nobody is looking at it any more, what the change can't have touched stays.
        let before = Arc::try_unwrap(before).ok().and_then(|before| before.theme.ok());
        let (registry, workers) = before.map(|theme| theme.taken_apart(&View::default().key())).unwrap_or_default();
        let opened = || Project::open(&*files, &self.folder);
        let kept = touched.clone();
        let registry = match (registry, touched) {
            (Some(known), Some(touched)) => match known.edited(&*files, &touched) {
                Ok(registry) => Ok(registry),
                Err(known) => opened().map(|project| Registry::again(*known, project)),
            },
            (Some(known), None) => opened().map(|project| Registry::again(known, project)),
            (None, _) => opened().map(Registry::new),
        };
        let theme = registry.map(Theme::new).map_err(|error| error.to_string());
        if let (Ok(theme), Some(workers), Some(touched)) = (&theme, workers, &kept) {
            theme.take_over(workers, touched);
        }
        let (files, milliseconds) =
            (kept.iter().flatten().map(|path| path.as_str()).collect::<Vec<_>>(), begun.elapsed().as_millis());
        match &theme {
            Ok(_) => tracing::debug!(?files, milliseconds, number = number + 1, "linked again"),
            Err(why) => tracing::warn!(?files, why, "the theme can't be opened"),
        }
        *now = Arc::new(Now { number: number + 1, theme });
    }

    /// The workers of a view. Those of another one that nobody has asked for in a long time go.
    pub fn stand(&self, theme: &Theme, view: &View) -> Result<Arc<Stand>, String> {
        let key = view.key();
        let mut stands = locked(&theme.stands);
        if let Some(at) = stands.iter().position(|(known, _)| *known == key) {
            let stand = stands.remove(at);
            stands.push(stand);
            return Ok(stands[stands.len() - 1].1.clone());
        }
        let mut setup = Setup::new(self.folder.clone());
        setup.language = view.language.clone().or_else(|| self.language.clone());
        let mut registry = theme.registry.clone();
        if !view.is_plain() {
            let project = registry.project();
            let plan = View { language: None, ..view.clone() }.plan(&registry).map_err(|error| error.to_string())?;
            let changes = plan.changes(project).map_err(|error| error.to_string())?;
            let over = changes.iter().filter_map(|change| Some((change.path.clone(), change.after.clone()?)));
            setup.over = over.collect();
            let project = edit::preview(&DiskFiles, project, &changes).map_err(|error| error.to_string())?;
            registry = Arc::new(Registry::new(project));
        }
        let workers = Workers::start(self.program.clone(), setup, WORKERS);
        let workers = workers.over(registry.clone());
        let stand = Arc::new(Stand { registry, workers });
        stands.push((key, stand.clone()));
        if stands.len() > VIEWS {
            stands.remove(0);
        }
        Ok(stand)
    }

    /// A page as a view shows it. Each is rendered once between two changes, however many ask for it.
    pub fn page(&self, theme: &Theme, path: &str, view: &View) -> Result<Arc<Shown>, String> {
        let key = format!("{path} {}", view.key());
        let place = locked(&theme.pages).entry(key.clone()).or_default().clone();
        let shown = place.get_or_init(|| {
            let stand = self.stand(theme, view)?;
            let begun = Instant::now();
            let page = stand.workers.page(path, &Manner::sourced()).map_err(|error| error.to_string())?;
            let failures = page.as_ref().map_or(0, |page| page.failures.len());
            tracing::debug!(path, failures, milliseconds = begun.elapsed().as_millis(), "rendered");
            let page = page.ok_or_else(|| format!("there is no page {path}"))?;
            let root = map::map(&stand.registry, &page);
            self.files.learn(stand.registry.project(), &page);
            let shown = Arc::new(Shown { page, root });
            if !theme.broken {
                self.good.keep(&key, &shown);
            }
            Ok(shown)
        });
        if shown.is_err() {
            // It may be another time.
            locked(&theme.pages).remove(&key);
        }
        shown.clone()
    }

    /// The last good form of a page.
    pub fn last_good(&self, path: &str, view: &View) -> Option<Arc<Shown>> {
        let slashed = format!("{}/", path.trim_end_matches('/'));
        [path, slashed.as_str()].iter().find_map(|path| self.good.get(&format!("{path} {}", view.key())))
    }
}
