//! Themes that are sown: each bed is a few lines in several files that belong together, and says itself what can
//! go wrong in it, and what a finding about that has to name and show. Nothing here asks the product.

use std::collections::BTreeMap;

use fastrand::Rng;
use truehook_core::read::MemoryFiles;

/// Where sown themes lie.
pub const ROOT: &str = "/sown/site";
pub const BASE: &str = "/sown/shore";

/// Words that no slip of the pen turns into each other.
const WORDS: &str = "lantern harbour meadow granite orchard copper willow saffron pebble juniper marble cobalt velvet \
                     timber basalt falcon cinder bramble clover sorrel fennel bracken gully plateau canyon glacier \
                     lagoon pontoon jetty breaker skerry voyage compass sextant anchor rudder purser signal beacon \
                     foghorn tackle hawser bollard mooring binnacle capstan deckhand topsail abacus dolphin wigwam \
                     gypsum umbra walnut oxbow kayak yucca pyrite mistral zephyr gazebo trellis pergola cottage \
                     thatch chimney gable mortar plaster lintel parquet veranda cellar attic scullery sideboard \
                     hallway almanac dossier papyrus vellum parchment folio quarto pamphlet gazette bulletin cymbal \
                     bassoon clarinet timpani piccolo zither mandolin ukulele xylophone trombone spinach hammock \
                     walrus penguin cactus tobacco mosaic tundra geyser magnolia begonia cyclamen freesia hibiscus";

/// Something that can go wrong.
#[derive(Clone, Debug)]
pub struct Slip {
    /// What sort of mistake it is.
    pub class: &'static str,
    /// What is written there instead.
    pub wrong: String,
    /// A word that has to be told.
    pub name: String,
    /// A file that has to be shown, beside the one with the mistake; empty where there is none.
    pub other: String,
}

/// A slip at its place.
#[derive(Clone, Debug)]
pub struct Spot {
    pub file: String,
    pub range: std::ops::Range<usize>,
    pub slip: Slip,
}

/// A theme while it is sown: texts by path, with marks where something can go wrong.
pub struct Sower {
    pub rng: Rng,
    words: Vec<&'static str>,
    slips: Vec<Slip>,
    /// The texts of files.
    pub texts: BTreeMap<String, String>,
    /// What goes into the page's main block, into the layout of the base, and into its last block.
    pub page: String,
    pub layout: String,
    /// Names of the base that a new release may change.
    pub released: Vec<String>,
}

/// A theme that is sown: its files, and all that can go wrong in them.
pub struct Sown {
    pub files: MemoryFiles,
    pub texts: BTreeMap<String, String>,
    pub spots: Vec<Spot>,
    pub released: Vec<String>,
}

impl Sower {
    pub fn new(seed: u64) -> Sower {
        let mut rng = Rng::with_seed(seed);
        let mut words: Vec<&'static str> = WORDS.split_ascii_whitespace().collect();
        rng.shuffle(&mut words);
        Sower {
            rng,
            words,
            slips: Vec::new(),
            texts: BTreeMap::new(),
            page: String::new(),
            layout: String::new(),
            released: Vec::new(),
        }
    }

    pub fn word(&mut self) -> String {
        self.words.pop().expect("there are words enough").to_string()
    }

    pub fn yes(&mut self) -> bool {
        self.rng.bool()
    }

    pub fn pick<'t>(&mut self, all: &[&'t str]) -> &'t str {
        all[self.rng.usize(..all.len())]
    }

    /// Adds to a file.
    pub fn add(&mut self, path: &str, text: &str) {
        self.texts.entry(path.to_string()).or_default().push_str(text);
    }

    /// A text that can be written wrong in a way of its own.
    pub fn or(&mut self, class: &'static str, right: &str, wrong: &str, name: &str, other: &str) -> String {
        self.slips.push(Slip { class, wrong: wrong.into(), name: name.into(), other: other.into() });
        format!("⟦{}⟧{right}⟦⟧", self.slips.len() - 1)
    }

    /// A word that can be misspelt.
    pub fn slip(&mut self, class: &'static str, word: &str, other: &str) -> String {
        let wrong = self.misspelt(word);
        self.or(class, word, &wrong, word, other)
    }

    /// A slip of the pen: a letter is dropped, doubled, changed, or changes places with its neighbour.
    pub fn misspelt(&mut self, word: &str) -> String {
        let letters: Vec<char> = word.chars().collect();
        loop {
            let at = self.rng.usize(1..letters.len().max(2)).min(letters.len() - 1);
            let mut new = letters.clone();
            match self.rng.u8(..4) {
                0 => drop(new.remove(at)),
                1 => new.insert(at, letters[at]),
                2 => new[at] = if letters[at] == 'q' { 'x' } else { 'q' },
                _ => new.swap(at, at - 1),
            }
            let new: String = new.into_iter().collect();
            if new != word && !new.is_empty() {
                return new;
            }
        }
    }

    /// Takes the marks out, and remembers where they were.
    pub fn harvest(self) -> Sown {
        let (mut files, mut texts, mut spots) = (MemoryFiles::new(), BTreeMap::new(), Vec::new());
        for (path, marked) in self.texts {
            let mut text = String::new();
            let mut open: Vec<(usize, usize)> = Vec::new();
            let mut rest = marked.as_str();
            while let Some(at) = rest.find('⟦') {
                text.push_str(&rest[..at]);
                let end = rest[at..].find('⟧').expect("a mark ends") + at;
                match rest[at + '⟦'.len_utf8()..end].parse::<usize>() {
                    Ok(number) => open.push((number, text.len())),
                    Err(_) => {
                        let (number, start) = open.pop().expect("a mark begins");
                        let slip = self.slips[number].clone();
                        spots.push(Spot { file: path.clone(), range: start..text.len(), slip });
                    }
                }
                rest = &rest[end + '⟧'.len_utf8()..];
            }
            text.push_str(rest);
            files.insert(path.as_str(), text.as_str());
            texts.insert(path, text);
        }
        Sown { files, texts, spots, released: self.released }
    }
}

impl Sown {
    /// The theme on a new release of its base, in which some names are others, all through it.
    pub fn released(&self, names: &[(String, String)]) -> MemoryFiles {
        let mut files = self.files.clone();
        for (path, text) in self.texts.iter().filter(|(path, _)| path.starts_with(BASE)) {
            let text = names.iter().fold(text.clone(), |text, (old, new)| text.replace(old, new));
            files.insert(path.as_str(), text.as_str());
        }
        files
    }

    /// The theme with one thing written wrong.
    pub fn with(&self, spot: &Spot) -> MemoryFiles {
        let mut text = self.texts[&spot.file].clone();
        text.replace_range(spot.range.clone(), &spot.slip.wrong);
        let mut files = self.files.clone();
        files.insert(spot.file.as_str(), text.as_str());
        files
    }
}
