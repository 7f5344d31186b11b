//! What points are made of: what is said of them, with their slots, uses and renderers.

use std::ops::Deref;
use std::sync::Arc;

use super::asset::Asset;
use super::feature::Feature;
use super::types::Types;
use crate::address::Address;
use crate::name::Name;
use crate::scan::{CallRef, Condition, Field, Offer, PointRef};
use crate::source::{At, FileId, LayerId, Place};

/// The beginning of a file, as a place.
pub const START: At = At(u32::MAX);

/// One declaration of a point, in one layer.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct DeclaredAt {
    /// The layer that declares it.
    pub layer: LayerId,
    /// Where.
    pub place: Place,
}

/// An input or argument, after all layers were merged.
#[derive(Clone, Debug)]
pub struct Input {
    /// The declaration that counts.
    pub field: Field,
    /// Where it stands.
    pub place: Place,
}

/// A function that a module exports.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub struct Callback {
    /// The module.
    pub file: FileId,
    /// The exported name.
    pub export: Name,
}

/// What a slot runs.
#[derive(Clone, Copy, Debug)]
pub enum Runs {
    /// A callback; nothing is found where the module or its export is missing.
    Callback(CallRef, Option<Callback>),
    /// A partial; false where it isn't there.
    Partial(Address, bool),
}

/// One attachment, at its place in a point's running order.
#[derive(Clone, Debug)]
pub struct Slot {
    /// The layer that attaches.
    pub layer: LayerId,
    /// Where.
    pub place: Place,
    /// The position among the layer's attachments.
    pub position: u32,
    /// Lower runs earlier.
    pub priority: u8,
    /// What runs.
    pub runs: Runs,
    /// What it has to run before, as written.
    pub before: Vec<Name>,
    /// What it has to run after, as written.
    pub after: Vec<Name>,
    /// Runs only where this holds.
    pub when: Option<Condition>,
    /// Can't run, because its condition is broken.
    pub switched_off: bool,
    /// Can layers above neither detach nor replace it?
    pub sealed: bool,
    /// What it ran at first, and who put something else in its place.
    pub replaced: Option<Replaced>,
    /// Who detached it.
    pub detached: Option<By>,
}

/// Which layer did something, and where it says so.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct By {
    /// The layer.
    pub layer: LayerId,
    /// The place.
    pub place: Place,
}

/// That something else runs in the place of what was attached.
#[derive(Clone, Copy, Debug)]
pub struct Replaced {
    /// What ran at first.
    pub first: Runs,
    /// Who put something else in its place.
    pub by: By,
}

/// That a point should not be used any more.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Retired {
    /// The version of its layer from which on this holds.
    pub since: semver::Version,
    /// Who says so.
    pub by: By,
}

/// What renders a component or page.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Renderer {
    /// A template.
    Template(FileId),
    /// A callback.
    Callback(Callback),
}

/// One use of a point, as a position among the uses of a file.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub struct UseId {
    /// The template or module.
    pub file: FileId,
    /// The position among its uses.
    pub index: u32,
}

/// What all layers say of a point, merged. It can be asked for what is said of few points, too.
#[derive(Clone, Debug)]
pub struct Said {
    /// Its address.
    pub address: Address,
    /// Its declarations, the lowest layer first.
    pub declared: Vec<DeclaredAt>,
    /// For people.
    pub label: Option<Name>,
    /// One sentence.
    pub about: Option<Name>,
    /// Must every page have it?
    pub required: bool,
    /// Does the host fire it, so that it is never placed?
    pub moment: bool,
    /// Renders, but site editors are not offered it.
    pub reserved: bool,
    /// The inputs of a component or template.
    pub inputs: Vec<Input>,
    /// What a placement of a hook or filter passes on.
    pub args: Vec<Input>,
    /// What is said of few points; nothing where none of that is.
    pub further: Option<Box<Further>>,
    /// What is known of an asset.
    pub asset: Option<Box<Asset>>,
    /// What is known of a feature.
    pub feature: Option<Box<Feature>>,
}

impl Said {
    /// Can site editors pick it?
    pub fn is_offered(&self) -> bool {
        let offers = self.offers.as_ref().is_some_and(|offers| !offers.is_empty());
        offers && !self.reserved && self.dropped.is_none()
    }

