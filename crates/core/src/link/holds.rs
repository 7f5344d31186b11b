//! What components may hold.

use super::names::Names;
use super::reference::Link;
use super::refs::Refs;
use crate::address::Kind;

/// Ties what components may hold.
pub(super) fn hold(names: Names<'_>) -> Refs {
    let mut refs = Refs::default();
    for (point, place) in names.declared.all().flat_map(|point| &point.holds) {
        let outcome = match point.raw.as_str().split_once(':') {
            Some((word, "*")) if Kind::from_word(word).is_some_and(Kind::is_component) => continue,
            _ => names.find_point(*point, Kind::is_component),
        };
        refs.refer(names.ground, Link::HoldsToComponent, *place, point.raw, outcome);
    }
    refs
}
