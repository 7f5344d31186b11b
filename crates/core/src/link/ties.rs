//! What is tied to points, by the steps before: looked at by those that follow ways from point to point.

use rustc_hash::FxHashMap;

use super::assets::Carried;
use super::fill::Filled;
use super::names::Names;
use super::point::{ItemUse, Renderer, Said, Slot, UseId};
use super::slots::Attached;
use crate::address::{Address, Kind};
use crate::source::FileId;

#[derive(Clone, Copy)]
pub(super) struct Ties<'t> {
    pub names: Names<'t>,
    pub attached: &'t Attached,
    pub uses: &'t FxHashMap<Address, Vec<UseId>>,
    pub filled: &'t Filled,
    pub carried: &'t Carried,
}

impl<'t> Ties<'t> {
    pub fn slots(&self, point: Address) -> &'t [Slot] {
        self.attached.slots.get(&point).map_or(&[], |slots| &slots.on)
    }

    pub fn uses(&self, point: Address) -> &'t [UseId] {
        self.uses.get(&point).map_or(&[], Vec::as_slice)
    }

    pub fn fills(&self, point: Address) -> &'t [(FileId, usize)] {
        self.filled.fills.get(&point).map_or(&[], Vec::as_slice)
    }

    pub fn items(&self, point: Address) -> &'t [ItemUse] {
        self.filled.items.get(&point).map_or(&[], Vec::as_slice)
    }

    pub fn renderer(&self, point: Address) -> Option<Renderer> {
        self.attached.renderers.get(&point).copied()
    }

    pub fn is_fired(&self, point: &Said) -> bool {
        is_fired(point, self.uses(point.address))
    }
}

/// Does the host itself fire this: a moment, or a filter of its own that nothing is sent through?
pub(super) fn is_fired(point: &Said, uses: &[UseId]) -> bool {
    let hosts = point.declared.first().is_some_and(|declared| declared.layer.index() == 0);
    hosts && (point.moment || point.address.kind == Kind::Filter && uses.is_empty())
}
