//! The nodes of a map.

use serde::Serialize;
use truehook_core::view::PlaceView;

use crate::record::tree::SegmentId;

/// What a node of a map is.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, schemars::JsonSchema)]
#[serde(rename_all = "snake_case")]
#[non_exhaustive]
pub enum What {
    /// A template.
    Template,
    /// An element of the page that divides it.
    Element,
    /// A point.
    Point,
    /// A component that is content of a region, area, component or page.
    Item,
    /// A callback or partial that has its turn at a point.
    Step,
}

/// What becomes of it on the page.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, schemars::JsonSchema)]
#[serde(rename_all = "snake_case")]
#[non_exhaustive]
pub enum State {
    /// Something of it is on the page, or it ran.
    Shows,
    /// It is there, and nothing comes of it.
    Empty,
    /// Its condition does not hold here.
    Off,
    /// A higher layer took it away.
    Detached,
    /// Another callback stands in its place.
    Replaced,
    /// It failed.
    Failed,
}

impl State {
    /// The word for it.
    pub fn word(self) -> &'static str {
        match self {
            State::Shows => "shows",
            State::Empty => "empty",
            State::Off => "off",
            State::Detached => "detached",
            State::Replaced => "replaced",
            State::Failed => "failed",
        }
    }
}

/// A node of a map.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, schemars::JsonSchema)]
#[non_exhaustive]
pub struct Node {
    /// What it is.
    pub what: What,
    /// Its address, its file, the element's name, or the callback's.
    pub name: String,
    /// What people call it; of a step its priority and layer.
    pub label: Option<String>,
    /// What becomes of it.
    pub state: State,
    /// Why that is so, where it does not show.
    pub reason: Option<String>,
    /// Where it is placed, attached or written.
    pub place: Option<PlaceView>,
    /// The part of the page that came out of it.
    #[serde(skip)]
    pub segment: Option<SegmentId>,
    /// What is in it, in the order of the document, and what runs there, in its order.
    pub children: Vec<Node>,
}

impl Node {
    pub(super) fn new(what: What, name: impl Into<String>) -> Node {
        let name = name.into();
        Node {
            what,
            name,
            label: None,
            state: State::Shows,
            reason: None,
            place: None,
            segment: None,
            children: Vec::new(),
        }
    }
}