    /// What is said of the type of a value or option.
    pub fn schema(&self) -> Option<&serde_json::Value> {
        self.value.as_ref().map(|(schema, _)| schema)
    }

    /// The inputs of a component, or the arguments of anything else.
    pub fn passed(&self) -> &[Input] {
        if self.address.kind.is_component() { &self.inputs } else { &self.args }
    }

    /// The highest layer that declares it.
    pub fn layer(&self) -> Option<LayerId> {
        self.declared.last().map(|declared| declared.layer)
    }

    pub(super) fn new(address: Address) -> Said {
        Said {
            address,
            declared: Vec::new(),
            label: None,
            about: None,
            required: false,
            moment: false,
            reserved: false,
            inputs: Vec::new(),
            args: Vec::new(),
            further: None,
            asset: None,
            feature: None,
        }
    }
}

impl Deref for Said {
    type Target = Further;

    fn deref(&self) -> &Further {
        static NONE: Further = Further::none();
        self.further.as_deref().unwrap_or(&NONE)
    }
}

/// What is said of few points. There may be very many points, so that they keep no room for it.
#[derive(Clone, Debug)]
pub struct Further {
    /// The element that it has to be in, and whether it has to be the last thing there.
    pub inside: Option<(Name, bool)>,
    /// The layer that took it out of use.
    pub dropped: Option<By>,
    /// From which version of its layer on it is there.
    pub since: Option<semver::Version>,
    /// From which version of which layer on it should not be used any more.
    pub retired: Option<Retired>,
    /// What to use in place of a retired one.
    pub instead: Option<PointRef>,
    /// How many levels of entries a menu spot shows.
    pub levels: Option<u64>,
    /// Markup around what an area or component shows.
    pub wrap: Option<Name>,
    /// Markup around an item's title.
    pub wrap_title: Option<Name>,
    /// What a section or piece may hold.
    pub holds: Vec<(PointRef, Place)>,
    /// What site editors can pick of it; nothing where that is not said.
    pub offers: Option<Vec<(FileId, Offer)>>,
    /// What a filter's value, or an option, may be, in JSON Schema words, and where that is said.
    pub value: Option<(serde_json::Value, Place)>,
    /// The assets that a component or asset needs.
    pub needs: Vec<(PointRef, Place)>,
}

impl Further {
    /// None of it.
    pub const fn none() -> Further {
        Further {
            inside: None,
            dropped: None,
            since: None,
            retired: None,
            instead: None,
            levels: None,
            wrap: None,
            wrap_title: None,
            holds: Vec::new(),
            offers: None,
            value: None,
            needs: Vec::new(),
        }
    }
}

/// A point: what is said of it, with all that is tied to it. It can be asked whatever can be asked of what is
/// said of it.
#[derive(Clone, Debug)]
pub struct Point {
    /// What all layers say of it.
    pub said: Arc<Said>,
    /// The attachments in running order.
    pub slots: Arc<[Slot]>,
    /// Attachments that a higher layer took away.
    pub detached: Arc<[Slot]>,
    /// Where it is placed, or sent through.
    pub uses: Vec<UseId>,
    /// What the site puts into it, as (file, position among that file's fills).
    pub fills: Vec<(FileId, usize)>,
    /// The components that it holds somewhere: as a region or area, or as a component.
    pub items: Vec<ItemUse>,
    /// What renders it.
    pub renderer: Option<Renderer>,
    /// Who put another callback in the place of the one that rendered it.
    pub render_replaced: Option<By>,
    /// The types of pages that reach one of its placements.
    pub reached: Types,
}

impl Deref for Point {
    type Target = Said;

    fn deref(&self) -> &Said {
        &self.said
    }
}

/// One use of a component as content.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct ItemUse {
    /// Where the component is named.
    pub place: Place,
    /// The component, where it is there.
    pub component: Option<Address>,
    /// Is it there in any case?
    pub sure: bool,
    /// The types of pages on which it may be there.
    pub types: Types,
}

/// A type of page.
#[derive(Clone, Debug)]
pub struct TypeInfo {
    /// Its name.
    pub name: Name,
    /// Where it is declared.
    pub place: Place,
    /// The keys that `page` has on such pages beside the usual ones.
    pub keys: Vec<Field>,
    /// The template of such pages, with the lower layers' ones that it hides after it.
    pub templates: Vec<FileId>,
}
