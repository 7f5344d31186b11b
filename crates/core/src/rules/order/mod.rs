//! Order: can callbacks run as asked?

pub mod order_by_chance;
pub mod order_conflict;
pub mod order_cycle;
pub mod order_target;
pub mod priority_range;
