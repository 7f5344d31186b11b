//! The core on its own: facts, layers, rules and edits, without a terminal and without callbacks.

mod catalogue;
mod kept;
mod layers;
mod properties;
mod quiet;
mod restraint;
mod rules;
mod scan;
mod splices;
