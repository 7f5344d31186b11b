//! What a manifest says.

use std::ops::Deref;
use std::sync::Arc;

use semver::Version;
use serde_json::Value;

use super::{CallRef, Item, Named, PointRef};
use crate::address::Address;
use crate::name::Name;
use crate::scan::Condition;
use crate::source::{At, LayerRequest, LayerRole};

/// The table that opens a manifest.
#[derive(Clone, Debug, PartialEq)]
pub struct Identity {
    /// Which table it is.
    pub role: LayerRole,
    /// Where it begins.
    pub at: At,
    /// `name`
    pub name: Option<Named>,
    /// `label`
    pub label: Option<Name>,
    /// `about`
    pub about: Option<Name>,
    /// `version`
    pub version: Option<Version>,
    /// `picture`
    pub picture: Option<Named>,
    /// `open`
    pub open: bool,
    /// `host`
    pub host: Option<LayerRequest>,
    /// `base`
    pub base: Option<LayerRequest>,
    /// `companions`
    pub companions: Vec<LayerRequest>,
    /// Does it ask for a layer in a way that can't be understood?
    pub unsure: bool,
}

/// An input of a component, or an argument that a placement passes on.
#[derive(Clone, Debug, PartialEq)]
pub struct Field {
    /// Its name.
    pub name: Name,
    /// Where it is declared.
    pub at: At,
    /// What it may hold, in JSON Schema words.
    pub schema: Arc<Value>,
    /// Where that is said.
    pub said: At,
    /// Where the default stands, where it is a text.
    pub default_at: Option<At>,
}

impl Field {
    /// The value where none is given.
    pub fn default(&self) -> Option<&Value> {
        self.schema.get("default")
    }

    /// What the value is for, where that is stated.
    pub fn format(&self) -> Option<&str> {
        self.schema.get("format")?.as_str()
    }

    /// The type's word, where one is stated.
    pub fn type_word(&self) -> Option<&str> {
        self.schema.get("type")?.as_str()
    }
}

/// One declaration of a point. What few declarations say beside that can be asked of it, too.
#[derive(Clone, Debug, PartialEq)]
pub struct Declaration {
    /// What is declared.
    pub address: Address,
    /// Where: the table's header.
    pub at: At,
    /// `label`
    pub label: Option<Name>,
    /// `about`
    pub about: Option<Name>,
    /// Renders, but site editors are not offered it.
    pub reserved: Option<bool>,
    /// Are its lists added to those of the layers below?
    pub extend: bool,
    /// `required`, in a host contract.
    pub required: Option<bool>,
    /// `moment`, of a hook in a host contract: the host fires it.
    pub moment: Option<bool>,
    /// `last`, of a hook in a host contract: is it the last thing in the element that it has to be in?
    pub last: Option<bool>,
    /// `inputs`, of a component or template.
    pub inputs: Vec<Field>,
    /// `args`, of a hook or filter.
    pub args: Vec<Field>,
    /// What few declarations say; nothing where it says none of that.
    pub further: Option<Box<FurtherKeys>>,
    /// What an asset says beside that.
    pub asset: Option<Box<AssetKeys>>,
    /// What a feature says.
    pub feature: Option<Box<FeatureKeys>>,
}

impl Deref for Declaration {
    type Target = FurtherKeys;

    fn deref(&self) -> &FurtherKeys {
        static NONE: FurtherKeys = FurtherKeys::none();
        self.further.as_deref().unwrap_or(&NONE)
    }
}

