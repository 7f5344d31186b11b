//! How many breaks were told as they should be.

use std::collections::BTreeMap;

use fastrand::Rng;
use truehook_core::link::{Link, Outcome, Reference};

use super::harm::{Broken, Harm, misspell, remove, remove_last, rename, stands_alone};
use super::{OF_EACH, ROOT, Theme, complaint, demo, grow};

/// How many breaks were told as they should be, and what is to be said about the others.
#[derive(Default)]
pub struct Tally {
    pub score: BTreeMap<(Link, Harm), (usize, usize)>,
    pub complaints: Vec<String>,
}

impl Tally {
    /// Breaks the themes of some seeds; none stands for the demo, of which all is broken.
    pub fn of(seeds: impl Iterator<Item = Option<u64>>) -> Tally {
        let mut tally = Tally::default();
        for seed in seeds {
            let theme = seed.map_or_else(demo, |seed| Theme::new(ROOT, grow(seed).files));
            tally.theme(&theme, seed.unwrap_or(0), if seed.is_some() { OF_EACH } else { usize::MAX });
        }
        tally
    }

    fn theme(&mut self, theme: &Theme, seed: u64, most: usize) {
        let mut rng = Rng::with_seed(seed);
        let top = theme.registry.project().top();
        for kind in Link::ALL {
            let own = theme.registry.references().iter().filter(|found| found.link == kind && found.layer == top);
            let mut references: Vec<Reference> = own.copied().collect();
            rng.shuffle(&mut references);
            for reference in references.iter().take(most) {
                let Outcome::Found(target) = reference.outcome else { continue };
                self.note(theme, seed, misspell(theme, reference, target));
                if stands_alone(theme, target) {
                    self.note(theme, seed, remove(theme, reference, target));
                    self.note(theme, seed, rename(theme, reference, target));
                    self.note(theme, seed, remove_last(theme, reference, target));
                }
            }
        }
    }

    fn note(&mut self, theme: &Theme, seed: u64, broken: Option<Broken>) {
        let Some(broken) = broken else { return };
        let entry = self.score.entry((broken.link, broken.harm)).or_default();
        entry.1 += 1;
        match complaint(theme, &broken, entry.1 % MENDED == 1) {
            None => entry.0 += 1,
            Some(why) => {
                self.complaints
                    .push(format!("seed {seed}, {:?} {:?} `{}`: {why}", broken.link, broken.harm, broken.name));
            }
        }
    }
}
/// Of so many breaks of one link one is mended: that takes as long as all the rest.
const MENDED: usize = 10;

/// Where the score is kept.
pub const PAGE: &str = concat!(env!("CARGO_MANIFEST_DIR"), "/../../docs/links.md");

/// The score, as it is kept with the documents.
pub fn page(score: &BTreeMap<(Link, Harm), (usize, usize)>, themes: u64, seed: u64) -> String {
    let mut page = format!(
        "# Every link, broken\n\nOf {themes} themes grown from seed {seed} and of the demo, references are broken one at a \
         time: misspelt,\ntheir target removed, their target renamed, the last one of a target that needs one taken \
         away. It counts\nas told where `check` gives one finding, of the right rule, that names and shows both ends. \
         Each tenth is\nmended, too: `check --fix` takes away what it says, and changes nothing the second time.\n\n\
         | link | broken by | told | of |\n| --- | --- | --- | --- |\n"
    );
    for ((link, harm), (good, all)) in score {
        let (link, harm) = (words(&format!("{link:?}")), words(&format!("{harm:?}")));
        page.push_str(&format!("| {link} | {harm} | {good} | {all} |\n"));
    }
    let (good, all) = score.values().fold((0, 0), |(good, all), one| (good + one.0, all + one.1));
    page.push_str(&format!("| all | | {good} | {all} |\n"));
    page
}

/// `LastGone` as `last gone`.
fn words(name: &str) -> String {
    let parts = name.char_indices().map(|(at, c)| match c.is_uppercase() && at > 0 {
        true => format!(" {}", c.to_lowercase()),
        false => c.to_lowercase().to_string(),
    });
    parts.collect()
}
