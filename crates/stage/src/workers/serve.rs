//! The worker's side: opens a theme, and answers.

use std::collections::HashSet;
use std::io::{self, BufRead, Write};
use std::sync::{Arc, Mutex, PoisonError};
use std::time::Duration;

use truehook_core::link::Registry;
use truehook_core::read::{DiskFiles, MemoryFiles, OverlayFiles, Project};

use super::limits;
use super::message::{Answer, Ask, Setup, print};
use crate::record::tree::Tree;
use crate::stage::{Rendered, Stage, Theme};
use crate::watch::Watch;

/// How often the steps are looked at.
const LOOK: Duration = Duration::from_millis(25);

/// Where answers go. The thread that watches has a last word, too.
struct Mouth(Mutex<io::Stdout>);

impl Mouth {
    fn say(&self, answer: &Answer) -> io::Result<()> {
        let mut line = serde_json::to_vec(answer)?;
        line.push(b'\n');
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
    look_after(&watch, &mouth);
    let mut stage = None;
    // Pages share their files: each is sent once.
    let mut sent = HashSet::new();
    for line in io::stdin().lock().lines() {
        let ask: Ask = serde_json::from_str(&line?)?;
        limits::begin_question();
        let answer = match (ask, &stage) {
            (Ask::Open(setup), _) => match open(&setup, &watch) {
                Ok((opened, print)) => {
                    stage = Some(opened);
                    limits::limit_memory(setup.mebibytes);
                    Answer::Opened(print)
                }
                Err(message) => Answer::Refused(message),
            },
            (_, None) => Answer::Refused("no theme is open".into()),
            (Ask::Page { path, manner, announce }, Some(stage)) => {
                watch.tell(announce);
                let watched = manner.watched;
                let page = stage.rendered(&path, manner);
                Answer::Page(page.map(|page| Box::new(lighter(page, watched, &mut sent))))
            }
            (Ask::Fire { point, path, args, manner, announce }, Some(stage)) => {
                watch.tell(announce);
                Answer::Fired(stage.fired(point, &path, args, manner).map(Box::new))
            }
        };
        watch.tell(false);
        mouth.say(&answer)?;
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

fn open(setup: &Setup, watch: &Arc<Watch>) -> Result<(Stage, u64), String> {
    let mut over = MemoryFiles::new();
    for (path, text) in &setup.over {
        over.insert(path.clone(), text.as_str());
    }
    let files = OverlayFiles { below: &DiskFiles, over, gone: Vec::new() };
    let project = Project::open_without_pages(&files, &setup.theme).map_err(|error| error.to_string())?;
    let print = print(&project);
    let theme = Theme::watched(Arc::new(Registry::for_rendering(project, &files)), watch.clone());
    Ok((theme.stage_in(Arc::new(theme.preview()), setup.language.as_deref()), print))
}

/// Watches from a thread of its own, and ends the process where a step goes on past its time.
fn look_after(watch: &Arc<Watch>, mouth: &Arc<Mouth>) {
    let (watch, mouth) = (watch.clone(), mouth.clone());
    let look = move || {
        loop {
            std::thread::sleep(LOOK);
            if let Some(code) = watch.overdue() {
                drop(mouth.say(&Answer::Overdue(code)));
                std::process::exit(3);
            }
        }
    };
    // Where there can be no thread, the program that asks has its own clock.
    drop(std::thread::Builder::new().stack_size(256 * 1024).spawn(look));
}
