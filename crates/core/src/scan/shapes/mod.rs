//! The shapes: what each kind of file can say, in names.

mod assets;
mod chance;
mod manifest;
mod module;
mod predicate;
mod site;
mod used;

use crate::address::{Address, Kind};
use crate::name::Name;
use crate::source::{At, FileKind};

pub use assets::*;
pub use chance::*;
pub use manifest::*;
pub use module::*;
pub use predicate::*;
pub use site::*;
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
    /// The text of a page.
    Body(Box<BodyShape>),
    /// A style sheet.
    Style(Box<StyleShape>),
    /// A script for browsers.
    Script(Box<ScriptShape>),
    /// A translation.
    Words(Box<WordsShape>),
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

    /// The messages that a template or module wants translated.
    pub fn messages(&self) -> &[Message] {
        match self {
            Shape::Template(shape) => &shape.messages,
            Shape::Module(shape) => &shape.messages,
            _ => &[],
        }
    }

    /// The features that a template or module asks for.
    pub fn asked(&self) -> &[PointRef] {
        match self {
            Shape::Template(shape) => &shape.asked,
            Shape::Module(shape) => &shape.asked,
            _ => &[],
        }
    }

    /// The features that a template asks to be off.
    pub fn asked_off(&self) -> &[PointRef] {
        match self {
            Shape::Template(shape) => &shape.asked_off,
            _ => &[],
        }
    }

    /// The files and assets whose address a template or module asks for.
    pub fn assets(&self) -> &[Named] {
        match self {
            Shape::Template(shape) => &shape.assets,
            Shape::Module(shape) => &shape.assets,
            _ => &[],
        }
    }

    /// Could the file not be understood, so that it might say anything?
    pub fn is_broken(&self) -> bool {
        match self {
            Shape::Manifest(shape) => shape.broken,
            Shape::Template(shape) => shape.broken,
            Shape::Module(shape) => shape.broken,
            Shape::Site(shape) => shape.broken,
            Shape::Page(shape) => shape.broken,
            Shape::Style(shape) => shape.broken,
            Shape::Script(shape) => shape.broken,
            Shape::Words(shape) => shape.broken,
            Shape::Body(_) | Shape::Opaque => false,
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
            FileKind::Style => Shape::Style(Box::new(StyleShape { broken: true, ..Default::default() })),
            FileKind::Script => Shape::Script(Box::new(ScriptShape { broken: true, ..Default::default() })),
            FileKind::Words => Shape::Words(Box::new(WordsShape { broken: true, ..Default::default() })),
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
