//! What is to be put into a template, and where.

use super::{Position, Selector};
use crate::address::Address;
use crate::source::FileId;

/// What is to be put into a template, and where.
#[derive(Clone, Debug)]
pub struct Placement {
    /// The template, one of the checked theme.
    pub file: FileId,
    /// What is put there: `{{ place("region:aside") }}`.
    pub calls: Vec<String>,
    /// The points among it.
    pub points: Vec<Address>,
    /// Beside which element. Without it, at the block's end.
    pub at: Option<(Position, Selector)>,
    /// In which block, where that is said.
    pub block: Option<String>,
    /// Is the element around it only to be there where something fills it?
    pub guard: bool,
}
