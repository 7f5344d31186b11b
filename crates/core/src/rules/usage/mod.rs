//! Use: is every point placed and reached, and every name known?

pub(crate) mod around;
pub mod dynamic_point;
pub mod empty_wrapper;
pub mod lost_placement;
pub mod missing_argument;
pub mod placement_cycle;
pub mod repeated_placement;
pub mod stale_copy;
pub mod template_cycle;
pub mod undeclared_point;
pub mod unknown_argument;
pub mod unknown_variable;
pub mod unplaced_point;
pub mod unreached_placement;
pub mod unreached_template;
pub mod wrong_spot;

use crate::address::Address;
use crate::edit::template::suggest;
use crate::link::Registry;
use crate::source::FileId;

/// The command that places a point, in a template if one is to be preferred.
pub fn place_command(registry: &Registry, point: Address, file: Option<FileId>) -> String {
    match suggest(registry, point, file) {
        Some((template, selector)) => format!("truehook place {point} --in {template} --inside {selector}"),
        None => format!("truehook place {point} --in TEMPLATE --inside SELECTOR"),
    }
}
