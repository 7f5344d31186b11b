//! A question under way: what every part of the answer asks.

use super::answer::WhyLine;
use super::seen::{Asked, Seen};
use crate::link::{Point, Registry, Remaining, Slot, Types};
use crate::source::Place;
use crate::view::PlaceView;

/// A question under way.
pub struct Asking<'r> {
    pub registry: &'r Registry,
    pub page: Option<&'r Asked>,
}

impl<'r> Asking<'r> {
    pub fn place(&self, place: Place) -> PlaceView {
        PlaceView::new(self.registry, place.file, self.registry.span(place))
    }

    pub fn line(&self, place: Place, text: impl Into<String>) -> WhyLine {
        WhyLine { place: Some(self.place(place)), text: text.into() }
    }

    /// Is a type of page the one that was asked about, or any?
    pub fn on_page(&self, types: Types) -> bool {
        match self.page.and_then(|page| page.page_type) {
            Some(position) => types.has(position),
            None => !types.is_empty(),
        }
    }

    /// How the page is called in sentences.
    pub fn here(&self) -> String {
        self.page.map_or("any page".to_string(), |page| page.path.clone())
    }

    /// Was a condition met on the page that was asked about? Nothing where that isn't known.
    pub fn met(&self, condition: &Remaining) -> Option<bool> {
        let met = self.seen()?.met.iter().find(|(text, _)| *text == condition.text.as_str());
        met.map(|(_, met)| *met)
    }

    pub fn seen(&self) -> Option<&'r Seen> {
        self.page.map(|page| &page.seen)
    }
}

/// Every attachment, what is detached last.
pub fn slots(point: &Point) -> Vec<&Slot> {
    point.slots.iter().chain(point.detached.iter()).collect()
}
