//! The third step: the facts of all files become one [`Registry`], in which every reference has
//! been resolved once and every point has its slots in running order, its placements and its fills.
//!
//! Each step is a function from what it needs to a value of its own; `registry.rs` puts them together.

mod absence;
mod again;
mod arguments;
mod ask;
mod ask_reach;
mod asset;
mod assets;
mod attach;
mod attached;
mod blind;
mod by_name;
mod chains;
mod conditions;
mod declare;
mod feature;
mod feeds;
mod files;
mod fill;
mod found;
mod globals;
mod ground;
mod habits;
mod holds;
mod inline;
mod interface;
mod items;
mod known;
mod layers;
mod likely;
mod looking;
mod lookups;
mod merge;
mod messages;
mod missed;
mod misses;
mod modules;
mod names;
mod needs;
mod of_type;
mod offers;
mod order;
mod paths;
mod point;
mod preview;
mod properties;
mod quiet;
mod reach;
mod reference;
mod refs;
mod registry;
mod render;
mod settled;
mod slots;
mod sort;
mod switched;
mod taken;
mod templates;
mod ties;
mod troubles;
mod types;
mod under;
mod uses;
mod values;
mod variables;
mod wellknown;

pub use absence::{Absence, Lack};
pub use arguments::{MENU_ARGUMENTS, MissingArgument};
pub use asset::{Asset, NeedCycle};
pub use blind::Blind;
pub use declare::Repeat;
pub use feature::{Feature, Fed, Feed, Given, OFFERED, extent_steps};
pub use ground::{Ground, MessageUse};
pub use items::PlacedItem;
pub use known::{PAGE_KEYS, SITE_KEYS, THEME_KEYS};
pub use merge::{Breach, BreachKind};
pub use missed::{Miss, Unheard};
pub use paths::{address_of, component_template, join_import, relative, relative_path};
pub use point::{
    By, Callback, DeclaredAt, Further, Input, ItemUse, Point, Renderer, Replaced, Retired, Runs, START, Said, Slot,
    TypeInfo, UseId,
};
pub use properties::CONTEXT;
pub use reach::{Cycle, Twice};
pub use reference::{Link, Meaning, Meant, Outcome, Reference, Target, Wanted};
pub use registry::Registry;
pub use render::TwoRenderers;
pub use slots::{Ambiguous, OrderTrouble, SealedHit, WrongKind};
pub use taken::Taken;
pub use types::Types;
pub use under::{Asks, ByType, Circumstance, Conditions, Remaining};
pub use wellknown::{KEPT_BY_FILTERS, body_partial, body_region, menu_partial};
