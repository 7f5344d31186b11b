//! Layers: does what is detached, replaced, dropped and overridden have anything to act on?

pub mod dead_override;
pub mod detach_target;
pub mod dropped_in_use;
pub mod replace_target;
pub mod sealed_callback;

use crate::link::{Miss, Registry};

/// What to say at a name that no lower layer's attachment has: this layer's own may have it.
fn own_label(registry: &Registry, miss: &Miss, name: &str) -> String {
    let own = registry.points.values().flat_map(|point| &point.slots);
    let mut own = own.filter(|slot| slot.layer == miss.layer);
    match own.any(|slot| registry.slot_name(slot) == name) {
        true => "this layer attaches it itself; take that away instead".to_string(),
        false => "nothing below is called that".to_string(),
    }
}
