//! `check --watch`: checks again whenever a file of a layer changes, from facts that are kept in memory.

use std::collections::BTreeSet;
use std::io::{IsTerminal, Write};
use std::path::PathBuf;
use std::sync::mpsc::{Receiver, channel};
use std::time::{Duration, Instant};

use anyhow::{Context, Result, bail};
use camino::{Utf8Path, Utf8PathBuf};
use notify::{EventKind, RecommendedWatcher, RecursiveMode};
use notify_debouncer_full::{DebounceEventResult, Debouncer, NoCache, new_debouncer_opt};
use truehook_core::link::Registry;
use truehook_core::read::{CachedFiles, OpenError, Project};
use truehook_core::rules;

use crate::Outcome;
use crate::args::{CheckArgs, Report};
use crate::output::told::Told;

/// How long a write may take to settle, and how often it is looked whether it has.
const SETTLE: Duration = Duration::from_millis(20);
const TICK: Duration = Duration::from_millis(5);

type Watch = Debouncer<RecommendedWatcher, NoCache>;

/// A theme that is watched.
struct Watched {
    folder: Utf8PathBuf,
    files: CachedFiles,
    registry: Option<Registry>,
    /// Why it can't be opened, where it can't.
    error: Option<OpenError>,
    /// What has changed since it was linked.
    changed: BTreeSet<Utf8PathBuf>,
}

pub fn run(folders: &[Utf8PathBuf], args: &CheckArgs) -> Result<Outcome> {
    if args.format != Report::Text {
        bail!("--watch prints for people; leave --format away");
    }
    let (send, changes) = channel();
    let settled = move |events: DebounceEventResult| {
        // Checking reads files, which is no change of them.
        let events = events.unwrap_or_default().into_iter();
        let changes = events.filter(|event| !matches!(event.kind, EventKind::Access(_)));
        let paths: Vec<PathBuf> = changes.flat_map(|event| event.event.paths).collect();
        if !paths.is_empty() {
            let _ = send.send((Instant::now(), paths));
        }
    };
    let mut watcher: Watch = new_debouncer_opt(SETTLE, Some(TICK), settled, NoCache, notify::Config::default())
        .context("the system can't tell when files change")?;
    let mut themes: Vec<Watched> = folders
        .iter()
        .map(|folder| Watched {
            folder: folder.clone(),
            files: CachedFiles::default(),
            registry: None,
            error: None,
            changed: BTreeSet::new(),
        })
        .collect();
    let mut roots = BTreeSet::new();
    let mut begun = Instant::now();
    loop {
        for theme in &mut themes {
            theme.link();
            // What is written before a folder is watched goes unseen, so it is read once more.
            while watch_all(&mut watcher, &mut roots, theme)? {
                (theme.files, theme.registry) = (CachedFiles::default(), None);
                theme.link();
            }
        }
        draw(&themes, args, begun)?;
        begun = match wait(&changes, &mut themes) {
            Some(begun) => begun,
            None => return Ok(Outcome::Clean),
        };
    }
}

impl Watched {
    fn link(&mut self) {
        match self.linked() {
            Ok(registry) => (self.registry, self.error) = (Some(registry), None),
            Err(error) => (self.registry, self.error) = (None, Some(error)),
        }
    }

    /// The theme as it is now, from what is known of it.
    fn linked(&mut self) -> Result<Registry, OpenError> {
        // Editors write beside a file, and then in its place; only what is left in the end counts.
        let changed: Vec<Utf8PathBuf> = std::mem::take(&mut self.changed).into_iter().collect();
        let is_ours = |path: &Utf8Path| path.is_file();
        let known = match self.registry.take() {
            Some(known) if !changed.is_empty() && changed.iter().all(|path| is_ours(path)) => {
                match known.edited(&self.files, &changed) {
                    Ok(registry) => return Ok(registry),
                    Err(known) => Some(*known),
                }
            }
            known => known,
        };
        let project = Project::open(&self.files, &self.folder)?;
        Ok(match known {
            Some(known) => Registry::again(known, project),
            None => Registry::new(project),
        })
    }
}

fn roots_of(theme: &Watched) -> Vec<Utf8PathBuf> {
    let layers = theme.registry.iter().flat_map(|registry| &registry.project().layers);
    let roots = layers.filter(|layer| !layer.built_in).map(|layer| layer.root.clone());
    roots.chain([theme.folder.clone()]).collect()
}

/// Watches the folders of a theme and of all that it builds on. Answers whether one of them is new.
fn watch_all(watcher: &mut Watch, known: &mut BTreeSet<Utf8PathBuf>, theme: &Watched) -> Result<bool> {
    let mut new = false;
    for root in roots_of(theme) {
        if known.insert(root.clone()) {
            let watched = watcher.watch(root.as_std_path(), RecursiveMode::Recursive);
            watched.with_context(|| format!("{root} can't be watched"))?;
            new = true;
        }
    }
    Ok(new)
}

/// Waits for changes that have settled. Answers when they had; nothing where no more can come.
fn wait(changes: &Receiver<(Instant, Vec<PathBuf>)>, themes: &mut [Watched]) -> Option<Instant> {
    let (begun, mut paths) = changes.recv().ok()?;
    paths.extend(changes.try_iter().flat_map(|(_, more)| more));
    for path in paths.into_iter().filter_map(|path| Utf8PathBuf::from_path_buf(path).ok()) {
        for theme in themes.iter_mut() {
            theme.files.forget(&path);
            theme.changed.insert(path.clone());
        }
    }
    Some(begun)
}

/// Checks all themes, and draws what comes of it anew.
fn draw(themes: &[Watched], args: &CheckArgs, begun: Instant) -> Result<()> {
    let mut told = Told::new(args, themes.len() > 1);
    let mut text = Vec::new();
    for theme in themes {
        if let Some(registry) = &theme.registry {
            told.tell(&mut text, registry, &rules::check(registry), &theme.folder, begun.elapsed())?;
        }
        // It may be there again with the next change.
        if let Some(error) = &theme.error {
            writeln!(text, "{error}")?;
        }
    }
    let mut out = anstream::stdout().lock();
    if std::io::stdout().is_terminal() {
        // Clears the screen, and what has scrolled off it.
        write!(out, "\x1b[2J\x1b[3J\x1b[H")?;
    }
    out.write_all(&text)?;
    writeln!(out, "watching; Ctrl-C ends it")?;
    out.flush()?;
    Ok(())
}
