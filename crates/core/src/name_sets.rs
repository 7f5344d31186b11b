//! Many known names, arranged so that what a misspelt one was meant to be is found without comparing
//! it to each.

use std::sync::{Arc, Mutex, PoisonError};

use rustc_hash::FxHashMap;

use crate::names::{self, Near};

/// With fewer, each is compared.
const FEW: usize = 128;
/// Where so many are within two edits, none of them is certain.
const CROWD: usize = 8;
/// How many steps are taken for a name that no known one is within two edits of.
const FAR: usize = 20_000;

/// What was most likely meant: a [`Near`] that outlives the set.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(crate) struct Nearest {
    pub written: String,
    pub distance: usize,
    pub certain: bool,
}

/// A set of names.
#[derive(Debug, Default)]
pub(crate) struct NameSet {
    /// Each without its extension, and whole; in order.
    words: Vec<(String, String)>,
}

impl NameSet {
    /// Those names. What stands there twice counts once.
    pub fn new<'a>(words: impl IntoIterator<Item = &'a str>) -> NameSet {
        let mut words: Vec<(String, String)> =
            words.into_iter().map(|word| (stem(word).to_string(), word.to_string())).collect();
        words.sort_unstable();
        words.dedup();
        NameSet { words }
    }

    /// The known name nearest to a misspelt one, as [`names::near`] finds it.
    ///
    /// Among very many names that are alike in all but their last letters, one that is three or four
    /// edits away may not be found.
    pub fn nearest(&self, name: &str) -> Option<Nearest> {
        let Near { word, distance, certain } = self.near(name)?;
        Some(Nearest { written: word.to_string(), distance, certain })
    }

    /// Names that may be within so many edits of one; those within two in any case.
    pub fn within(&self, name: &str, edits: usize) -> Vec<&str> {
        if self.words.len() <= FEW {
            return self.words.iter().map(|(_, word)| word.as_str()).collect();
        }
        let own: Vec<char> = stem(name).chars().collect();
        let walk = |edits, steps| Walk::new(&self.words, &own, edits).found(usize::MAX, steps);
        let found =
            [(1, usize::MAX), (2, usize::MAX), (edits, FAR)].into_iter().map(|(edits, steps)| walk(edits, steps));
        let found = found.into_iter().find(|found| !found.is_empty()).unwrap_or_default();
        found.into_iter().map(|at| self.words[at].1.as_str()).collect()
    }

    fn near(&self, name: &str) -> Option<Near<'_>> {
        if self.words.len() <= FEW {
            return names::near(name, self.words.iter().map(|(_, word)| word.as_str()));
        }
        let own: Vec<char> = stem(name).chars().collect();
        let reach = names::reach(stem(name));
        let lengths = Some((stem(name).len(), reach));
        let walk = |edits, most, steps| Walk { lengths, ..Walk::new(&self.words, &own, edits) }.found(most, steps);
        let word = |at: usize| self.words[at].1.as_str();
        let near = |found: &[usize]| names::near(name, found.iter().map(|at| word(*at)));
        // Most slips are a single edit; then all that is left to know is whether another name is near, too.
        let one = walk(1, usize::MAX, usize::MAX);
        if let Some(nearest) = near(&one).filter(|near| near.distance <= 1) {
            let two = walk(2, CROWD, usize::MAX);
            let certain = two.len() < CROWD && near(&two).is_some_and(|near| near.certain);
            return Some(Near { certain, ..nearest });
        }
        let two = near(&walk(2, usize::MAX, usize::MAX));
        two.or_else(|| near(&walk(reach, usize::MAX, FAR)).filter(|_| reach > 2))
    }
}

/// What a name is compared by: files of a kind all end alike.
fn stem(word: &str) -> &str {
    word.strip_suffix(names::extension(word)).unwrap_or(word)
}

/// A walk over sorted words that leaves out all those whose beginning is too far from a name.
struct Walk<'w> {
    words: &'w [(String, String)],
    name: &'w [char],
    edits: usize,
    /// How many bytes the name has, and by how many a word may be longer or shorter; without, by any.
    lengths: Option<(usize, usize)>,
    /// The distances of the first letters of a word, of none, of one and so on, to those of the name: row
    /// by row.
    rows: Vec<usize>,
    /// The letters that the rows stand for.
    letters: Vec<char>,
}

