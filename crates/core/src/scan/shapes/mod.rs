//! The shapes: what each kind of file can say, in names.

mod used;

use crate::name::Name;
use semver::{Version, VersionReq};
use serde_json::Value;

use super::Condition;
use crate::address::{Address, Kind};
use crate::source::At;
use crate::source::{FileKind, LayerRole};

pub use used::*;

/// What one file says, whatever its kind.
#[derive(Clone, Debug, PartialEq)]
pub enum Shape {
    /// `truehook.toml`, or a further piece of it.
    Manifest(Box<ManifestShape>),
    /// A template.
    Template(Box<TemplateShape>),
    /// An ECMAScript module.
    Module(Box<ModuleShape>),
    /// `preview/site.toml`.
    Site(Box<SiteShape>),
    /// A page of the preview.
    Page(Box<PageShape>),
    /// Nothing that anything could refer to by name.
    Opaque,
}

impl Shape {
    /// The uses of points in a template or module.
    pub fn uses(&self) -> &[Use] {
        match self {
            Shape::Template(shape) => &shape.uses,
            Shape::Module(shape) => &shape.uses,
            _ => &[],
        }
    }

    /// The shape of a file that could not be understood: it might say anything.
    pub fn broken(kind: FileKind) -> Shape {
        match kind {
            FileKind::Manifest => Shape::Manifest(Box::new(ManifestShape { broken: true, ..Default::default() })),
            FileKind::Template => Shape::Template(Box::new(TemplateShape { broken: true, ..Default::default() })),
            FileKind::Module => Shape::Module(Box::new(ModuleShape { broken: true, ..Default::default() })),
            FileKind::Site => Shape::Site(Box::new(SiteShape { broken: true, ..Default::default() })),
            FileKind::Page => Shape::Page(Box::new(PageShape { broken: true, ..Default::default() })),
            FileKind::Body | FileKind::Media => Shape::Opaque,
        }
    }
}

/// A name and where it stands.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Named {
    /// The name.
    pub name: Name,
    /// Where.
    pub at: At,
}

/// An address as it was written, which may be none.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct PointRef {
    /// What was written.
    pub raw: Name,
    /// The address, if it is one.
    pub address: Option<Address>,
    /// Where.
    pub at: At,
}

impl PointRef {
    /// Reads what was written.
    pub fn new(raw: &str, at: At) -> PointRef {
        // A point whose declaration has a bad name is reported there, not wherever it is used.
        let halves = raw.split_once(':').and_then(|(word, name)| Some(Address::new(Kind::from_word(word)?, name)));
        PointRef { raw: raw.into(), address: halves, at }
    }
}

/// Which layer a reference looks in.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum Prefix {
    /// Nothing was written.
    None,
    /// `below:`
    Below,
    /// The name of a layer.
    Layer(Name),
}

impl Prefix {
    /// Splits `layer:rest`.
    pub fn split(text: &str) -> (Prefix, &str) {
        match text.split_once(':') {
            Some(("below", rest)) => (Prefix::Below, rest),
            Some((layer, rest)) => (Prefix::Layer(layer.into()), rest),
            None => (Prefix::None, text),
        }
    }
}

/// A reference to a callback: `[layer:]file.js#name`.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct CallRef {
    /// What was written.
    pub raw: Name,
    /// The layer.
    pub prefix: Prefix,
    /// The module, below `code/`.
    pub file: Name,
    /// The exported name.
    pub export: Name,
    /// Where.
    pub at: At,
}

impl CallRef {
    /// Reads `[layer:]file.js#name`; nothing where the `#` is missing.
    pub fn parse(raw: &str, at: At) -> Option<CallRef> {
        let (prefix, rest) = Prefix::split(raw);
        let (file, export) = rest.split_once('#')?;
        if file.is_empty() || export.is_empty() {
            return None;
        }
        Some(CallRef { raw: raw.into(), prefix, file: file.into(), export: export.into(), at })
    }
}

/// `base`, a companion or `host`, as the manifest asks for it.
#[derive(Clone, Debug, PartialEq)]
pub struct LayerRequest {
    /// A path relative to the layer's folder, or the name of a built-in contract.
    pub target: Name,
    /// Where it stands.
    pub at: At,
    /// The wanted versions.
    pub versions: Option<VersionReq>,
}

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
}

/// An input of a component, or an argument that a placement passes on.
#[derive(Clone, Debug, PartialEq)]
pub struct Field {
    /// Its name.
    pub name: Name,
    /// Where it is declared.
    pub at: At,
    /// What it may hold, in JSON Schema words.
    pub schema: Value,
}

impl Field {
    /// The value where none is given.
    pub fn default(&self) -> Option<&Value> {
        self.schema.get("default")
    }

    /// The type's word, where one is stated.
    pub fn type_word(&self) -> Option<&str> {
        self.schema.get("type")?.as_str()
    }
}

/// A declaration of a point.
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
    /// `required`, in a host contract.
    pub required: Option<bool>,
    /// `inputs`, of a component or template.
    pub inputs: Vec<Field>,
    /// `args`, of a hook or filter.
    pub args: Vec<Field>,
    /// `value`, of a filter, in JSON Schema words.
    pub value: Option<Value>,
    /// `render`, of a component.
    pub render: Option<CallRef>,
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
    /// The types of pages.
    pub types: Vec<PageType>,
    /// `[limits]`
    pub limits: Option<Limits>,
    /// `[check]`
    pub check: CheckSettings,
}

/// One use of a component as content.
#[derive(Clone, Debug, PartialEq)]
pub struct Item {
    /// The component.
    pub component: PointRef,
    /// Its inputs.
    pub inputs: Vec<(Named, Value)>,
    /// Where this holds.
    pub when: Option<Condition>,
    /// Was there a `when` that doesn't parse?
    pub when_broken: bool,
}

/// What the site puts into one point.
#[derive(Clone, Debug, PartialEq)]
pub struct Fill {
    /// The point.
    pub to: PointRef,
    /// The items, in their order.
    pub items: Vec<Item>,
}

/// `preview/site.toml`
#[derive(Clone, Debug, PartialEq, Default)]
pub struct SiteShape {
    /// Could it not be understood at all?
    pub broken: bool,
    /// What fills the points.
    pub fills: Vec<Fill>,
    /// All of it, as JSON; dates are RFC 3339 text.
    pub value: Value,
}

/// One of `preview/pages/*.toml`.
#[derive(Clone, Debug, PartialEq, Default)]
pub struct PageShape {
    /// Could it not be understood at all?
    pub broken: bool,
    /// `path`
    pub path: Option<Named>,
    /// `type`
    pub page_type: Option<Named>,
    /// `body`: a file beside it.
    pub body: Option<Named>,
    /// All of it, as JSON; dates are RFC 3339 text.
    pub value: Value,
}
