//! The answer to a question: the chain of links, what became of callbacks, and what mends it.

use serde::Serialize;

use crate::view::PlaceView;

/// How it is with one link of the chain.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, schemars::JsonSchema)]
#[serde(rename_all = "snake_case")]
#[non_exhaustive]
pub enum LinkState {
    /// It holds.
    Good,
    /// It does not.
    Broken,
    /// It need not hold.
    Idle,
    /// A link before it is broken, and nothing is known of it without that one.
    Unknown,
}

/// Which link of the chain.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub enum LinkName {
    /// A layer declares it.
    Declared,
    /// The host offers it.
    Offered,
    /// The theme switches it on.
    SwitchedOn,
    /// A module exports it.
    Exported,
    /// Callbacks are attached to it, or it is attached to a point.
    Attached,
    /// The site puts something into it.
    Filled,
    /// Something renders it.
    Rendered,
    /// Types of pages take it.
    ChosenBy,
    /// The site chooses a value.
    Chosen,
    /// Something places it.
    Placed,
    /// Values are sent through it.
    Sent,
    /// Its file is there.
    File,
    /// Something needs it.
    AskedFor,
    /// The site gives something for it.
    Given,
    /// Something shows what it feeds.
    Used,
    /// Something reads it.
    Read,
    /// Pages get to it.
    Reached,
    /// It is not switched off on the page.
    On,
}

impl LinkName {
    /// Those with a word of their own, in the order of a chain.
    const ALL: [LinkName; 17] = [
        LinkName::Declared,
        LinkName::Offered,
        LinkName::SwitchedOn,
        LinkName::Exported,
        LinkName::Attached,
        LinkName::Filled,
        LinkName::Rendered,
        LinkName::Chosen,
        LinkName::Placed,
        LinkName::Sent,
        LinkName::File,
        LinkName::AskedFor,
        LinkName::Given,
        LinkName::Used,
        LinkName::Read,
        LinkName::Reached,
        LinkName::On,
    ];

    /// The word for it.
    pub fn word(self) -> &'static str {
        match self {
            LinkName::Declared => "declared",
            LinkName::Offered => "offered",
            LinkName::SwitchedOn => "switched on",
            LinkName::Exported => "exported",
            LinkName::Attached => "attached",
            LinkName::Filled => "filled",
            LinkName::Rendered => "rendered",
            LinkName::ChosenBy | LinkName::Chosen => "chosen",
            LinkName::Placed => "placed",
            LinkName::Sent => "sent",
            LinkName::File => "file",
            LinkName::AskedFor => "asked for",
            LinkName::Given => "given",
            LinkName::Used => "used",
            LinkName::Read => "read",
            LinkName::Reached => "reached",
            LinkName::On => "on",
        }
    }
}

impl schemars::JsonSchema for LinkName {
    fn schema_name() -> std::borrow::Cow<'static, str> {
        "LinkName".into()
    }

    fn json_schema(_: &mut schemars::SchemaGenerator) -> schemars::Schema {
        schemars::json_schema!({ "type": "string", "enum": LinkName::ALL.map(LinkName::word) })
    }
}

impl Serialize for LinkName {
    fn serialize<S: serde::Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        serializer.serialize_str(self.word())
    }
}

/// One thing to say of a link.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, schemars::JsonSchema)]
pub struct WhyLine {
    /// Where.
    pub place: Option<PlaceView>,
    /// What is to be said.
    pub text: String,
}

/// One link of the chain.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, schemars::JsonSchema)]
pub struct WhyLink {
    /// Which it is.
    pub name: LinkName,
    /// How it is.
    pub state: LinkState,
    /// What is to be said of it.
    pub lines: Vec<WhyLine>,
    /// For a broken link: the reason in the reader's words, as the end of a sentence.
    pub reason: Option<String>,
}

/// How it went with one callback.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, schemars::JsonSchema)]
#[serde(rename_all = "snake_case")]
#[non_exhaustive]
pub enum CallbackState {
    /// It is attached, and no page was rendered.
    Attached,
    /// It ran.
    Ran,
    /// Its condition did not hold, or it never came to its turn.
    Off,
    /// It failed, or is not there.
    Failed,
    /// It ran and gave nothing.
    Nothing,
    /// It ran and gave back what it was given.
    Unchanged,
    /// It ran, and callbacks that ran later overrode what it gave.
    Overridden,
    /// It ran, and the page is the same without it.
    Spare,
    /// A higher layer took it away.
    Detached,
    /// A higher layer put another in its place.
    Replaced,
}

impl CallbackState {
    /// Did it come to its turn, or would it?
    pub fn is_in_turn(self) -> bool {
        use CallbackState::{Attached, Nothing, Overridden, Ran, Spare, Unchanged};
        matches!(self, Attached | Ran | Nothing | Unchanged | Overridden | Spare)
    }

    /// Did it run, with nothing to be seen of it on the page?
    pub fn is_in_vain(self) -> bool {
        matches!(self, CallbackState::Overridden | CallbackState::Spare)
    }

    /// The word for it.
    pub fn word(self) -> &'static str {
        match self {
            CallbackState::Attached => "attached",
            CallbackState::Ran => "ran",
            CallbackState::Off => "off",
            CallbackState::Failed => "failed",
            CallbackState::Nothing => "nothing",
            CallbackState::Unchanged => "unchanged",
            CallbackState::Overridden => "overridden",
            CallbackState::Spare => "spare",
            CallbackState::Detached => "detached",
            CallbackState::Replaced => "replaced",
        }
    }
}

/// What became of one callback.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, schemars::JsonSchema)]
pub struct WhyCallback {
    /// Its name.
    pub callback: String,
    /// The point that it is attached to.
    pub point: String,
    /// How it went.
    pub state: CallbackState,
    /// More of that, in words.
    pub text: String,
    /// Where it is attached.
    pub place: PlaceView,
    /// Is it attached under a condition?
    #[serde(skip)]
    pub has_condition: bool,
}

/// The answer.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, schemars::JsonSchema)]
pub struct Why {
    /// [`VERSION`].
    pub version: u32,
    /// What was asked about.
    pub subject: String,
    /// The page that was asked about.
    pub page: Option<String>,
    /// Does it show?
    pub shows: bool,
    /// The answer in one sentence.
    pub answer: String,
    /// The links, in order.
    pub chain: Vec<WhyLink>,
    /// The position of the first broken one.
    pub broken: Option<usize>,
    /// What became of the callbacks.
    pub callbacks: Vec<WhyCallback>,
    /// What mends it.
    pub mends: Vec<String>,
}

impl WhyLink {
    pub(super) fn good(name: LinkName, lines: Vec<WhyLine>) -> WhyLink {
        WhyLink { name, state: LinkState::Good, lines, reason: None }
    }

    pub(super) fn idle(name: LinkName, text: impl Into<String>) -> WhyLink {
        WhyLink { name, state: LinkState::Idle, lines: vec![said(text)], reason: None }
    }

    pub(super) fn broken(name: LinkName, lines: Vec<WhyLine>, reason: impl Into<String>) -> WhyLink {
        WhyLink { name, state: LinkState::Broken, lines, reason: Some(reason.into()) }
    }
}

pub(super) fn said(text: impl Into<String>) -> WhyLine {
    WhyLine { place: None, text: text.into() }
}