/// What few declarations say. There may be very many declarations, so that they keep no room for it.
#[derive(Clone, Debug, PartialEq)]
pub struct FurtherKeys {
    /// From which version of the layer on it is there.
    pub since: Option<Version>,
    /// From which version on it should not be used any more.
    pub retired: Option<(Version, At)>,
    /// What to use in place of a retired one.
    pub instead: Option<PointRef>,
    /// Placing it emits nothing, and it is never filled.
    pub dropped: Option<(bool, At)>,
    /// `inside`, of a hook in a host contract: the element that it has to be in.
    pub inside: Option<Named>,
    /// `value`, of a filter, or all that an option may be, in JSON Schema words.
    pub value: Option<(Value, At)>,
    /// `render`, of a component.
    pub render: Option<CallRef>,
    /// `levels`, of a menu spot.
    pub levels: Option<u64>,
    /// `wrap`, of an area, section or piece: markup around it.
    pub wrap: Option<Named>,
    /// `wrap-title`, of an area: markup around an item's title.
    pub wrap_title: Option<Named>,
    /// `holds`, of a section or piece: what it may hold; nothing where that is not said.
    pub holds: Option<Vec<PointRef>>,
    /// `offer`, of a section or piece: what site editors can pick; nothing where that is not said.
    pub offer: Option<Vec<Offer>>,
    /// `needs`, of a component or asset: the assets that go with it; nothing where that is not said.
    pub needs: Option<Vec<PointRef>>,
}

impl FurtherKeys {
    /// None of it.
    pub const fn none() -> FurtherKeys {
        FurtherKeys {
            since: None,
            retired: None,
            instead: None,
            dropped: None,
            inside: None,
            value: None,
            render: None,
            levels: None,
            wrap: None,
            wrap_title: None,
            holds: None,
            offer: None,
            needs: None,
        }
    }

    /// Kept, where it is anything.
    pub(crate) fn kept(self) -> Option<Box<FurtherKeys>> {
        (self != FurtherKeys::none()).then(|| Box::new(self))
    }
}

/// What the declaration of a style, script or bundle says.
#[derive(Clone, Debug, PartialEq, Default)]
pub struct AssetKeys {
    /// `file`, below `media/`.
    pub file: Option<Named>,
    /// `gives`: global names that other scripts may use; nothing where that is not said.
    pub gives: Option<Vec<Named>>,
    /// `media`, of a style: where it applies.
    pub media: Option<Name>,
    /// `at`, of a script: is it in the head, or at the page's end?
    pub head: Option<bool>,
    /// `priority`: lower comes earlier.
    pub priority: Option<u8>,
    /// `when`: the pages that it is on.
    pub when: Option<Condition>,
    /// Was there a `when` that doesn't parse?
    pub when_broken: bool,
}

/// An argument of a feature that is a text.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct TextArgument {
    /// The argument's name.
    pub key: Name,
    /// The text, and where it stands.
    pub value: Named,
}

/// What the declaration of a feature says: that of the host what it offers, any other its arguments.
#[derive(Clone, Debug, PartialEq, Default)]
pub struct FeatureKeys {
    /// All that is no key of every declaration, as a table.
    pub arguments: Value,
    /// Those of its arguments that are texts, with their places.
    pub texts: Vec<TextArgument>,
    /// Where its name stands.
    pub name: At,
    /// `arguments`, of the host's: a JSON Schema of what they may be.
    pub schema: Option<Value>,
    /// `default`, of the host's: the arguments where none are given.
    pub default: Option<Value>,
    /// `feeds`, of the host's: the points, variables and styles by which the feature shows, or one argument
    /// of it.
    pub feeds: Vec<(Option<Name>, Named)>,
}

/// A component with given inputs, as site editors can pick it.
#[derive(Clone, Debug, PartialEq)]
pub struct Offer {
    /// For people.
    pub label: Option<Name>,
    /// Where it is offered.
    pub at: At,
    /// What is picked; its component is the one that makes the offer.
    pub item: Item,
}

/// What is attached.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Attached {
    /// A callback.
    Call(CallRef),
    /// A partial.
    Use(PointRef),
}

