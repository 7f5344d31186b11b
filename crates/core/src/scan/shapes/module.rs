//! What modules say.

use serde_json::Value;

use super::{Compared, Given, Message, Named, Outlet, PointRef, Use};
use crate::name::Name;
use crate::source::At;

/// Something that a module exports.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Export {
    /// Its name; `default` for the default export.
    pub name: Name,
    /// Where.
    pub at: At,
    /// Is it certainly no function?
    pub no_function: bool,
    /// How it is called, where it is a function whose form can be seen.
    pub signature: Option<Signature>,
    /// What it reads of what it is given.
    pub takes: Vec<Taken>,
    /// What is written out where it returns.
    pub returns: Vec<Returned>,
    /// Where it changes what it is given, which can't be changed.
    pub writes: Vec<At>,
}

/// A property that a function reads of what it is given: of `c.page.title`, `page` and `title` of its first
/// parameter.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Taken {
    /// The parameter, from 0.
    pub param: u8,
    /// The names on the way.
    pub path: Vec<Step>,
    /// Is the value itself used, and not only properties of it?
    pub whole: bool,
}

/// One name on the way to a property.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Step {
    /// The name.
    pub named: Named,
    /// Does the name of a variable stand for it, as in `{ page }`?
    pub short: bool,
}

/// Something that is written out where a function returns.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Returned {
    /// A table: its keys, those of them whose values are written out, and where it stands.
    Table(Vec<Named>, Vec<Given>, At),
    /// A text with markup in it: all of it, and the text as it would be written as markup, where that can be said.
    Text(At, Option<String>),
    /// A value that is written out as a whole.
    Value(At, Value),
    /// A list, whatever is in it.
    List(At),
}

impl Returned {
    /// The values that are written out.
    pub fn given(&self) -> &[Given] {
        match self {
            Returned::Table(_, given, _) => given,
            Returned::Text(..) | Returned::Value(..) | Returned::List(_) => &[],
        }
    }
}

/// The form of a function.
#[derive(Clone, Debug, PartialEq, Eq, Default)]
pub struct Signature {
    /// Its parameters, without those that have a default, and without a rest.
    pub params: Vec<At>,
    /// A way through it that ends without a value: the `return`, or the function's end.
    pub empty_end: Option<At>,
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
    /// The outlets that it places.
    pub outlets: Vec<Outlet>,
    /// Where it writes into the trace.
    pub notes: Vec<At>,
    /// The files and assets whose address it asks for.
    pub assets: Vec<Named>,
    /// The features that it asks for.
    pub asked: Vec<PointRef>,
    /// The messages that it wants translated.
    pub messages: Vec<Message>,
    /// The components that it names in items: `{ use: "piece:note" }`, `item.use === "piece:note"`.
    pub named: Vec<PointRef>,
    /// The addresses in links of its markup that begin with a slash and are written out.
    pub links: Vec<Named>,
    /// What it compares options and types of pages with.
    pub compared: Vec<Compared>,
    /// Names that it uses and that nothing gives.
    pub undeclared: Vec<Named>,
    /// Does it name a point by something else than a literal?
    pub dynamic: bool,
    /// Is it certain that nothing which it does outlasts a call, by itself?
    pub keeps_nothing: bool,
}