impl<'w> Walk<'w> {
    fn new(words: &'w [(String, String)], name: &'w [char], edits: usize) -> Walk<'w> {
        Walk { words, name, edits, lengths: None, rows: (0..=name.len()).collect(), letters: Vec::new() }
    }

    /// The words within so many edits, as positions; no more than so many, and those that are found in so
    /// many steps.
    fn found(mut self, most: usize, mut steps: usize) -> Vec<usize> {
        let mut found = Vec::new();
        let mut at = 0;
        while let Some((word, _)) = self.words.get(at).filter(|_| found.len() < most) {
            let same = self.letters.iter().zip(word.chars()).take_while(|(one, other)| **one == *other).count();
            self.letters.truncate(same);
            self.rows.truncate((same + 1) * self.width());
            let mut over = None;
            let begin = self.letters.iter().map(|letter| letter.len_utf8()).sum::<usize>();
            for (offset, letter) in word[begin..].char_indices() {
                steps = match steps.checked_sub(1) {
                    Some(left) => left,
                    None => return found,
                };
                self.step(letter);
                if self.is_too_far() {
                    over = Some(&word[..begin + offset + letter.len_utf8()]);
                    break;
                }
            }
            match over {
                // All that begin like this are too far as well.
                Some(prefix) => at += self.words[at..].partition_point(|(other, _)| other.starts_with(prefix)),
                None => {
                    let near = self.rows.last().is_some_and(|distance| *distance <= self.edits);
                    // Names of another length are no slip, as `names::near` sees it.
                    let alike = self.lengths.is_none_or(|(own, most)| word.len().abs_diff(own) <= most);
                    found.extend((near && alike).then_some(at));
                    at += 1;
                }
            }
        }
        found
    }

    fn width(&self) -> usize {
        self.name.len() + 1
    }

    /// Takes one letter more. Two neighbours that change places count as one edit.
    fn step(&mut self, letter: char) {
        let above = self.rows.len() - self.width();
        self.rows.push(self.rows[above] + 1);
        for (at, own) in self.name.iter().enumerate() {
            let replaced = self.rows[above + at] + usize::from(*own != letter);
            let mut least = replaced.min(self.rows[above + at + 1] + 1).min(self.rows[above + self.width() + at] + 1);
            if let (Some(last), Some(before)) = (self.letters.last(), at.checked_sub(1))
                && *last == *own
                && self.name[before] == letter
            {
                least = least.min(self.rows[above - self.width() + before] + 1);
            }
            self.rows.push(least);
        }
        self.letters.push(letter);
    }

    fn is_too_far(&self) -> bool {
        let mut rows = self.rows.rchunks(self.width());
        let mut least = || rows.next().and_then(|row| row.iter().min()).copied().unwrap_or(0);
        least() > self.edits && least() + 1 > self.edits
    }
}

/// Sets of names that are asked often, by what they are the names of.
#[derive(Debug)]
pub(crate) struct NameSets<K> {
    sets: Mutex<FxHashMap<K, Arc<NameSet>>>,
}

impl<K> Default for NameSets<K> {
    fn default() -> NameSets<K> {
        NameSets { sets: Mutex::default() }
    }
}

impl<K: std::hash::Hash + Eq> NameSets<K> {
    /// The set of that key, gathered when it is asked for first.
    pub fn of<'a, I: IntoIterator<Item = &'a str>>(&self, key: K, words: impl FnOnce() -> I) -> Arc<NameSet> {
        let mut sets = self.sets.lock().unwrap_or_else(PoisonError::into_inner);
        sets.entry(key).or_insert_with(|| Arc::new(NameSet::new(words()))).clone()
    }
}

impl<K: std::hash::Hash + Eq> NameSets<K> {
    /// The same, of words that are made when it is asked for first.
    pub fn of_owned<I: IntoIterator<Item = String>>(&self, key: K, words: impl FnOnce() -> I) -> Arc<NameSet> {
        let mut sets = self.sets.lock().unwrap_or_else(PoisonError::into_inner);
        let made = || {
            let words: Vec<String> = words().into_iter().collect();
            Arc::new(NameSet::new(words.iter().map(String::as_str)))
        };
        sets.entry(key).or_insert_with(made).clone()
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    proptest! {
        /// Among many names the same one is found as by comparing with each.
        #[test]
        fn the_walk_finds_what_comparing_with_each_finds(
            words in proptest::collection::vec("[a-d]{1,9}(-[ab]{1,3})?(\\.html)?", FEW + 1..400),
            name in "[a-d]{1,8}(-[ab]{1,3})?(\\.html)?",
        ) {
            let known = NameSet::new(words.iter().map(String::as_str));
            let mut each = words.clone();
            each.sort();
            each.dedup();
            let wanted = names::near(&name, each.iter().map(String::as_str));
            prop_assert_eq!(known.near(&name), wanted);
        }
    }
}
