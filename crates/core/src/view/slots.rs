//! Attachments, with what became of them.

use serde::Serialize;

use super::PlaceView;
use crate::address::Role;
use crate::link::{Point, Registry, Runs, Slot};

/// How it is with an attachment.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, schemars::JsonSchema)]
#[serde(rename_all = "snake_case")]
#[non_exhaustive]
pub enum SlotState {
    /// It runs.
    On,
    /// Something else runs in its place.
    Replaced,
    /// A higher layer took it away.
    Detached,
    /// Its callback is not there, or its condition can't be understood.
    Broken,
}

/// One attachment.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, schemars::JsonSchema)]
pub struct SlotView {
    /// The callback's name, or the partial's address.
    pub callback: String,
    /// What it does.
    pub role: String,
    /// Lower runs earlier.
    pub priority: u8,
    /// The layer that attaches it.
    pub layer: String,
    /// Is it on, and if not, what became of it?
    pub state: SlotState,
    /// Who replaced or detached it, and where.
    pub by: Option<ByView>,
    /// Can layers above neither detach nor replace it?
    pub sealed: bool,
    /// What it has to run before.
    pub before: Vec<String>,
    /// What it has to run after.
    pub after: Vec<String>,
    /// The condition.
    pub when: Option<String>,
    /// Where it is attached.
    pub place: PlaceView,
}

/// What a higher layer did to an attachment.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, schemars::JsonSchema)]
pub struct ByView {
    /// The layer.
    pub layer: String,
    /// What runs in its place, where it was replaced.
    pub callback: Option<String>,
    /// Where that is said.
    pub place: PlaceView,
}

impl SlotView {
    pub(super) fn new(registry: &Registry, point: &Point, slot: &Slot) -> SlotView {
        let there = matches!(slot.runs, Runs::Callback(_, Some(_)) | Runs::Partial(_, true));
        let name_of = |layer| registry.project().layer(layer).name.to_string();
        let (state, by) = match (slot.detached, slot.replaced) {
            (Some(by), _) => (SlotState::Detached, Some((by, None))),
            (None, Some(replaced)) => (SlotState::Replaced, Some((replaced.by, Some(registry.slot_name(slot))))),
            (None, None) if there && !slot.switched_off => (SlotState::On, None),
            (None, None) => (SlotState::Broken, None),
        };
        SlotView {
            callback: registry.first_name(slot),
            role: match slot.runs {
                Runs::Partial(..) => "partial".into(),
                Runs::Callback(..) => point.address.kind.role().map_or("", Role::word).into(),
            },
            priority: slot.priority,
            layer: name_of(slot.layer),
            state,
            by: by.map(|(by, callback)| ByView {
                layer: name_of(by.layer),
                callback,
                place: PlaceView::of(registry, by.place),
            }),
            sealed: slot.sealed,
            before: slot.before.iter().map(|name| name.to_string()).collect(),
            after: slot.after.iter().map(|name| name.to_string()).collect(),
            when: slot.when.as_ref().map(|when| when.text.to_string()),
            place: PlaceView::of(registry, slot.place),
        }
    }

    /// What runs: what was attached, or what a higher layer put in its place.
    pub fn running(&self) -> &str {
        self.by.as_ref().and_then(|by| by.callback.as_deref()).unwrap_or(&self.callback)
    }

    /// Does this slot hold a callback of that role?
    pub fn is(&self, role: Role) -> bool {
        self.role == role.word()
    }
}
