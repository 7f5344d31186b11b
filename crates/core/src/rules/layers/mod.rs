//! Layers: does what is detached, replaced, dropped and overridden have anything to act on?

pub mod dead_override;
pub mod detach_target;
pub mod dropped_in_use;
pub mod replace_target;
pub mod sealed_callback;

use crate::command_line;
use crate::link::{Miss, Registry, Wanted};
use crate::rules::telling::{miss_finding, misses, written};
use crate::rules::{Finding, Rule};

/// What to say at a name that no lower layer's attachment has: this layer's own may have it.
fn own_label(registry: &Registry, miss: &Miss, name: &str) -> String {
    let own = registry.points().flat_map(|point| point.slots.iter());
    let mut own = own.filter(|slot| slot.layer == miss.layer);
    match own.any(|slot| registry.slot_name(slot) == name) {
        true => "this layer attaches it itself; take that away instead".to_string(),
        false => "nothing below is called that".to_string(),
    }
}

/// Findings for what acts on attachments of lower layers and finds none; `act` is what it does to a point.
fn nothing_below(registry: &Registry, rule: &'static Rule, act: &str, found: &mut Vec<Finding>) {
    for miss in misses(registry, rule) {
        let name = written(registry, miss);
        let (message, point) = match miss.wanted {
            Wanted::Slot(point, _) => (format!("`{name}` is not attached to `{point}` in a layer below"), Some(point)),
            Wanted::Point(_) => (format!("there is no point `{name}` to {act}"), None),
            _ => (format!("`{name}` is not attached to anything in a layer below"), None),
        };
        let label = own_label(registry, miss, name);
        let mut finding = miss_finding(registry, rule, miss, message, &label);
        finding.point = point.map(|point| point.to_string());
        if finding.mend.is_none() {
            finding = finding.mend(match point {
                Some(point) => command_line!["show", point],
                None => "truehook list".to_string(),
            });
        }
        found.push(finding);
    }
}
