//! Many known names, arranged so that what a misspelt one was meant to be is found without comparing
//! it to each.

use std::hash::Hasher;
use std::sync::atomic::{AtomicUsize, Ordering};
use std::sync::{Arc, Mutex, OnceLock, PoisonError};

use rustc_hash::{FxHashMap, FxHashSet, FxHasher};

use crate::names::{self, Near};

/// With fewer, each is compared.
const FEW: usize = 128;
/// So many times each is compared, before they are arranged so that it takes less.
const OFTEN: usize = 32;
/// How many steps are taken for a name that no known one is within two edits of.
const FAR: usize = 20_000;
/// So many letters of a name, the last ones, say whether another is near.
const END: usize = 12;
/// So many that seem near are compared.
const CROWD: usize = 4_000;

/// What was most likely meant: a [`Near`] that outlives the set.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Nearest {
    /// The name.
    pub written: String,
    /// How many edits lead from one to the other.
    pub distance: usize,
    /// Can it replace the misspelt one without asking?
    pub certain: bool,
}

/// A set of names.
#[derive(Debug, Default)]
pub struct NameSet {
    /// Each without its extension, and whole; in order.
    words: Vec<(String, String)>,
    asked: AtomicUsize,
    /// What is left of the end of each where up to two letters are taken away, as a number, with its position below.
    left: OnceLock<Vec<u64>>,
}

impl NameSet {
    /// Those names. What stands there twice counts once.
    pub fn new<'a>(words: impl IntoIterator<Item = &'a str>) -> NameSet {
        let mut words: Vec<(String, String)> =
            words.into_iter().map(|word| (stem(word).to_string(), word.to_string())).collect();
        words.sort_unstable();
        words.dedup();
        NameSet { words, ..NameSet::default() }
    }

    /// The known name nearest to a misspelt one, as [`names::near`] finds it.
    ///
    /// Among many names that are alike, one that is three or four edits away may not be found.
    pub fn nearest(&self, name: &str) -> Option<Nearest> {
        let Near { word, distance, certain } = self.near(name)?;
        Some(Nearest { written: word.to_string(), distance, certain })
    }

    fn near(&self, name: &str) -> Option<Near<'_>> {
        let among = |found: Vec<usize>| names::near(name, found.into_iter().map(|at| self.words[at].1.as_str()));
        if self.words.len() <= FEW {
            return among((0..self.words.len()).collect());
        }
        let reach = names::reach(stem(name));
        let near = among(self.within_two(name)).filter(|near| near.distance <= 2);
        near.or_else(|| if reach > 2 { among(self.further(name, reach)) } else { None })
    }

    /// Names that may be within so many edits of one; those within two in any case.
    pub fn within(&self, name: &str, edits: usize) -> Vec<&str> {
        let found = match self.words.len() <= FEW {
            true => (0..self.words.len()).collect(),
            false => {
                let own = stem(name);
                let mut two = self.within_two(name);
                two.retain(|at| strsim::osa_distance(&self.words[*at].0, own) <= 2);
                if two.is_empty() { self.further(name, edits) } else { two }
            }
        };
        found.into_iter().map(|at| self.words[at].1.as_str()).collect()
    }

    /// Positions of names among which are all those within two edits.
    fn within_two(&self, name: &str) -> Vec<usize> {
        if self.asked.fetch_add(1, Ordering::Relaxed) < OFTEN {
            return (0..self.words.len()).collect();
        }
        let left = self.left.get_or_init(|| {
            let mut left = Vec::new();
            for (at, (word, _)) in self.words.iter().enumerate() {
                left.extend(ends(word).into_iter().map(|end| u64::from(end) << 32 | at as u64));
            }
            left.sort_unstable();
            left.dedup();
            left
        });
        let mut found = Vec::new();
        for end in ends(stem(name)) {
            let begin = left.partition_point(|other| *other >> 32 < u64::from(end));
            let same = left[begin..].iter().take_while(|other| *other >> 32 == u64::from(end));
            found.extend(same.take(CROWD).map(|other| (*other & u64::from(u32::MAX)) as usize));
        }
        found.sort_unstable();
        found.dedup();
        found
    }

    fn further(&self, name: &str, edits: usize) -> Vec<usize> {
        let own: Vec<char> = stem(name).chars().collect();
        Walk::new(&self.words, &own, edits).found(FAR)
    }
}

/// What is left of the end of a word without any letter, without one and without two of its letters, as numbers: two
/// words within two edits of each other have one of these in common.
fn ends(word: &str) -> FxHashSet<u32> {
    let letters: Vec<char> = word.chars().rev().take(END).collect();
    let number = |without: [usize; 2]| {
        let mut hasher = FxHasher::default();
        let kept = letters.iter().enumerate().filter(|(at, _)| !without.contains(at));
        kept.for_each(|(_, letter)| hasher.write_u32(*letter as u32));
        (hasher.finish() >> 16) as u32
    };
    let none = letters.len();
    let pairs = (0..=none).flat_map(|first| (first..=none).map(move |second| [first, second]));
    pairs.map(number).collect()
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
    /// The distances of the first letters of a word, of none, of one and so on, to those of the name: row
    /// by row.
    rows: Vec<usize>,
    /// The letters that the rows stand for.
    letters: Vec<char>,
}

impl<'w> Walk<'w> {
    fn new(words: &'w [(String, String)], name: &'w [char], edits: usize) -> Walk<'w> {
        Walk { words, name, edits, rows: (0..=name.len()).collect(), letters: Vec::new() }
    }

    /// The words within so many edits that are found in so many steps, as positions.
    fn found(mut self, mut steps: usize) -> Vec<usize> {
        let mut found = Vec::new();
        let mut at = 0;
        while let Some((word, _)) = self.words.get(at) {
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
                    found.extend(near.then_some(at));
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
pub struct NameSets<K> {
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

    /// The word of a number: up to nine letters, for some with a second part, for some with an ending.
    fn word(mut number: u64) -> String {
        let mut next = |below: u64| {
            let digit = number % below;
            number /= below;
            digit as u8
        };
        let mut word: String = (0..=next(9)).map(|_| char::from(b'a' + next(4))).collect();
        if next(2) == 0 {
            word.push('-');
            word.extend((0..=next(9)).map(|_| char::from(b'a' + next(2))));
        }
        if next(2) == 0 {
            word.push_str(".html");
        }
        word
    }

    proptest! {
        /// Among many names the same one is found as by comparing with each.
        #[test]
        fn names_that_are_arranged_give_what_comparing_with_each_gives(
            numbers in proptest::collection::vec(any::<u64>(), FEW + 1..400),
            name in any::<u64>().prop_map(word),
        ) {
            let words: Vec<String> = numbers.into_iter().map(word).collect();
            let known = NameSet::new(words.iter().map(String::as_str));
            let often = NameSet::new(words.iter().map(String::as_str));
            often.asked.store(OFTEN, Ordering::Relaxed);
            let mut each = words.clone();
            each.sort();
            each.dedup();
            let wanted = names::near(&name, each.iter().map(String::as_str));
            prop_assert_eq!(known.near(&name), wanted);
            prop_assert_eq!(often.near(&name), wanted);
        }
    }
}
