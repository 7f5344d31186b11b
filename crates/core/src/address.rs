//! Addresses: how a point is named, `kind:name`, and what each kind of point can do.

use std::fmt;
use std::str::FromStr;

use crate::name::Name;

use crate::names;

/// What sort of spot a point is. Everything that differs by kind is asked here.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Kind {
    /// A moment at which listeners add output.
    Hook,
    /// A value on its way to the page.
    Filter,
    /// A part of the page's layout that holds items.
    Region,
    /// A widget area: each of its items is wrapped in the area's own markup, with a title.
    Area,
    /// A menu spot, which the site fills with one of its menus.
    Menu,
    /// A component used from templates, callbacks and fills.
    Partial,
    /// A page-wide component that the site composes into pages.
    Section,
    /// A smaller component, held by sections and pieces.
    Piece,
    /// A whole-page template.
    Template,
    /// A feature of the host that the theme switches on.
    Feature,
    /// A style sheet.
    Style,
    /// A script that browsers run.
    Script,
    /// A set of assets under one address.
    Bundle,
    /// A choice that the theme leaves to the site.
    Option,
}

/// What a callback does, which follows from the kind of point that it is attached to.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Role {
    /// `(context)` → markup, text or nothing.
    Listener,
    /// `(value, context)` → the new value.
    Filter,
    /// `(items, context)` → the new list.
    Arranger,
    /// `(inputs, context)` → the new inputs.
    Preparer,
}

impl Role {
    /// All roles, in the order in which the model lists them.
    pub const ALL: [Role; 4] = [Role::Listener, Role::Filter, Role::Arranger, Role::Preparer];

    /// The word for this role.
    pub fn word(self) -> &'static str {
        match self {
            Role::Listener => "listener",
            Role::Filter => "filter",
            Role::Arranger => "arranger",
            Role::Preparer => "preparer",
        }
    }

    /// Several of them, for messages.
    pub fn several(self) -> &'static str {
        match self {
            Role::Listener => "listeners",
            Role::Filter => "filters",
            Role::Arranger => "arrangers",
            Role::Preparer => "preparers",
        }
    }
}

impl Kind {
    /// All kinds, in the order in which the model lists them.
    pub const ALL: [Kind; 14] = [
        Kind::Hook,
        Kind::Filter,
        Kind::Region,
        Kind::Area,
        Kind::Menu,
        Kind::Partial,
        Kind::Section,
        Kind::Piece,
        Kind::Template,
        Kind::Feature,
        Kind::Style,
        Kind::Script,
        Kind::Bundle,
        Kind::Option,
    ];

    /// The word for this kind: the first half of an address, and the manifest's table.
    pub fn word(self) -> &'static str {
        match self {
            Kind::Hook => "hook",
            Kind::Filter => "filter",
            Kind::Region => "region",
            Kind::Area => "area",
            Kind::Menu => "menu",
            Kind::Partial => "partial",
            Kind::Section => "section",
            Kind::Piece => "piece",
            Kind::Template => "template",
            Kind::Feature => "feature",
            Kind::Style => "style",
            Kind::Script => "script",
            Kind::Bundle => "bundle",
            Kind::Option => "option",
        }
    }

    /// The word with its article, for messages.
    pub fn one(self) -> &'static str {
        match self {
            Kind::Hook => "a hook",
            Kind::Filter => "a filter",
            Kind::Region => "a region",
            Kind::Area => "an area",
            Kind::Menu => "a menu spot",
            Kind::Partial => "a partial",
            Kind::Section => "a section",
            Kind::Piece => "a piece",
            Kind::Template => "a template",
            Kind::Feature => "a feature",
            Kind::Style => "a style",
            Kind::Script => "a script",
            Kind::Bundle => "a bundle",
            Kind::Option => "an option",
        }
    }

    /// The kind that a word names.
    pub fn from_word(word: &str) -> Option<Kind> {
        Kind::ALL.into_iter().find(|kind| kind.word() == word)
    }

    /// What a callback attached to this kind does; nothing where none can be attached.
    pub fn role(self) -> Option<Role> {
        match self {
            Kind::Hook => Some(Role::Listener),
            Kind::Filter => Some(Role::Filter),
            Kind::Region | Kind::Area | Kind::Menu => Some(Role::Arranger),
            Kind::Partial | Kind::Section | Kind::Piece | Kind::Template => Some(Role::Preparer),
            Kind::Feature | Kind::Style | Kind::Script | Kind::Bundle | Kind::Option => None,
        }
    }

    /// Is it an asset, or a set of them?
    pub fn is_asset(self) -> bool {
        matches!(self, Kind::Style | Kind::Script | Kind::Bundle)
    }

    /// Has inputs and renders to markup.
    pub fn is_component(self) -> bool {
        matches!(self, Kind::Partial | Kind::Section | Kind::Piece)
    }

    /// Can be put on the page with `place`.
    pub fn is_placed(self) -> bool {
        self.needs_placement() || self.is_component()
    }

    /// Vanishes from the page without a word where nothing places it.
    pub fn needs_placement(self) -> bool {
        matches!(self, Kind::Hook | Kind::Region | Kind::Area | Kind::Menu)
    }

    /// Is filled by the site?
    pub fn is_filled(self) -> bool {
        self.holds_items() || self == Kind::Menu
    }

    /// Does the site put items into it?
    pub fn holds_items(self) -> bool {
        matches!(self, Kind::Region | Kind::Area)
    }

    /// Can have a partial attached in place of a callback.
    pub fn takes_partials(self) -> bool {
        matches!(self, Kind::Hook)
    }

    /// Do site editors see its label?
    pub fn is_labelled(self) -> bool {
        matches!(self, Kind::Region | Kind::Area | Kind::Menu | Kind::Section | Kind::Piece | Kind::Option)
    }

    /// How a theme puts such a point to use, for messages.
    pub fn verb(self) -> &'static str {
        match self {
            Kind::Filter => "sent through",
            Kind::Template | Kind::Option | Kind::Style | Kind::Script | Kind::Bundle => "used",
            Kind::Feature => "asked for",
            _ => "placed",
        }
    }
}

