//! What templates say, and what modules say in the same way.

use std::ops::Deref;

use crate::name::Name;

use super::{Chance, Given, Inline, Named, PointRef, Predicate, Term, Written};
use crate::source::At;

/// A part of a template that is reached, or not, as a whole.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct SectionId(pub u16);

/// What such a part is.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum SectionKind {
    /// What stands outside all blocks and macros.
    Top,
    /// A block.
    Block(Name),
    /// A macro.
    Macro(Name),
}

/// One of a template's guards, by its position.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub struct GuardId(pub u16);

/// A condition in a template, under which a part of its text is carried out.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Guard {
    /// The guard around it, in the same block or macro.
    pub outer: Option<GuardId>,
    /// The condition.
    pub predicate: Predicate,
    /// Where it stands.
    pub at: At,
}

/// A block where it stands in a template.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct BlockSite {
    /// The block.
    pub name: Name,
    /// Its name in the tag.
    pub at: At,
    /// The guard around it.
    pub guard: Option<GuardId>,
}

/// A name that may be that of a macro.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Mention {
    /// The name.
    pub name: Name,
    /// The guard around it.
    pub guard: Option<GuardId>,
}

/// A part of a template that is reached, or not, as a whole.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Section {
    /// What it is.
    pub kind: SectionKind,
    /// The blocks that stand in it.
    pub blocks: Vec<BlockSite>,
    /// Names that may be those of macros.
    pub mentions: Vec<Mention>,
    /// Does it call `super()`?
    pub calls_super: bool,
    /// The local names that are visible where it begins.
    pub visible: Vec<Name>,
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
    pub target: Option<Name>,
    /// A name that is put together, where all of its parts can be told for a page.
    pub computed: Option<Box<Term>>,
    /// Where.
    pub at: At,
    /// The part in which it stands.
    pub section: SectionId,
    /// Is this carried out?
    pub chance: Chance,
    /// In a template: the guard around it.
    pub guard: Option<GuardId>,
    /// May the target be missing?
    pub optional: bool,
    /// The local names visible there, for an include.
    pub visible: Vec<Name>,
    /// For an import: the names under which the file, or single macros of it, are known here. An
    /// entry is (local name, macro); no macro stands for the whole file.
    pub aliases: Vec<(Name, Option<Named>)>,
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
    /// `with`, the partial that renders a menu
    With,
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
    pub owner: Option<Name>,
    /// The named arguments.
    pub args: Vec<Named>,
    /// Those of them whose values are written out, with their values.
    pub given: Vec<Given>,
    /// What is sent through a filter, where it is written out.
    pub sent: Option<Box<Written>>,
    /// Are there arguments whose names can't be seen?
    pub open: bool,
    /// Is this carried out?
    pub chance: Chance,
    /// In a template: the guard around it.
    pub guard: Option<GuardId>,
}

/// A value that an option or the type of a page is compared with: `options.scheme == "night"`.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Compared {
    /// What is compared, as in `options.scheme`.
    pub name: Name,
    /// The value that is written out.
    pub value: Written,
    /// In a template: the part in which it stands.
    pub section: SectionId,
}

/// A message that is to be translated: `{{ "…" | t }}`, `t("…")`.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Message {
    /// The message, as it stands in the theme.
    pub id: Named,
    /// Its plural, where it has one.
    pub plural: Option<Named>,
    /// What is put into its placeholders.
    pub args: Vec<Named>,
    /// Are there arguments whose names can't be seen?
    pub open: bool,
}

/// What an element of a template does that True Hook has to know of.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum ElementKind {
    /// `<title>`
    Title,
    /// `<meta name="color-scheme">`
    ColourScheme,
    /// `<meta property="og:…">`
    ShareCard,
    /// `<link type="application/atom+xml">`
    FeedLink,
    /// `<link rel="stylesheet">`
    StyleSheet,
    /// `<script src="…">`
    Script,
    /// Anything else that loads a file.
    Resource,
    /// A link that people follow.
    Link,
    /// Anything with a `data-` attribute of this name.
    Data(Name),
}

/// Such an element.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Element {
    /// What it does.
    pub kind: ElementKind,
    /// All of it, with its end tag where it has one.
    pub at: At,
    /// The address in it, as written; nothing where the element has none.
    pub address: Option<Named>,
    /// Is the address printed by an expression, or part of it?
    pub printed: bool,
}

/// What a template or callback places that is no point.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum OutletKind {
    /// `place("held")`: what the component at hand holds.
    Held,
    /// `place("sections")`: the page's sections.
    Sections,
}

impl OutletKind {
    /// The outlet that a word names.
    pub fn from_word(word: &str) -> Option<OutletKind> {
        [OutletKind::Held, OutletKind::Sections].into_iter().find(|outlet| outlet.word() == word)
    }

    /// The word that names it.
    pub fn word(self) -> &'static str {
        match self {
            OutletKind::Held => "held",
            OutletKind::Sections => "sections",
        }
    }
}

