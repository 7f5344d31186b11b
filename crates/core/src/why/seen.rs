//! What was seen when a page was rendered: all that depends on its values.

use crate::address::Address;
use crate::source::Place;

/// A page that was asked about.
#[derive(Clone, Debug)]
pub struct Asked {
    /// Its path.
    pub path: String,
    /// The position of its type.
    pub page_type: Option<usize>,
    /// What was seen when it was rendered.
    pub seen: Seen,
}

/// What was seen when a page was rendered.
#[derive(Clone, Debug, Default)]
pub struct Seen {
    /// The points that were put on the page, or sent a value through.
    pub points: Vec<Address>,
    /// Those of them of which something shows.
    pub shown: Vec<Address>,
    /// The attachments that came to their turn.
    pub steps: Vec<SeenStep>,
    /// The assets that the page loads.
    pub assets: Vec<Address>,
    /// The conditions of templates and attachments, in the template language, each with whether it was met.
    pub met: Vec<(String, bool)>,
    /// Attachments in question, where the page is the same without them.
    pub spare: Vec<Place>,
}

/// What became of an attachment that came to its turn.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum SeenState {
    /// It ran.
    Ran,
    /// Its condition did not hold.
    Off,
    /// It failed.
    Failed,
}

/// An attachment that came to its turn.
#[derive(Clone, Debug)]
pub struct SeenStep {
    /// Where it is attached.
    pub slot: Place,
    /// What became of it.
    pub state: SeenState,
    /// What went wrong.
    pub failure: Option<String>,
    /// Did it give nothing?
    pub gave_nothing: bool,
    /// Did it give back what it was given?
    pub gave_the_same: bool,
}

impl SeenStep {
    /// Did it run, and give something else than it was given?
    pub fn changed(&self) -> bool {
        self.state == SeenState::Ran && !self.gave_the_same
    }
}
