//! The worker's side: opens a theme, and answers.

use std::collections::HashSet;
use std::io::{self, Write};
use std::sync::atomic::{AtomicBool, Ordering};
use std::sync::{Arc, Mutex, PoisonError};
use std::time::Duration;

use camino::Utf8PathBuf;
use truehook_core::link::Registry;
use truehook_core::read::{DiskFiles, MemoryFiles, OverlayFiles, Project};

use super::message::{Answer, Ask, Setup, print};
use super::{frame, limits};
use crate::record::tree::Tree;
use crate::stage::{Rendered, Stage, Theme};
use crate::watch::Watch;

/// How often the steps are looked at.
const LOOK: Duration = Duration::from_millis(25);
/// After how many looks it is said that this is still at work.
const ALIVE: u32 = 10;

/// Where answers go. The thread that watches speaks, too.
struct Mouth(Mutex<io::Stdout>);

impl Mouth {
    fn say(&self, answer: &Answer) -> io::Result<()> {
        let line = frame::line(answer)?;
        let mut out = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        out.write_all(&line)?;
        out.flush()
    }
}

/// Answers on standard output what is asked on standard input, until that ends. The program that starts workers
/// calls this where it is started as one.
///
/// # Errors
/// Where one of the two can't be read or written, or what comes in is no question.
pub fn serve() -> io::Result<()> {
    let mouth = Arc::new(Mouth(Mutex::new(io::stdout())));
    let telling = mouth.clone();
    let watch = Arc::new(Watch::telling(move |code| drop(telling.say(&Answer::Begins(code)))));
    let busy = Arc::new(AtomicBool::new(false));
    look_after(&watch, &mouth, &busy);
    let mut opened: Option<Opened> = None;
    // Pages share their files: each is sent once.
    let mut sent = HashSet::new();
    let mut input = io::stdin().lock();
    while let Some(ask) = frame::read(&mut input).map_err(|error| io::Error::other(format!("{error:?}")))? {
        busy.store(true, Ordering::Relaxed);
        limits::begin_question();
        let answer = match (ask, &opened) {
            (Ask::Open(setup), _) => match Opened::new(setup, &watch) {
                Ok(theme) => {
                    limits::limit_memory(theme.setup.mebibytes);
                    let print = theme.print();
                    opened = Some(theme);
                    Answer::Opened(print)
                }
                Err(message) => Answer::Refused(message),
            },
            (Ask::Again(changed), _) => match opened.take().map(|theme| theme.again(&changed, &watch)) {
                Some(Ok(theme)) => {
                    let print = theme.print();
                    sent.clear();
                    opened = Some(theme);
                    Answer::Opened(print)
                }
                Some(Err(message)) => Answer::Refused(message),
                None => Answer::Refused("no theme is open".into()),
            },
            (_, None) => Answer::Refused("no theme is open".into()),
            (Ask::Page { path, manner, announce }, Some(Opened { stage, .. })) => {
                watch.tell(announce);
                let watched = manner.watched;
                let page = stage.rendered(&path, manner);
                Answer::Page(page.map(|page| Box::new(lighter(page, watched, &mut sent))))
            }
            (Ask::Fire { point, path, args, manner, announce }, Some(Opened { stage, .. })) => {
                watch.tell(announce);
                let args = args.into_iter().map(|(name, json)| (name, serde_json::from_str(&json).unwrap_or_default()));
                Answer::Fired(stage.fired(point, &path, args.collect(), manner).map(Box::new))
            }
        };
        watch.tell(false);
        mouth.say(&answer)?;
        busy.store(false, Ordering::Relaxed);
    }
    Ok(())
}

/// A page without what nobody asked for, or has already.
fn lighter(mut page: Rendered, watched: bool, sent: &mut HashSet<String>) -> Rendered {
    if !watched {
        page.tree = Tree::default();
    }
    page.media.retain(|(name, _)| sent.insert(name.clone()));
    page
}

/// A theme that is open.
struct Opened {
    setup: Setup,
    registry: Arc<Registry>,
    stage: Stage,
}

impl Opened {
    fn new(setup: Setup, watch: &Arc<Watch>) -> Result<Opened, String> {
        let files = files(&setup);
        let project = Project::open_without_pages(&files, &setup.theme).map_err(|error| error.to_string())?;
        let registry = Registry::for_rendering(project, &files);
        Ok(Opened::over(setup, registry, watch))
    }

    fn over(setup: Setup, registry: Registry, watch: &Arc<Watch>) -> Opened {
        let registry = Arc::new(registry);
        let theme = Theme::watched(registry.clone(), watch.clone());
        let stage = theme.stage_in(Arc::new(theme.preview()), setup.language.as_deref());
        Opened { setup, registry, stage }
    }

    fn print(&self) -> u64 {
        print(self.registry.project())
    }

    /// The same theme after some of its files have changed. What the change can't have touched stays.
    fn again(self, changed: &[Utf8PathBuf], watch: &Arc<Watch>) -> Result<Opened, String> {
        let Opened { setup, registry, stage } = self;
        drop(stage);
        let files = files(&setup);
        let edited = Arc::try_unwrap(registry).ok().and_then(|known| known.edited(&files, changed).ok());
        match edited {
            Some(registry) => Ok(Opened::over(setup, registry, watch)),
            None => Opened::new(setup, watch),
        }
    }
}

/// The files on the disk, with those that stand in for them.
fn files(setup: &Setup) -> OverlayFiles<'static> {
    let mut over = MemoryFiles::new();
    for (path, bytes) in &setup.over {
        over.insert(path.clone(), bytes.as_slice());
    }
    OverlayFiles { below: &DiskFiles, over, gone: setup.gone.clone() }
}

/// Watches from a thread of its own: ends the process where a step goes on past its limit, and says again and again that
/// it is at work.
fn look_after(watch: &Arc<Watch>, mouth: &Arc<Mouth>, busy: &Arc<AtomicBool>) {
    let (watch, mouth, busy) = (watch.clone(), mouth.clone(), busy.clone());
    let look = move || {
        let mut seen = None;
        for round in 0u32.. {
            std::thread::sleep(LOOK);
            if let Some(code) = watch.overdue(&mut seen, limits::work()) {
                drop(mouth.say(&Answer::Overdue(code)));
                std::process::exit(3);
            }
            let speaks = round.is_multiple_of(ALIVE) && busy.load(Ordering::Relaxed);
            if speaks && mouth.say(&Answer::Alive).is_err() {
                return;
            }
        }
    };
    // Where there can be no thread, the program that asks has its own clock.
    drop(std::thread::Builder::new().stack_size(256 * 1024).spawn(look));
}