/// An `[[attach]]` table.
#[derive(Clone, Debug, PartialEq)]
pub struct Attachment {
    /// Where it begins.
    pub at: At,
    /// The point.
    pub to: PointRef,
    /// What is tied to it.
    pub what: Attached,
    /// Lower runs earlier.
    pub priority: u8,
    /// Runs before these.
    pub before: Vec<Named>,
    /// Runs after these.
    pub after: Vec<Named>,
    /// Runs only where this holds. An error in it leaves `None` here and a flaw beside.
    pub when: Option<Condition>,
    /// Was there a `when` that doesn't parse, so that this never runs?
    pub when_broken: bool,
    /// Can layers above neither detach nor replace it?
    pub sealed: bool,
}

/// A `[[detach]]` table.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Detachment {
    /// Where it begins.
    pub at: At,
    /// The point.
    pub from: PointRef,
    /// The callback or partial, as written.
    pub what: Named,
}

/// A `[[replace]]` table.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Replacement {
    /// Where it begins.
    pub at: At,
    /// The point, where that is said.
    pub within: Option<PointRef>,
    /// The callback that goes, as written.
    pub call: Named,
    /// The callback that comes in its place.
    pub with: CallRef,
}

/// An entry of `[adopted]`: a template that was taken over from a lower layer.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Adopted {
    /// The template, below `markup/`.
    pub template: Named,
    /// The layer that it was taken from.
    pub from: Named,
    /// What the original was then, as [`print_of`](crate::source::print_of) gives it.
    pub print: Named,
}

/// A type of page, with the keys that `page` has on such pages beside the usual ones.
#[derive(Clone, Debug, PartialEq)]
pub struct PageType {
    /// Its name.
    pub name: Named,
    /// The further keys of `page`.
    pub keys: Vec<Field>,
}

/// `[check]`
#[derive(Clone, Debug, PartialEq, Eq, Default)]
pub struct CheckSettings {
    /// `fail-on`: the level from which a run fails.
    pub fail_on: Option<Name>,
    /// `rules`: a level, or `off`, by rule.
    pub rules: Vec<(Named, Named)>,
    /// `[[check.ignore]]`
    pub ignores: Vec<CheckIgnore>,
}

/// One `[[check.ignore]]`: findings that the theme has decided to live with.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct CheckIgnore {
    /// The rule.
    pub rule: Named,
    /// Only findings about this point.
    pub point: Option<PointRef>,
    /// Only findings in this file, from the theme's folder.
    pub file: Option<Named>,
    /// Why.
    pub because: Option<Named>,
}

/// `[limits]` of a host contract. What it leaves out is as the standard contract has it.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Limits {
    /// How deep components may be nested.
    pub nesting: u64,
    /// How long one callback may run, in milliseconds.
    pub callback_milliseconds: u64,
    /// How much memory one callback may take, in MiB.
    pub callback_mebibytes: u64,
    /// How long all callbacks of one page may run, in milliseconds.
    pub page_milliseconds: u64,
    /// How many placements one page may hold.
    pub holes: u64,
    /// How many steps the templates of one page may take.
    pub template_steps: u64,
    /// May the texts of pages hold scripts?
    pub scripts_in_texts: bool,
}

impl Default for Limits {
    fn default() -> Limits {
        Limits {
            nesting: 12,
            callback_milliseconds: 250,
            callback_mebibytes: 64,
            page_milliseconds: 5000,
            holes: 100_000,
            template_steps: 50_000_000,
            scripts_in_texts: false,
        }
    }
}

/// What a manifest says.
#[derive(Clone, Debug, PartialEq, Default)]
pub struct ManifestShape {
    /// Could it not be understood at all?
    pub broken: bool,
    /// The table that opens it.
    pub identity: Option<Identity>,
    /// The declared points.
    pub declarations: Vec<Declaration>,
    /// The attachments, in their order.
    pub attachments: Vec<Attachment>,
    /// What it detaches from the layers below.
    pub detachments: Vec<Detachment>,
    /// What it replaces in the layers below.
    pub replacements: Vec<Replacement>,
    /// The templates that were taken over.
    pub adopted: Vec<Adopted>,
    /// The types of pages.
    pub types: Vec<PageType>,
    /// `[limits]`
    pub limits: Option<Limits>,
    /// `[check]`
    pub check: CheckSettings,
}
