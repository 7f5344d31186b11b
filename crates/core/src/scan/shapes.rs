//! The shapes: what each kind of file can say, in names.

use semver::{Version, VersionReq};
use serde_json::Value;
use ustr::Ustr;

use super::Condition;
use crate::address::{Address, Kind};
use crate::read::{FileKind, LayerRole};
use crate::source::At;

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
    pub name: Ustr,
    /// Where.
    pub at: At,
}

/// An address as it was written, which may be none.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct PointRef {
    /// What was written.
    pub raw: Ustr,
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
    Layer(Ustr),
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
    pub raw: Ustr,
    /// The layer.
    pub prefix: Prefix,
    /// The module, below `code/`.
    pub file: Ustr,
    /// The exported name.
    pub export: Ustr,
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
    pub target: Ustr,
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
    pub label: Option<Ustr>,
    /// `about`
    pub about: Option<Ustr>,
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
    pub name: Ustr,
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
    pub label: Option<Ustr>,
    /// `about`
    pub about: Option<Ustr>,
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
    pub fail_on: Option<Ustr>,
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

/// A part of a template that is reached, or not, as a whole.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct SectionId(pub u16);

/// What such a part is.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum SectionKind {
    /// What stands outside all blocks and macros.
    Top,
    /// A block.
    Block(Ustr),
    /// A macro.
    Macro(Ustr),
    /// A branch that is never taken.
    Dead,
}

/// A part of a template that is reached, or not, as a whole.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Section {
    /// What it is.
    pub kind: SectionKind,
    /// The blocks that stand in it.
    pub blocks: Vec<Ustr>,
    /// Names that may be those of macros.
    pub mentions: Vec<Ustr>,
    /// Does it call `super()`?
    pub calls_super: bool,
    /// The local names that are visible where it begins.
    pub visible: Vec<Ustr>,
}

/// How a template refers to another.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum TemplateVerb {
    /// `{% extends %}`
    Extends,
    /// `{% include %}`
    Include,
    /// `{% import %}`, `{% from … import %}`
    Import,
}

/// A reference from one template to another.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct TemplateRef {
    /// How.
    pub verb: TemplateVerb,
    /// The name as written; nothing where it is not a literal.
    pub target: Option<Ustr>,
    /// Where.
    pub at: At,
    /// The part in which it stands.
    pub section: SectionId,
    /// Is it a matter of circumstances whether this is carried out?
    pub conditional: bool,
    /// May the target be missing?
    pub optional: bool,
    /// The local names visible there, for an include.
    pub visible: Vec<Ustr>,
    /// For an import: the names under which the file, or single macros of it, are known here. An
    /// entry is (local name, macro); no macro stands for the whole file.
    pub aliases: Vec<(Ustr, Option<Named>)>,
}

/// How a template or module refers to a point.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum Verb {
    /// `place`
    Place,
    /// `through`
    Through,
    /// `filled`
    Filled,
}

/// A use of a point in a template or module.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Use {
    /// How.
    pub verb: Verb,
    /// Which point.
    pub point: PointRef,
    /// The part of the template in which it stands.
    pub section: SectionId,
    /// In a module: the export in whose body it stands; nothing where any may be the one.
    pub owner: Option<Ustr>,
    /// The named arguments.
    pub args: Vec<Named>,
    /// Are there arguments whose names can't be seen?
    pub open: bool,
    /// Is it a matter of circumstances whether this is carried out?
    pub conditional: bool,
}

/// A variable that is read and is no local one: `page.title` is `["page", "title"]`.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Read {
    /// The names on the way.
    pub path: Vec<Named>,
    /// The part in which it stands.
    pub section: SectionId,
}

/// What a template says.
#[derive(Clone, Debug, PartialEq, Eq, Default)]
pub struct TemplateShape {
    /// Could it not be understood at all?
    pub broken: bool,
    /// The parts; the first is what stands outside all blocks and macros.
    pub sections: Vec<Section>,
    /// What it extends, includes and imports.
    pub refs: Vec<TemplateRef>,
    /// The points that it uses.
    pub uses: Vec<Use>,
    /// The files and assets whose address it asks for.
    pub assets: Vec<Named>,
    /// The variables that it reads.
    pub reads: Vec<Read>,
    /// Names that it sets at its top level, which templates that it extends or includes see.
    pub assigned: Vec<Ustr>,
    /// Does it name a point, or a template, by something else than a literal?
    pub dynamic: bool,
}

impl TemplateShape {
    /// The template that this one extends.
    pub fn extends(&self) -> Option<&TemplateRef> {
        self.refs.iter().find(|reference| reference.verb == TemplateVerb::Extends)
    }

    /// The part with that block.
    pub fn block(&self, name: Ustr) -> Option<SectionId> {
        self.section(SectionKind::Block(name))
    }

    /// The part of that kind.
    pub fn section(&self, kind: SectionKind) -> Option<SectionId> {
        let at = self.sections.iter().position(|section| section.kind == kind)?;
        Some(SectionId(at as u16))
    }
}

/// Something that a module exports.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Export {
    /// Its name; `default` for the default export.
    pub name: Ustr,
    /// Where.
    pub at: At,
    /// Is it certainly no function?
    pub no_function: bool,
}

/// Something that a module imports or passes on.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct ModuleImport {
    /// The module, as written.
    pub from: Named,
    /// The names asked for there.
    pub names: Vec<Named>,
    /// Does it take all there is?
    pub all: bool,
    /// `export * from`: does it pass all of it on?
    pub passes_on: bool,
}

/// What a module says.
#[derive(Clone, Debug, PartialEq, Eq, Default)]
pub struct ModuleShape {
    /// Could it not be understood at all?
    pub broken: bool,
    /// What it exports.
    pub exports: Vec<Export>,
    /// What it imports.
    pub imports: Vec<ModuleImport>,
    /// The points that it uses.
    pub uses: Vec<Use>,
    /// The files and assets whose address it asks for.
    pub assets: Vec<Named>,
    /// Does it name a point by something else than a literal?
    pub dynamic: bool,
}
