//! Where a piece of a page came from: what printed it, what had its turn before, and what all that stands in.

mod chain;
mod pieces;
mod search;
mod values;
mod ways;

use std::ops::Range;

use serde::Serialize;
use truehook_core::link::Registry;
use truehook_core::view::{PlaceView, WayView};

pub use chain::origin;
pub use pieces::{Piece, pieces, texts};
pub use search::search;

use crate::map::Node;
use crate::stage::Rendered;

/// What a link of the chain is.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, schemars::JsonSchema)]
#[serde(rename_all = "snake_case")]
#[non_exhaustive]
pub enum LinkKind {
    /// A text of a template, as it stands there.
    Text,
    /// An expression of a template.
    Expression,
    /// Markup that a declaration puts around something.
    Wrap,
    /// A callback that prints.
    Callback,
    /// Where a callback or partial is attached, with its priority and layer.
    Attachment,
    /// A callback that changed the value on its way.
    Filter,
    /// A callback that prepared what a component is given.
    Preparer,
    /// A callback that arranged what is in a point.
    Arranger,
    /// What the preview's files say.
    Value,
    /// A component, as an item or where it is placed.
    Component,
    /// A hook, region, area or menu spot.
    Point,
    /// A template that was rendered.
    Template,
    /// What the host adds.
    Host,
}

impl LinkKind {
    /// The word for it.
    pub fn word(self) -> &'static str {
        match self {
            LinkKind::Text => "text",
            LinkKind::Expression => "expression",
            LinkKind::Wrap => "wrap",
            LinkKind::Callback => "callback",
            LinkKind::Attachment => "attached",
            LinkKind::Filter => "filter",
            LinkKind::Preparer => "preparer",
            LinkKind::Arranger => "arranger",
            LinkKind::Value => "value",
            LinkKind::Component => "component",
            LinkKind::Point => "point",
            LinkKind::Template => "template",
            LinkKind::Host => "host",
        }
    }
}

/// A link of the chain that leads back from a text.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, schemars::JsonSchema)]
#[non_exhaustive]
pub struct Link {
    /// What it is.
    pub what: LinkKind,
    /// Its name: a template's, a callback's, an address, an expression.
    pub name: String,
    /// Where it stands.
    pub place: Option<PlaceView>,
    /// What was piped into it, where that was changed there.
    pub before: Option<String>,
    /// What it gave.
    pub after: Option<String>,
}

/// Where a piece of a page came from.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, schemars::JsonSchema)]
#[non_exhaustive]
pub struct Chain {
    /// The text.
    pub text: String,
    /// What led to it, the innermost first.
    pub chain: Vec<Link>,
    /// What would change it.
    #[serde(rename = "override")]
    pub ways: Vec<WayView>,
}

/// A page with all that is needed to tell where its pieces came from.
#[derive(Clone, Copy)]
pub struct Traced<'t> {
    /// The theme.
    pub registry: &'t Registry,
    /// The page's path.
    pub path: &'t str,
    /// The page, rendered with what printed each text.
    pub page: &'t Rendered,
    /// Its map.
    pub root: &'t Node,
}

/// The pieces of which some bytes of a page consist, in their order.
pub fn pieces_in(page: &Rendered, range: &Range<usize>) -> Vec<Piece> {
    let mut found = pieces(page);
    found.retain(|piece| piece.range.start < range.end && range.start < piece.range.end);
    found
}

/// The chains of all that printed some bytes, each once; of tags between words nobody asked.
pub fn chains(traced: Traced<'_>, range: &Range<usize>) -> Vec<Chain> {
    let texts = texts(&traced.page.html);
    let mut found: Vec<Chain> = Vec::new();
    let mut add = |piece: &Piece, part: &Range<usize>| {
        let chain = origin(traced, piece, part);
        match found.iter_mut().find(|known| known.chain == chain.chain) {
            Some(known) => known.text = format!("{} {}", known.text, chain.text),
            None => found.push(chain),
        }
    };
    for piece in pieces_in(traced.page, range) {
        let within = piece.range.start.max(range.start)..piece.range.end.min(range.end);
        let words: Vec<Range<usize>> = texts
            .iter()
            .map(|text| text.start.max(within.start)..text.end.min(within.end))
            .filter(|part| part.start < part.end && !traced.page.html[part.clone()].trim().is_empty())
            .collect();
        words.iter().for_each(|part| add(&piece, part));
        // An element is told of by its tag.
        if words.is_empty() && traced.page.html[range.clone()].starts_with('<') {
            add(&piece, &within);
            break;
        }
    }
    found
}
