//! What comes out of rendering: a tree of segments, each with its origin.

use std::sync::Arc;

use serde::{Deserialize, Serialize};
use truehook_core::address::Address;
use truehook_core::source::{FileId, Span};

/// One segment of a page, by its position in its [`Tree`].
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, Serialize, Deserialize)]
pub struct SegmentId(pub usize);

/// Where a segment came from.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[non_exhaustive]
pub enum Origin {
    /// A template, by its canonical name, `layer:name`.
    Template(Arc<str>),
    /// A point that was placed.
    Point(Address),
    /// A callback, by its name.
    Callback(Arc<str>),
    /// What has no address of its own.
    Outlet(OutletName),
}

/// What is on a page without an address of its own.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[non_exhaustive]
pub enum OutletName {
    /// What a component holds.
    Held,
    /// The page's sections.
    Sections,
    /// What the host itself adds.
    Host,
    /// One point, rendered on its own.
    Alone,
}

/// A piece of a segment.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[non_exhaustive]
pub enum Part {
    /// Markup.
    Text(String),
    /// A hole, by its number; once it is filled, a segment takes its place.
    Hole(usize),
    /// Another segment.
    Segment(SegmentId),
}

/// What printed a text.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize)]
#[non_exhaustive]
pub enum Printed {
    /// It stands in a template as it is.
    AsWritten,
    /// It is what an expression of a template came to.
    ByExpression,
    /// The markup that a declaration puts around something.
    ByWrap,
}

/// Where a text was printed.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize)]
#[non_exhaustive]
pub struct Source {
    /// What printed it.
    pub printed: Printed,
    /// The file.
    pub file: FileId,
    /// The bytes of that file: the text itself where it is as it was written, else what printed it.
    pub span: Span,
}

/// A part of a page that came from one place.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[non_exhaustive]
pub struct Segment {
    /// Where it came from.
    pub origin: Origin,
    /// The segment that it is in.
    pub parent: Option<SegmentId>,
    /// How many components it is inside of.
    pub nesting: usize,
    /// What it holds.
    pub parts: Vec<Part>,
    /// What printed each part, where that was asked for.
    pub sources: Vec<Option<Source>>,
}

/// A page as a tree. The first segment is the whole page.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[non_exhaustive]
pub struct Tree {
    /// All segments.
    pub segments: Vec<Segment>,
}

impl Tree {
    /// Adds a segment.
    pub fn add(&mut self, origin: Origin, parent: Option<SegmentId>, nesting: usize) -> SegmentId {
        self.segments.push(Segment { origin, parent, nesting, parts: Vec::new(), sources: Vec::new() });
        SegmentId(self.segments.len() - 1)
    }

    /// A segment.
    pub fn get(&self, id: SegmentId) -> &Segment {
        &self.segments[id.0]
    }

    /// Is a segment inside one of that point, or that itself?
    pub fn is_inside(&self, mut id: SegmentId, point: Address) -> bool {
        loop {
            let segment = self.get(id);
            if segment.origin == Origin::Point(point) {
                return true;
            }
            match segment.parent {
                Some(parent) => id = parent,
                None => return false,
            }
        }
    }

    /// The text of the whole page.
    pub fn text(&self) -> String {
        let parts = self.segments.iter().flat_map(|segment| &segment.parts);
        let length = parts.map(|part| if let Part::Text(text) = part { text.len() } else { 0 }).sum();
        let mut text = String::with_capacity(length);
        if !self.segments.is_empty() {
            self.walk(SegmentId(0), &mut |part| text.push_str(part));
        }
        text
    }

    /// The bytes of the page's text that each segment made, by its position; nothing of one that is not on the page.
    pub fn ranges(&self) -> Vec<Option<std::ops::Range<usize>>> {
        let mut ranges = vec![None; self.segments.len()];
        let mut open: Vec<(SegmentId, usize, usize)> = Vec::new();
        if !self.segments.is_empty() {
            open.push((SegmentId(0), 0, 0));
        }
        let mut at = 0;
        while let Some((id, part, begun)) = open.pop() {
            let Some(found) = self.get(id).parts.get(part) else {
                ranges[id.0] = Some(begun..at);
                continue;
            };
            open.push((id, part + 1, begun));
            match found {
                Part::Text(text) => at += text.len(),
                Part::Hole(_) => {}
                Part::Segment(inner) => open.push((*inner, 0, at)),
            }
        }
        ranges
    }

    /// The points of which something shows.
    pub fn shown(&self) -> Vec<Address> {
        let mut shown: Vec<Address> = Vec::new();
        for (at, segment) in self.segments.iter().enumerate() {
            let Origin::Point(point) = segment.origin else { continue };
            let mut something = false;
            if !shown.contains(&point) {
                self.walk(SegmentId(at), &mut |part| something |= !part.trim().is_empty());
            }
            shown.extend(something.then_some(point));
        }
        shown
    }

    /// Hands on the texts of a segment and of all in it, in order.
    fn walk(&self, from: SegmentId, take: &mut dyn FnMut(&str)) {
        let mut open: Vec<(&Segment, usize)> = vec![(self.get(from), 0)];
        while let Some((segment, at)) = open.pop() {
            let Some(part) = segment.parts.get(at) else { continue };
            open.push((segment, at + 1));
            match part {
                Part::Text(part) => take(part),
                Part::Hole(_) => {}
                Part::Segment(id) => open.push((self.get(*id), 0)),
            }
        }
    }
}
