//! What is asked about.

use crate::address::{Address, Kind};
use crate::link::{Callback, Registry};

/// A point, or a callback.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Subject {
    Point(Address),
    Callback(Callback),
}

impl Subject {
    /// How people write it.
    pub fn name(self, registry: &Registry) -> String {
        match self {
            Subject::Point(address) => address.to_string(),
            Subject::Callback(callback) => registry.callback_name(callback),
        }
    }

    /// What is said of it where all links hold, and where one does not.
    pub fn verbs(self, registry: &Registry, in_vain: bool) -> [&'static str; 2] {
        let kind = match self {
            Subject::Point(address) if registry.point(address).is_some_and(|point| point.moment) => {
                return ["is fired by the host", "is not fired"];
            }
            Subject::Callback(_) if in_vain => return ["runs", "runs in vain"],
            Subject::Callback(_) => return ["runs", "does not run"],
            Subject::Point(address) => address.kind,
        };
        match kind {
            Kind::Feature => ["is on", "has no effect"],
            Kind::Filter => ["changes values", "changes nothing"],
            Kind::Option => ["is in use", "has no effect"],
            Kind::Template => ["is used", "is not used"],
            kind if kind.is_asset() => ["is loaded", "is not loaded"],
            _ => ["shows", "does not show"],
        }
    }
}
