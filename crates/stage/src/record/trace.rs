//! What ran on a page, in order, and what went wrong.

use std::sync::Arc;
use std::time::Duration;

use indexmap::IndexSet;
use serde::{Deserialize, Serialize};
use truehook_core::address::Address;
use truehook_core::source::Place;

/// How many bytes of a message, or of the name of what failed, are kept.
const LONGEST_MESSAGE: usize = 4 * 1024;
/// How many bytes of a note, or of a value before or after a step, are kept.
const LONGEST_VALUE: usize = 64 * 1024;
/// How many bytes of all notes and values of a page are kept.
const LONGEST_VALUES: usize = 16 * 1024 * 1024;
/// How many notes, steps and points, and how many failures of a page are kept.
const MOST: usize = 100_000;
const MOST_NOTES: usize = 10_000;
const MOST_FAILURES: usize = 10_000;

/// The beginning of a text of so many bytes, with a mark where something was cut.
fn cut(mut text: String, most: usize) -> String {
    if text.len() > most {
        text.truncate(text.floor_char_boundary(most));
        text.push('…');
    }
    text
}

/// Something that went wrong while a page was rendered. The page is there without it.
#[derive(Clone, Debug, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[non_exhaustive]
pub struct Failure {
    /// The point that it happened at.
    pub point: Option<String>,
    /// The callback, or the template, that failed.
    pub source: Option<String>,
    /// Where: the file as it is shown to people, line and column from 1.
    pub place: Option<(String, usize, usize)>,
    /// What went wrong.
    pub message: String,
}

impl Failure {
    pub(crate) fn new(message: impl Into<String>) -> Failure {
        Failure { point: None, source: None, place: None, message: message.into() }
    }

    pub(crate) fn at(point: impl ToString, message: impl Into<String>) -> Failure {
        Failure { point: Some(point.to_string()), ..Failure::new(message) }
    }

    pub(crate) fn of(source: Option<String>, message: impl Into<String>) -> Failure {
        Failure { source, ..Failure::new(message) }
    }

    /// The same, with no text longer than people read.
    fn cut(self) -> Failure {
        let Failure { point, source, place, message } = self;
        let shorter = |text: Option<String>| text.map(|text| cut(text, LONGEST_MESSAGE));
        Failure { point: shorter(point), source: shorter(source), place, message: cut(message, LONGEST_MESSAGE) }
    }
}

/// The failures of a page, each once, in their order.
#[derive(Default)]
pub(crate) struct Failures {
    known: IndexSet<Failure>,
    more: usize,
}

impl Failures {
    pub fn add(&mut self, failure: Failure) {
        let failure = failure.cut();
        if self.known.len() < MOST_FAILURES {
            self.known.insert(failure);
        } else if !self.known.contains(&failure) {
            self.more += 1;
        }
    }

    pub fn into_list(self) -> Vec<Failure> {
        let mut all: Vec<Failure> = self.known.into_iter().collect();
        if self.more > 0 {
            all.push(Failure::new(format!("{} more failures of this page are left out", self.more)));
        }
        all
    }
}

/// What became of a step.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[non_exhaustive]
pub enum StepState {
    /// It ran.
    Ran,
    /// Its condition did not hold.
    Off,
    /// It failed.
    Failed,
}

impl StepState {
    /// The word for it.
    pub fn word(self) -> &'static str {
        match self {
            StepState::Ran => "ran",
            StepState::Off => "off",
            StepState::Failed => "failed",
        }
    }
}

/// What a step was given, and what came of it: for people.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[non_exhaustive]
pub struct StepValues {
    /// What was piped through it.
    pub before: String,
    /// What it gave.
    pub after: String,
}

/// One attachment that came to its turn, or a callback that rendered a component.
#[derive(Clone, Debug, Serialize, Deserialize)]
#[non_exhaustive]
pub struct Step {
    /// The point.
    pub point: Address,
    /// The attachment, by its place; nothing for what renders a component.
    pub slot: Option<Place>,
    /// The callback or partial, by its name.
    pub name: Arc<str>,
    /// What became of it.
    pub state: StepState,
    /// How long it took.
    pub time: Duration,
    /// What it was given, and what came of it; only where that was asked for.
    pub values: Option<StepValues>,
}

/// A value that `note` wrote.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[non_exhaustive]
pub struct Note {
    /// How many steps came before it.
    pub after: usize,
    /// The value.
    pub text: String,
}

/// What ran, in order.
#[derive(Clone, Debug, Default, Serialize, Deserialize)]
#[non_exhaustive]
pub struct Trace {
    /// The points that were put on the page, or sent a value through, in order.
    pub points: Vec<Address>,
    /// The attachments.
    pub steps: Vec<Step>,
    /// What `note` wrote.
    pub notes: Vec<Note>,
    /// How many bytes of values there are.
    #[serde(skip)]
    values: usize,
}

impl Trace {
    /// Adds a value that `note` wrote. Past what a page keeps, the last note says so.
    pub(crate) fn note(&mut self, text: String) {
        let after = self.steps.len();
        let text = self.kept(text);
        match self.notes.len() {
            count if count < MOST_NOTES => self.notes.push(Note { after, text }),
            MOST_NOTES => {
                self.notes.push(Note { after, text: format!("more than {MOST_NOTES} notes; these are left out") })
            }
            _ => {}
        }
    }

    /// Adds a step.
    pub(crate) fn step(&mut self, step: Step) {
        if self.steps.len() < MOST {
            let values = step
                .values
                .map(|StepValues { before, after }| StepValues { before: self.kept(before), after: self.kept(after) });
            self.steps.push(Step { values, ..step });
        }
    }

    /// Adds a point that was put on the page.
    pub(crate) fn point(&mut self, point: Address) {
        if self.points.len() < MOST {
            self.points.push(point);
        }
    }

    /// The first part of a text, up to the bytes that are left of the limit.
    fn kept(&mut self, text: String) -> String {
        let text = cut(text, LONGEST_VALUE.min(LONGEST_VALUES - self.values.min(LONGEST_VALUES)));
        self.values += text.len();
        text
    }
}
