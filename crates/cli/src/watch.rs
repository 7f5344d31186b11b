//! `check --watch`: checks again whenever a file of a layer changes, from facts that are kept in memory.

use std::collections::BTreeSet;
use std::io::{IsTerminal, Write};
use std::time::Instant;

use anyhow::{Result, bail};
use camino::Utf8PathBuf;
use truehook_changes::{Change, Changes};
use truehook_core::link::Registry;
use truehook_core::read::{CachedFiles, OpenError, Project};
use truehook_core::rules;

use crate::Outcome;
use crate::args::{CheckArgs, Report};
use crate::output::told::Told;
use crate::workshop;

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
    folders.iter().try_for_each(|folder| workshop::tell_left_over(folder))?;
    let mut changes = Changes::new()?;
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
    let mut begun = Instant::now();
    loop {
        for theme in &mut themes {
            theme.link();
            // What is written before a folder is watched goes unseen, so it is read once more.
            while watch_all(&mut changes, theme)? {
                (theme.files, theme.registry) = (CachedFiles::default(), None);
                theme.link();
            }
        }
        draw(&themes, args, begun)?;
        let Some(change) = changes.wait() else { return Ok(Outcome::Clean) };
        begun = change.begun;
        themes.iter_mut().for_each(|theme| theme.hear(&change));
    }
}

impl Watched {
    /// Takes note of a change.
    fn hear(&mut self, change: &Change) {
        match &change.paths {
            Some(paths) => {
                paths.iter().for_each(|path| self.files.forget(path));
                self.changed.extend(paths.iter().cloned());
            }
            // Anything may have changed.
            None => (self.files, self.registry, self.changed) = Default::default(),
        }
    }

    fn link(&mut self) {
        let files: Vec<String> = self.changed.iter().map(ToString::to_string).collect();
        let begun = Instant::now();
        let linked = self.linked();
        let milliseconds = begun.elapsed().as_millis();
        tracing::debug!(theme = %self.folder, ?files, milliseconds, opened = linked.is_ok(), "linked again");
        match linked {
            Ok(registry) => (self.registry, self.error) = (Some(registry), None),
            Err(error) => (self.registry, self.error) = (None, Some(error)),
        }
    }

    /// The theme as it is now, from what is known of it.
    fn linked(&mut self) -> Result<Registry, OpenError> {
        // Editors write beside a file, and then in its place; only what is left in the end counts.
        let changed = std::mem::take(&mut self.changed);
        let known = match self.registry.take() {
            Some(known) => {
                let changed: Vec<_> = changed.into_iter().filter(|path| known.project().is_touched_by(path)).collect();
                match known.edited(&self.files, &changed) {
                    Ok(registry) => return Ok(registry),
                    Err(known) => Some(*known),
                }
            }
            None => None,
        };
        let project = Project::open(&self.files, &self.folder)?;
        Ok(match known {
            Some(known) => Registry::again(known, project),
            None => Registry::new(project),
        })
    }
}

/// The one true path of each folder that has to do with a theme.
fn roots_of(theme: &Watched) -> Vec<Utf8PathBuf> {
    let layers = theme.registry.iter().flat_map(|registry| &registry.project().layers);
    let mut roots: Vec<Utf8PathBuf> = layers.filter(|layer| !layer.built_in).map(|layer| layer.root.clone()).collect();
    if roots.is_empty() {
        roots.push(theme.folder.canonicalize_utf8().unwrap_or_else(|_| theme.folder.clone()));
    }
    roots
}

/// Watches the folders of a theme and of all that it builds on. Answers whether one of them is new.
fn watch_all(changes: &mut Changes, theme: &Watched) -> Result<bool> {
    let mut new = false;
    for root in roots_of(theme) {
        new |= changes.watch(&root)?;
    }
    Ok(new)
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
    let mut out = crate::output::stream::stdout();
    if std::io::stdout().is_terminal() {
        // Clears the screen, and what has scrolled off it.
        write!(out, "\x1b[2J\x1b[3J\x1b[H")?;
    }
    out.write_all(&text)?;
    writeln!(out, "watching; Ctrl-C ends it")?;
    out.flush()?;
    Ok(())
}
