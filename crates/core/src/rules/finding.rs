//! A finding: what is wrong, where, and how to mend it. Data only; printing is not done here.

use crate::address::Address;
use crate::link::Registry;
use crate::rules::Rule;
use crate::source::{Edit, FileId, LayerId, Place, Span};

/// How bad a finding is; the worst is the greatest.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Level {
    /// May be intended.
    Note,
    /// Works, but not as meant.
    Warning,
    /// Certain and breaking.
    Error,
}

impl Level {
    /// The word for it.
    pub fn word(self) -> &'static str {
        match self {
            Level::Note => "note",
            Level::Warning => "warning",
            Level::Error => "error",
        }
    }

    /// The level that a word names.
    pub fn from_word(word: &str) -> Option<Level> {
        [Level::Note, Level::Warning, Level::Error].into_iter().find(|level| level.word() == word)
    }
}

/// A place that a finding shows.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct FoundPlace {
    /// The file.
    pub file: FileId,
    /// The bytes in it.
    pub span: Span,
    /// What to say there.
    pub label: String,
}

/// How to mend a finding.
#[derive(Clone, Debug, PartialEq, Eq, Default)]
pub struct Mend {
    /// What to do, for people.
    pub text: String,
    /// Can the edits be made without asking?
    pub safe: bool,
    /// The edits that do it, where edits can.
    pub edits: Vec<Edit>,
}

impl Mend {
    /// The command that carries it out: the one that it names, or the one that makes all safe edits. Nothing where it is
    /// advice.
    pub fn command(&self) -> Option<String> {
        match (self.safe && !self.edits.is_empty(), is_command(&self.text)) {
            (_, true) => Some(self.text.clone()),
            (true, false) => Some(format!("truehook check --fix   # {}", self.text)),
            (false, false) => None,
        }
    }

    /// What it is called where it is printed, and what is printed.
    pub fn printed(&self) -> (&'static str, String) {
        match self.command() {
            Some(command) => ("mend", command),
            None => ("advice", self.text.clone()),
        }
    }
}

/// Is a text a command of this program, as `command_line!` writes it?
pub fn is_command(text: &str) -> bool {
    text.starts_with("truehook ")
}

/// Something that is wrong, or may be.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Finding {
    /// The rule that says so.
    pub rule: &'static str,
    /// How bad it is.
    pub level: Level,
    /// The layer that it belongs to: the highest that contributes to it.
    pub layer: LayerId,
    /// The point that it is about.
    pub point: Option<String>,
    /// What is wrong, in one sentence.
    pub message: String,
    /// Where; the first is the primary one.
    pub places: Vec<FoundPlace>,
    /// How to mend it.
    pub mend: Option<Mend>,
}

/// How many bytes of a message are kept. A name can be as long as a file.
const LONGEST: usize = 4 * 1024;

/// The first [`LONGEST`] bytes of a text, cut between two letters. An ellipsis ends a text that was cut.
fn cut(mut text: String) -> String {
    if text.len() > LONGEST {
        text.truncate(text.floor_char_boundary(LONGEST));
        text.push('…');
    }
    text
}

impl Finding {
    /// A finding that has no place yet.
    pub fn new(rule: &Rule, layer: LayerId, message: impl Into<String>) -> Finding {
        Finding {
            rule: rule.name,
            level: rule.level,
            layer,
            point: None,
            message: cut(message.into()),
            places: Vec::new(),
            mend: None,
        }
    }

    /// Adds a place; the first one added is the primary one.
    pub fn at(mut self, registry: &Registry, place: Place, label: impl Into<String>) -> Finding {
        let found = FoundPlace { file: place.file, span: registry.span(place), label: cut(label.into()) };
        if !self.places.iter().any(|known| (known.file, known.span) == (found.file, found.span)) {
            self.places.push(found);
        }
        self
    }

    /// Adds a part of a TOML value as a place: the value by its place, the part by what leads to it.
    pub fn at_part(mut self, registry: &Registry, place: Place, steps: &[String], label: impl Into<String>) -> Finding {
        let text = registry.project().file(place.file).text();
        let span = crate::scan::part_of_value(text, registry.span(place), steps);
        self.places.push(FoundPlace { file: place.file, span, label: label.into() });
        self
    }

    /// Adds a stretch of a file as a place.
    pub fn at_span(mut self, file: FileId, span: Span, label: impl Into<String>) -> Finding {
        self.places.push(FoundPlace { file, span, label: cut(label.into()) });
        self
    }

    /// Adds where a point is declared, the nearest declaration.
    pub fn at_declaration(self, registry: &Registry, point: Address, label: &str) -> Finding {
        match registry.point(point).and_then(|point| point.declared.last()) {
            Some(declared) => self.at(registry, declared.place, label),
            None => self,
        }
    }

    /// Says which point it is about.
    pub fn about(mut self, point: Address) -> Finding {
        self.point = Some(point.to_string());
        self
    }

    /// Says how to mend it, by hand or with a command.
    pub fn mend(mut self, text: impl Into<String>) -> Finding {
        self.mend = Some(Mend { text: text.into(), safe: false, edits: Vec::new() });
        self
    }
}
