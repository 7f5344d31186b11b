//! What ran on a page, in order, and what went wrong.

use std::sync::Arc;
use std::time::Duration;

use serde::{Deserialize, Serialize};
use truehook_core::address::Address;
use truehook_core::source::Place;

/// Something that went wrong while a page was rendered. The page is there without it.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
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
}

impl Trace {
    /// Adds a value that `note` wrote.
    pub(crate) fn note(&mut self, text: String) {
        self.notes.push(Note { after: self.steps.len(), text });
    }
}