/// A use of an outlet.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Outlet {
    /// Which one.
    pub kind: OutletKind,
    /// Where.
    pub at: At,
    /// The part of the template in which it stands.
    pub section: SectionId,
    /// In a module: the export in whose body it stands; nothing where any may be the one.
    pub owner: Option<Name>,
    /// Is this carried out?
    pub chance: Chance,
    /// In a template: the guard around it.
    pub guard: Option<GuardId>,
}

/// A variable that is read and is no local one: `page.title` is `["page", "title"]`.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Read {
    /// The names on the way.
    pub path: Vec<Named>,
    /// The part in which it stands.
    pub section: SectionId,
}

/// A call of `super()`.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct SuperCall {
    /// The block in which it stands.
    pub section: SectionId,
    /// The guard around it.
    pub guard: Option<GuardId>,
    /// Where.
    pub at: At,
}

/// A key that is read of each entry of a list: of `{% for e in page.entries %}{{ e.title }}`, `title`.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct EntryRead {
    /// The list, as in `page.entries`.
    pub list: Name,
    /// The key.
    pub key: Named,
}

/// What a template says. It can be asked for what few templates say, too.
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
    /// The variables that it reads.
    pub reads: Vec<Read>,
    /// Where it extends another one: what it would print outside of its blocks.
    pub outside: Vec<At>,
    /// Names that it sets at its top level, which templates that it extends or includes see.
    pub assigned: Vec<Name>,
    /// What few templates say; nothing where it says none of that.
    pub further: Option<Box<FurtherShape>>,
    /// Does it name a point, or a template, by something else than a literal?
    pub dynamic: bool,
}

impl Deref for TemplateShape {
    type Target = FurtherShape;

    fn deref(&self) -> &FurtherShape {
        static NONE: FurtherShape = FurtherShape::none();
        self.further.as_deref().unwrap_or(&NONE)
    }
}

/// What few templates say, and no other file sees. There may be very many templates, so that they keep no room for it.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct FurtherShape {
    /// The outlets that it places.
    pub outlets: Vec<Outlet>,
    /// Where it writes into the trace.
    pub notes: Vec<At>,
    /// The files and assets whose address it asks for.
    pub assets: Vec<Named>,
    /// The features that it asks for.
    pub asked: Vec<PointRef>,
    /// The features that it asks to be off: `not enabled(…)`.
    pub asked_off: Vec<PointRef>,
    /// The messages that it wants translated.
    pub messages: Vec<Message>,
    /// Elements of its HTML that load files or that a feature may write.
    pub elements: Vec<Element>,
    /// The scripts that it writes out.
    pub scripts: Vec<Inline>,
    /// What it compares options and types of pages with.
    pub compared: Vec<Compared>,
    /// Local names that are called and whose result is processed further. If one is a macro, what it
    /// places gets lost.
    pub processed: Vec<Named>,
    /// The conditions under which parts of it are carried out.
    pub guards: Vec<Guard>,
    /// The addresses in its links that begin with a slash and are written out.
    pub links: Vec<Named>,
    /// The macros that are called with a block of text, as in `{% call card() %}`.
    pub called: Vec<Named>,
    /// Where it prints a block of its parent.
    pub supers: Vec<SuperCall>,
    /// What it reads of the entries of lists.
    pub entry_reads: Vec<EntryRead>,
}

impl FurtherShape {
    /// None of it.
    pub const fn none() -> FurtherShape {
        FurtherShape {
            outlets: Vec::new(),
            notes: Vec::new(),
            assets: Vec::new(),
            asked: Vec::new(),
            asked_off: Vec::new(),
            messages: Vec::new(),
            elements: Vec::new(),
            scripts: Vec::new(),
            compared: Vec::new(),
            processed: Vec::new(),
            guards: Vec::new(),
            links: Vec::new(),
            called: Vec::new(),
            supers: Vec::new(),
            entry_reads: Vec::new(),
        }
    }
}

impl TemplateShape {
    /// What few templates say, to say more of it.
    pub(crate) fn say_further(&mut self) -> &mut FurtherShape {
        self.further.get_or_insert_with(|| Box::new(FurtherShape::none()))
    }

    /// The template that this one extends.
    pub fn extends(&self) -> Option<&TemplateRef> {
        self.refs.iter().find(|reference| reference.verb == TemplateVerb::Extends)
    }

    /// A guard and those around it, the innermost first.
    pub fn guards_from(&self, guard: Option<GuardId>) -> impl Iterator<Item = &Guard> {
        let get = |id: GuardId| self.guards.get(usize::from(id.0));
        std::iter::successors(guard.and_then(get), move |guard| guard.outer.and_then(get))
    }

    /// The part with that block.
    pub fn block(&self, name: Name) -> Option<SectionId> {
        self.section(SectionKind::Block(name))
    }

    /// The part of that kind.
    pub fn section(&self, kind: SectionKind) -> Option<SectionId> {
        let at = self.sections.iter().position(|section| section.kind == kind)?;
        Some(SectionId(at as u16))
    }
}
