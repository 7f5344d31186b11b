//! Names, each kept once for as long as the program runs, so that they are compared and copied like
//! numbers.

use std::cell::Cell;
use std::fmt;
use std::hash::{BuildHasher, Hash, Hasher};
use std::ops::Deref;
use std::sync::{LazyLock, Mutex, MutexGuard, PoisonError};

use hashbrown::HashTable;
use rustc_hash::FxBuildHasher;

/// Several tables, so that threads seldom wait for each other.
const TABLES: usize = 32;

static KEPT: LazyLock<[Mutex<Kept>; TABLES]> = LazyLock::new(Default::default);

/// Some of the names, and room for further ones: many small pieces of memory would take longer to get, and more of it.
#[derive(Default)]
struct Kept {
    names: HashTable<&'static &'static str>,
    letters: &'static mut [u8],
    texts: &'static mut [&'static str],
}

impl Kept {
    fn find(&self, hash: u64, text: &str) -> Option<Name> {
        self.names.find(hash, |kept| **kept == text).map(|kept| Name(kept))
    }

    fn keep(&mut self, hash_of: u64, text: &str) -> Name {
        const LETTERS: usize = 4096;
        const TEXTS: usize = 128;
        if self.letters.len() < text.len() {
            self.letters = vec![0; LETTERS.max(text.len())].leak();
        }
        let (own, rest) = std::mem::take(&mut self.letters).split_at_mut(text.len());
        own.copy_from_slice(text.as_bytes());
        self.letters = rest;
        if self.texts.is_empty() {
            self.texts = vec![""; TEXTS].leak();
        }
        // A name is as large as one pointer, since there are far more uses of names than names.
        let Some((kept, rest)) = std::mem::take(&mut self.texts).split_first_mut() else { return Name(&"") };
        *kept = std::str::from_utf8(own).unwrap_or_default();
        self.texts = rest;
        self.names.insert_unique(hash_of, kept, |kept| hash(kept));
        Name(kept)
    }
}

/// A name that is kept once: equal texts are the same name.
///
/// ```
/// use truehook_core::name::Name;
/// let name = Name::from("aside");
/// assert!(name == Name::from("aside") && name == "aside");
/// assert!(Name::known("never seen before").is_none());
/// ```
#[derive(Clone, Copy)]
pub struct Name(&'static &'static str);

fn hash(text: &str) -> u64 {
    FxBuildHasher.hash_one(text)
}

/// The table for texts of that hash.
fn table(hash: u64) -> MutexGuard<'static, Kept> {
    // The upper bits, since the table itself goes by others.
    let at = (hash >> 48) as usize % TABLES;
    // A table is whole whenever its lock is free, whatever happened to the thread that held it.
    KEPT[at].lock().unwrap_or_else(PoisonError::into_inner)
}

impl Name {
    /// The name of that text, if anybody has asked for it before.
    pub fn known(text: &str) -> Option<Name> {
        let hash = hash(text);
        table(hash).find(hash, text)
    }

    /// The text.
    pub fn as_str(self) -> &'static str {
        self.0
    }
}

/// How many names each thread remembers: few are asked for again and again, and for these no table has to be locked.
const RECENT: usize = 512;

thread_local! {
    static ASKED: [Cell<Option<Name>>; RECENT] = const { [const { Cell::new(None) }; RECENT] };
}

impl From<&str> for Name {
    fn from(text: &str) -> Name {
        let hash_of = hash(text);
        ASKED.with(|asked| {
            let asked = &asked[(hash_of >> 32) as usize % RECENT];
            if let Some(name) = asked.get().filter(|name| *name == *text) {
                return name;
            }
            let mut table = table(hash_of);
            let name = match table.find(hash_of, text) {
                Some(name) => name,
                None => table.keep(hash_of, text),
            };
            asked.set(Some(name));
            name
        })
    }
}

impl From<&&str> for Name {
    fn from(text: &&str) -> Name {
        Name::from(*text)
    }
}

impl Deref for Name {
    type Target = str;

    fn deref(&self) -> &str {
        self.0
    }
}

impl PartialEq for Name {
    fn eq(&self, other: &Name) -> bool {
        std::ptr::eq(self.0, other.0)
    }
}

impl Eq for Name {}

impl PartialEq<str> for Name {
    fn eq(&self, other: &str) -> bool {
        *self.0 == other
    }
}

impl PartialEq<&str> for Name {
    fn eq(&self, other: &&str) -> bool {
        self.0 == other
    }
}

impl PartialEq<String> for Name {
    fn eq(&self, other: &String) -> bool {
        *self.0 == other
    }
}

impl Hash for Name {
    fn hash<H: Hasher>(&self, state: &mut H) {
        std::ptr::from_ref(self.0).hash(state);
    }
}

impl Ord for Name {
    fn cmp(&self, other: &Name) -> std::cmp::Ordering {
        self.0.cmp(other.0)
    }
}

impl PartialOrd for Name {
    fn partial_cmp(&self, other: &Name) -> Option<std::cmp::Ordering> {
        Some(self.cmp(other))
    }
}

impl fmt::Display for Name {
    fn fmt(&self, out: &mut fmt::Formatter<'_>) -> fmt::Result {
        out.pad(self.0)
    }
}

impl fmt::Debug for Name {
    fn fmt(&self, out: &mut fmt::Formatter<'_>) -> fmt::Result {
        fmt::Debug::fmt(*self.0, out)
    }
}

impl AsRef<str> for Name {
    fn as_ref(&self) -> &str {
        self.0
    }
}
