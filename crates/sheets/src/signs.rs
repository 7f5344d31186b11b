//! How kinds and states are told apart: by a shape and a word, and by colour only beside those.

use serde::Serialize;

/// What a kind is for, which gives it its colour.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
#[serde(rename_all = "snake_case")]
pub enum Group {
    /// Where content goes.
    Content,
    /// Where code has its turn.
    Code,
    /// What makes markup.
    Parts,
    /// All else.
    Rest,
}

/// The sign of a kind.
#[derive(Clone, Copy, Debug, Serialize)]
pub struct Sign {
    /// The word for the kind.
    pub kind: &'static str,
    /// What it is for.
    pub group: Group,
    /// Its shape, as the path of an SVG of 16 by 16.
    pub path: &'static str,
    /// What it means, in a few words.
    pub means: &'static str,
}

/// The signs of all kinds that pages show.
pub const SIGNS: [Sign; 10] = [
    sign("hook", Group::Code, "M8 2a6 6 0 1 0 .01 0z", "where listeners print"),
    sign("filter", Group::Code, "M1.5 3h13L8 14z", "a value on its way"),
    sign("region", Group::Content, "M2 2h12v12H2z", "holds items"),
    sign("area", Group::Content, "M2 6 6 2h8v8l-4 4H2z", "holds items, each in a frame of its own"),
    sign("menu", Group::Content, "M2 2.5h12M2 8h12M2 13.5h12", "holds the entries of a menu"),
    sign("section", Group::Parts, "M1 4h14v8H1z", "a band of the page"),
    sign("piece", Group::Parts, "M8 1.5 14.5 8 8 14.5 1.5 8z", "a small part, held by others"),
    sign("partial", Group::Parts, "M1.5 12a6.5 6.5 0 0 1 13 0z", "a part that templates place"),
    sign("template", Group::Rest, "M3 1h7l3 3v11H3z", "the page's own markup"),
    sign("sections", Group::Content, "M2 2h12v3.5H2zm0 8.5h12V14H2z", "where the page's sections stand"),
];

const fn sign(kind: &'static str, group: Group, path: &'static str, means: &'static str) -> Sign {
    Sign { kind, group, path, means }
}

/// The kind of an address, for its sign.
pub fn kind_of(name: &str) -> Option<&'static str> {
    let word = name.split(':').next()?;
    SIGNS.iter().map(|sign| sign.kind).find(|kind| *kind == word && (name.contains(':') || *kind == "sections"))
}

/// What a kind is for.
pub fn group_of(kind: &str) -> Group {
    SIGNS.iter().find(|sign| sign.kind == kind).map_or(Group::Rest, |sign| sign.group)
}

/// The mark of a state.
#[derive(Clone, Copy, Debug, Serialize)]
pub struct StateSign {
    /// The word.
    pub state: &'static str,
    /// What it means.
    pub means: &'static str,
}

/// The states that something on a page may be in.
pub const STATES: [StateSign; 5] = [
    StateSign { state: "shows", means: "full: something of it is on the page, or it ran" },
    StateSign { state: "empty", means: "dashed: it is placed, and nothing comes of it" },
    StateSign { state: "off", means: "dotted: it has no turn on this page" },
    StateSign { state: "detached", means: "struck out: a higher layer took it away" },
    StateSign { state: "failed", means: "doubled: it failed here" },
];
