//! The core on its own: facts, layers, rules and edits, without a terminal and without callbacks.

mod breaks;
mod catalogue;
mod corpus;
mod guards;
mod inline;
mod kept;
mod layers;
mod linking;
mod many;
mod naming;
mod properties;
mod quiet;
mod reading;
mod restraint;
mod rules;
mod scan;
mod showing;
mod silent;
mod splices;
#[cfg(unix)]
mod writing;
