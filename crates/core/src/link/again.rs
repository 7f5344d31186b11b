//! Linking again after files have changed: what the change can't have touched stays as it was.

use std::sync::Arc;

use camino::Utf8PathBuf;
use rustc_hash::FxHashMap;

use super::found::Found;
use super::ground::Ground;
use super::interface::seen_alike;
use super::missed::Unheard;
use super::refs::Step;
use super::registry::{Before, Registry};
use super::settled::{Settled, read_alike};
use crate::open::asks_the_same;
use crate::parallel;
use crate::read::{FileKind, Files, Project};
use crate::scan::{Facts, Shape, scan_file};
use crate::source::FileId;

impl Registry {
    /// The registry after some files have changed, and nothing else: neither new files, nor what layers there are.
    /// Where more may have changed, the registry comes back, to be made [`again`](Registry::again).
    ///
    /// # Errors
    /// The registry itself, where the project has to be opened once more.
    pub fn edited(mut self, files: &dyn Files, changed: &[Utf8PathBuf]) -> Result<Registry, Box<Registry>> {
        let project = &self.ground.project;
        let there = |file: &FileId| {
            let file = project.file(*file);
            !files.list(&project.layer(file.layer).root, file.path.as_str()).is_empty()
        };
        let mut known = Vec::new();
        for path in changed {
            match project.files_at(path) {
                // Of pictures nothing was read but that they are there.
                found if found.is_empty() && project.is_media(files, path) => {}
                found if found.is_empty() || !found.iter().all(there) => return Err(Box::new(self)),
                found => known.extend(found),
            }
        }
        let mut named = Vec::new();
        let (mut asked, mut told) = (false, false);
        for file in known {
            let before = self.ground.read_again(files, file);
            let now = self.ground.facts(file);
            if before.shape != now.shape {
                asked |= self.ground.project.is_layers(file) && !asks_the_same(&before.shape, &now.shape);
                named.push((file, before.shape));
            } else {
                told |= (&before.flaws, &before.ignores) != (&now.flaws, &now.ignores);
            }
        }
        if asked {
            return Err(Box::new(self));
        }
        // Where all names are as they were, they lead where they led, and only places have moved.
        if named.is_empty() {
            if told {
                self.quiet.forget();
            }
            return Ok(self);
        }
        let kind = |file: FileId| self.ground.project.file(file).kind;
        if !named.iter().all(|(file, _)| kind(*file) == FileKind::Template) {
            let templates = named.iter().any(|(file, _)| kind(*file) == FileKind::Template);
            return Ok(self.settled_again(templates));
        }
        let alike = named.iter().all(|(file, before)| seen_alike(before, &self.ground.facts(*file).shape));
        if alike && self.missed.unheard == Unheard::default() {
            return Ok(self.linked_again(&named));
        }
        let settled = self.settled.clone();
        Ok(Registry::on(self.taken_apart().seen_again(), settled, Unheard::default()))
    }

    /// Links templates again of which other files see what they saw before: what those say stays as it is.
    fn linked_again(self, named: &[(FileId, Shape)]) -> Registry {
        let Registry { ground, settled, mut found, mut points, missed, reached, .. } = self;
        let ground = ground.seen_again();
        let used = points.values_mut().filter(|point| !point.uses.is_empty());
        found.uses = used.map(|point| (point.address, std::mem::take(&mut point.uses))).collect();
        found.referred = missed.referred;
        let mut files: Vec<FileId> = Vec::new();
        for (file, before) in named {
            found.look_again(&ground, &settled, *file, before);
            files.push(*file);
        }
        let before = Before { points, reached, files: &files };
        Registry::with(ground, settled, found, Unheard::default(), Some(before))
    }

    /// Links all again. Where no template changed, nor anything that the variables in them are held against, these
    /// lead where they led.
    fn settled_again(self, templates: bool) -> Registry {
        let (before, blind) = (self.settled.clone(), self.ground.blind);
        let variables = self.found.references.of_step(Step::Variables, self.ground.facts.len());
        let mut ground = self.taken_apart().seen_again();
        ground.forget_names();
        let settled = Arc::new(Settled::of(&ground));
        let same = !templates && ground.blind == blind && read_alike(&before, &settled);
        std::thread::spawn(move || drop(before));
        let found = Found::of(&ground, &settled, same.then_some(variables));
        Registry::with(ground, settled, found, Unheard::default(), None)
    }

    /// As [`new`](Registry::new), with the facts of all files that are as they were kept from before.
    pub fn again(known: Registry, project: Project) -> Registry {
        let before = &known.ground.project;
        let places = before.files.iter().enumerate().map(|(at, file)| {
            let root = before.layer(file.layer).root.as_str();
            ((root, file.path.as_str()), at)
        });
        let places: FxHashMap<(&str, &str), usize> = places.collect();
        let kept: Vec<Option<usize>> = project
            .files
            .iter()
            .map(|file| {
                let at = *places.get(&(project.layer(file.layer).root.as_str(), file.path.as_str()))?;
                let old = &before.files[at];
                let same = old.kind == file.kind && old.content.is_text() && old.content == file.content;
                same.then_some(at)
            })
            .collect();
        let (_, facts, partly) = known.taken_apart().into_parts();
        let mut facts: Vec<Option<Facts>> = facts.into_iter().map(Some).collect();
        let anew = parallel::map(project.files.len(), |at| {
            let id = FileId(at as u32);
            kept[at].is_none().then(|| scan_file(project.file(id)))
        });
        let all = anew.into_iter().zip(kept).enumerate().map(|(at, (new, kept))| {
            let known = kept.and_then(|kept| facts.get_mut(kept)?.take());
            new.or(known).unwrap_or_else(|| scan_file(project.file(FileId(at as u32))))
        });
        let all = all.collect();
        Registry::from_facts(project, all, partly, Unheard::default())
    }

    /// Its ground; all that was linked on it is taken apart on the side, which takes as long as some steps of
    /// what comes next.
    fn taken_apart(mut self) -> Ground {
        let ground = std::mem::replace(&mut self.ground, Ground::nothing());
        std::thread::spawn(move || drop(self));
        ground
    }
}