impl fmt::Display for Kind {
    fn fmt(&self, out: &mut fmt::Formatter<'_>) -> fmt::Result {
        out.write_str(self.word())
    }
}

/// The name of a point: `kind:name`, as in `region:aside`.
///
/// ```
/// use truehook_core::address::{Address, Kind};
/// let address: Address = "region:aside".parse().unwrap();
/// assert_eq!(address.kind, Kind::Region);
/// assert_eq!(address.to_string(), "region:aside");
/// assert!("aside".parse::<Address>().is_err());
/// ```
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct Address {
    /// What sort of point it is.
    pub kind: Kind,
    /// Its name, in kebab-case.
    pub name: Name,
}

impl serde::Serialize for Address {
    fn serialize<S: serde::Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        serializer.collect_str(self)
    }
}

impl<'de> serde::Deserialize<'de> for Address {
    fn deserialize<D: serde::Deserializer<'de>>(deserializer: D) -> Result<Address, D::Error> {
        let text = String::deserialize(deserializer)?;
        text.parse().map_err(serde::de::Error::custom)
    }
}

impl Address {
    /// An address from its two halves.
    pub fn new(kind: Kind, name: impl Into<Name>) -> Address {
        Address { kind, name: name.into() }
    }
}

impl Address {
    /// For an inner piece, as in `piece:spotlight/caption`: the section that alone can hold it, and
    /// its own name.
    pub fn inner(self) -> Option<(Address, &'static str)> {
        let (holder, own) = self.parts_at(Kind::Piece, '/')?;
        Some((Address::new(Kind::Section, holder), own))
    }
}

impl Address {
    /// For an argument of a feature, as in `feature:pictures.lead`: the feature, and the argument's name.
    pub fn argument(self) -> Option<(Address, &'static str)> {
        let (feature, argument) = self.parts_at(Kind::Feature, '.')?;
        Some((Address::new(Kind::Feature, feature), argument))
    }

    /// What stands before and behind a sign in the name, of a point of that kind.
    fn parts_at(self, kind: Kind, sign: char) -> Option<(&'static str, &'static str)> {
        // Few points are of such a kind: the names of the others aren't looked at.
        if self.kind == kind { self.name.as_str().split_once(sign) } else { None }
    }

    /// The point itself: of an argument, the feature.
    pub fn whole(self) -> Address {
        self.argument().map_or(self, |(feature, _)| feature)
    }

    /// An argument of this feature, as something to be asked for.
    pub fn with_argument(self, argument: Name) -> Address {
        Address::new(self.kind, format!("{}.{argument}", self.name).as_str())
    }
}

impl fmt::Display for Address {
    fn fmt(&self, out: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(out, "{}:{}", self.kind, self.name)
    }
}

/// The nearest kind, or all that there are.
fn hint_or_kinds(suggestion: &Option<String>) -> String {
    match suggestion {
        Some(_) => names::hint(suggestion),
        None => format!("; there are {}", Kind::ALL.map(Kind::word).join(", ")),
    }
}

/// Why a text is no address.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
pub enum AddressError {
    /// No colon, so no kind.
    #[error("`{0}` is not an address; write the kind and the name, as in `region:aside`")]
    NoKind(String),
    /// The word before the colon is no kind.
    #[error("`{word}` is not a kind of point{}", hint_or_kinds(suggestion))]
    UnknownKind {
        /// The word that was written.
        word: String,
        /// The nearest kind.
        suggestion: Option<String>,
    },
    /// The name is not spelt as names of its kind are.
    #[error("`{name}` is not a name: {how}")]
    BadName {
        /// What was written.
        name: String,
        /// How it is spelt.
        how: &'static str,
    },
}

impl FromStr for Address {
    type Err = AddressError;

    fn from_str(text: &str) -> Result<Address, AddressError> {
        let Some((word, name)) = text.split_once(':') else {
            return Err(AddressError::NoKind(text.into()));
        };
        let Some(kind) = Kind::from_word(word) else {
            let words = Kind::ALL.map(Kind::word);
            let suggestion = names::nearest(word, words).map(str::to_string);
            return Err(AddressError::UnknownKind { word: word.into(), suggestion });
        };
        let parts = match kind {
            Kind::Piece => name.split_once('/'),
            Kind::Feature => name.split_once('.'),
            _ => None,
        };
        let good = match parts {
            Some((holder, own)) => names::is_kebab(holder) && names::is_kebab(own),
            None if kind == Kind::Option => names::is_snake(name),
            None => names::is_kebab(name),
        };
        if !good {
            let how = if kind == Kind::Option { names::SNAKE } else { names::KEBAB };
            return Err(AddressError::BadName { name: name.into(), how });
        }
        Ok(Address::new(kind, name))
    }
}
