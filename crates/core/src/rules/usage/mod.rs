//! Use: is every point placed and reached, and every name known?

pub mod dynamic_point;
pub mod lost_placement;
pub mod missing_argument;
pub mod placement_cycle;
pub mod template_cycle;
pub mod undeclared_point;
pub mod unknown_argument;
pub mod unknown_variable;
pub mod unplaced_point;
pub mod unreached_placement;
pub mod unreached_template;

use crate::address::Address;

/// The command that places a point.
pub fn place_command(point: Address) -> String {
    format!("truehook place {point} --in TEMPLATE --inside SELECTOR")
}
