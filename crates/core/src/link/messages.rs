//! Messages: what templates and callbacks want translated, and what the translations hold.

use super::reference::{Meant, Wanted};
use super::*;
use crate::names;
use crate::read::FileKind;
use crate::scan::{Entry, WordsShape};

/// One use of a message.
#[derive(Clone, Copy, Debug)]
pub struct MessageUse<'r> {
    /// The template or module.
    pub file: FileId,
    /// The message.
    pub message: &'r crate::scan::Message,
}

impl Registry {
    /// What a translation says.
    pub fn words(&self, file: FileId) -> Option<&WordsShape> {
        match &self.facts(file).shape {
            Shape::Words(words) => Some(words),
            _ => None,
        }
    }

    /// All translations: their files and languages, the lowest layer first.
    pub fn translations(&self) -> Vec<(FileId, &str)> {
        let files = self.project.files.iter().enumerate().filter(|(_, file)| file.kind == FileKind::Words);
        files.map(|(at, file)| (FileId(at as u32), file.path.file_stem().unwrap_or_default())).collect()
    }

    /// The languages that there are translations for.
    pub fn languages(&self) -> Vec<&str> {
        let mut found: Vec<&str> = self.translations().into_iter().map(|(_, language)| language).collect();
        found.sort_unstable();
        found.dedup();
        found
    }

    /// All messages in the order of the files.
    pub fn messages(&self) -> impl Iterator<Item = MessageUse<'_>> {
        self.facts.iter().enumerate().flat_map(|(at, facts)| {
            let file = FileId(at as u32);
            facts.shape.messages().iter().map(move |message| MessageUse { file, message })
        })
    }

    /// The translation of a message that counts: that of the highest layer that has one.
    pub fn entry(&self, language: &str, id: &str) -> Option<(FileId, &Entry)> {
        let known = Name::known(id)?;
        let files = self.translations().into_iter().rev().filter(|(_, own)| *own == language);
        files.into_iter().find_map(|(file, _)| {
            let entries = self.words(file)?.entries.iter();
            entries.into_iter().find(|entry| entry.id == known && entry.is_translated()).map(|entry| (file, entry))
        })
    }

    /// Ties each message to its entry in every language.
    pub(super) fn link_messages(&mut self) {
        let translations = self.translations();
        if translations.is_empty() {
            return;
        }
        let mut entries: FxHashMap<(&str, Name), Place> = FxHashMap::default();
        let mut unseen: Vec<&str> = Vec::new();
        for (file, language) in &translations {
            let Some(words) = self.words(*file) else { continue };
            if words.broken {
                unseen.push(language);
            }
            for entry in words.entries.iter().filter(|entry| entry.is_translated()) {
                entries.insert((*language, entry.id), Place { file: *file, at: entry.at });
            }
        }
        let ids: HashSet<Name> = self.messages().map(|used| used.message.id.name).collect();
        let mut all: Vec<Name> = entries.keys().map(|(_, id)| *id).collect();
        all.sort();
        all.dedup();
        let unused: Vec<Name> = all.iter().copied().filter(|id| !ids.contains(id)).collect();
        let mut found = Vec::new();
        for used in self.messages() {
            let from = Place { file: used.file, at: used.message.id.at };
            let id = used.message.id.name;
            for language in self.languages() {
                let outcome = match entries.get(&(language, id)) {
                    Some(place) => Outcome::Found(Target::Entry(*place)),
                    None if unseen.contains(&language) => Outcome::Unknown,
                    None => {
                        // The same words with another ending are nearer than names are to each other.
                        let near = nearest_text(&id, &unused).or_else(|| nearest_text(&id, &all));
                        let meant = near.and_then(|near| {
                            let place = entries.get(&(language, near))?;
                            Some(Meant { written: near, target: Target::Entry(*place), certain: false })
                        });
                        Outcome::Missing { wanted: Wanted::Message(id), meant }
                    }
                };
                found.push((from, id, outcome));
            }
        }
        for (from, id, outcome) in found {
            self.refer(Link::MessageToEntry, from, id, outcome);
        }
    }
}

/// The text that was most likely changed into this one: at most a third of it differs.
fn nearest_text(text: &str, known: &[Name]) -> Option<Name> {
    let most = text.chars().count().max(6) / 3;
    let distance = |other: &Name| strsim::levenshtein(text, other);
    let near = known.iter().filter(|other| other.len().abs_diff(text.len()) <= 4 * most);
    let (distance, near) = near.map(|other| (distance(other), *other)).min()?;
    let alone = names::nearest(text, [near.as_str()]).is_some();
    (distance <= most || alone).then_some(near)
}
