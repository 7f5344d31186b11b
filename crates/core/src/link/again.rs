//! Linking again after files have changed: what the change can't have touched stays as it was.

use camino::Utf8PathBuf;
use rustc_hash::FxHashMap;

use super::ground::Ground;
use super::missed::Unheard;
use super::registry::Registry;
use crate::open::asks_the_same;
use crate::parallel;
use crate::read::{FileKind, Files, Project};
use crate::scan::{Facts, scan_file};
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
        let mut asked = false;
        for file in known {
            let before = self.ground.read_again(files, file);
            let now = self.ground.facts(file);
            if before.shape != now.shape {
                named.push(self.ground.project.file(file).kind);
                asked |= self.ground.project.is_layers(file) && !asks_the_same(&before.shape, &now.shape);
            }
        }
        if asked {
            return Err(Box::new(self));
        }
        // Where all names are as they were, they lead where they led, and only places have moved.
        if named.is_empty() {
            return Ok(self);
        }
        let kept = named.iter().all(|kind| *kind == FileKind::Template).then(|| self.settled.clone());
        let ground = self.taken_apart();
        Ok(match kept {
            Some(settled) => Registry::on(ground.seen_again(), settled, Unheard::default()),
            None => {
                let (project, facts, partly) = ground.into_parts();
                Registry::from_facts(project, facts, partly, Unheard::default())
            }
        })
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
