//! What style sheets, scripts and translations say.

use super::Named;
use crate::name::Name;
use crate::scan::Plurals;
use crate::source::At;

/// What a style sheet says.
#[derive(Clone, Debug, PartialEq, Eq, Default)]
pub struct StyleShape {
    /// Could it not be read at all?
    pub broken: bool,
    /// The addresses in it: of url() and of @import.
    pub addresses: Vec<Named>,
    /// The custom properties that it reads with var(), each with its two hyphens, once.
    pub reads: Vec<Named>,
    /// The custom properties that it sets.
    pub sets: Vec<Name>,
}

/// What a script for browsers says.
#[derive(Clone, Debug, PartialEq, Eq, Default)]
pub struct ScriptShape {
    /// Could it not be understood at all?
    pub broken: bool,
    /// The global names that it uses and does not define, each once, without those that it asks for
    /// before it uses them.
    pub uses: Vec<Named>,
    /// Those of them that it uses as it is read, and not in a function that runs later.
    pub at_once: Vec<Name>,
    /// The global names that it defines.
    pub defines: Vec<Name>,
    /// The modules that it imports, as written.
    pub imports: Vec<Named>,
    /// The `data-` attributes that it reads, without that word.
    pub data: Vec<Name>,
    /// Is it a module, which keeps its names to itself?
    pub module: bool,
    /// May it define more, in a way that can't be followed?
    pub dynamic: bool,
}

/// A script that stands in the markup itself.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Inline {
    /// Its start tag.
    pub at: At,
    /// What it says.
    pub script: ScriptShape,
}

/// One entry of a translation.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Entry {
    /// The message, as it stands in the theme.
    pub id: Name,
    /// Where the entry stands.
    pub at: At,
    /// Its plural in the theme, where it has one.
    pub plural: Option<Name>,
    /// The translation, or its forms.
    pub forms: Vec<Name>,
    /// Is it marked as uncertain, so that it is not used?
    pub fuzzy: bool,
}

impl Entry {
    /// Is there a translation to use?
    pub fn is_translated(&self) -> bool {
        !self.fuzzy && !self.forms.is_empty() && self.forms.iter().all(|form| !form.is_empty())
    }
}

/// What a translation says, a gettext .po file.
#[derive(Clone, Debug, PartialEq, Eq, Default)]
pub struct WordsShape {
    /// Could it not be understood at all?
    pub broken: bool,
    /// How the language counts.
    pub plurals: Plurals,
    /// Its entries.
    pub entries: Vec<Entry>,
}
