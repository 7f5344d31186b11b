//! Messages: what templates and callbacks want translated, and what the translations hold.

use rustc_hash::{FxHashMap, FxHashSet};

use super::ground::Ground;
use super::reference::{Link, Meaning, Meant, Outcome, Target, Wanted};
use super::refs::Refs;
use crate::name::Name;
use crate::name_sets::NameSet;
use crate::names::nearest;
use crate::source::Place;

/// Ties each message to its entry in every language.
pub(super) fn translate(ground: &Ground) -> Refs {
    let mut refs = Refs::default();
    let translations = ground.translations();
    if translations.is_empty() {
        return refs;
    }
    let mut entries: FxHashMap<(&str, Name), Place> = FxHashMap::default();
    let mut unseen: Vec<&str> = Vec::new();
    for (file, language) in &translations {
        let Some(words) = ground.words(*file) else { continue };
        if words.broken {
            unseen.push(language);
        }
        for entry in words.entries.iter().filter(|entry| entry.is_translated()) {
            entries.insert((*language, entry.id), Place { file: *file, at: entry.at });
        }
    }
    let ids: FxHashSet<Name> = ground.messages().map(|used| used.message.id.name).collect();
    let mut all: Vec<Name> = entries.keys().map(|(_, id)| *id).collect();
    all.sort();
    all.dedup();
    let unused = NameSet::new(all.iter().filter(|id| !ids.contains(id)).map(|id| id.as_str()));
    let all = NameSet::new(all.iter().map(|id| id.as_str()));
    let mut found = Vec::new();
    for used in ground.messages() {
        let from = Place { file: used.file, at: used.message.id.at };
        let id = used.message.id.name;
        for language in ground.languages() {
            let outcome = match entries.get(&(language, id)) {
                Some(place) => Outcome::Found(Target::Entry(*place)),
                None if unseen.contains(&language) => Outcome::Unknown,
                None => {
                    // The same words with another ending are nearer than names are to each other.
                    let near = nearest_text(&id, &unused).or_else(|| nearest_text(&id, &all));
                    let meant = near.and_then(|near| {
                        let place = entries.get(&(language, near))?;
                        Some(Meant::from(Meaning { written: near, target: Target::Entry(*place), certain: false }))
                    });
                    Outcome::Missing { wanted: Wanted::Message(id), meant }
                }
            };
            found.push((from, id, outcome));
        }
    }
    for (from, id, outcome) in found {
        refs.refer(ground, Link::MessageToEntry, from, id, outcome);
    }
    refs
}

/// The text that was most likely changed into this one: at most a third of it differs.
fn nearest_text(text: &str, known: &NameSet) -> Option<Name> {
    let most = text.chars().count().max(6) / 3;
    let distance = |other: &str| strsim::levenshtein(text, other);
    let near = known.within(text, most).into_iter().filter(|other| other.len().abs_diff(text.len()) <= 4 * most);
    let (distance, near) = near.map(|other| (distance(other), other)).min()?;
    let alone = nearest(text, [near]).is_some();
    (distance <= most || alone).then(|| near.into())
}
