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
    /// A component used from templates, callbacks and fills.
    Partial,
    /// A whole-page template.
    Template,
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
    Preprocess,
}

impl Role {
    /// All roles, in the order in which the model lists them.
    pub const ALL: [Role; 4] = [Role::Listener, Role::Filter, Role::Arranger, Role::Preprocess];

    /// The word for this role.
    pub fn word(self) -> &'static str {
        match self {
            Role::Listener => "listener",
            Role::Filter => "filter",
            Role::Arranger => "arranger",
            Role::Preprocess => "preprocess",
        }
    }
}

impl Kind {
    /// All kinds, in the order in which the model lists them.
    pub const ALL: [Kind; 5] = [Kind::Hook, Kind::Filter, Kind::Region, Kind::Partial, Kind::Template];

    /// The word for this kind: the first half of an address, and the manifest's table.
    pub fn word(self) -> &'static str {
        match self {
            Kind::Hook => "hook",
            Kind::Filter => "filter",
            Kind::Region => "region",
            Kind::Partial => "partial",
            Kind::Template => "template",
        }
    }

    /// The kind that a word names.
    pub fn from_word(word: &str) -> Option<Kind> {
        Kind::ALL.into_iter().find(|kind| kind.word() == word)
    }

    /// What a callback attached to this kind does.
    pub fn role(self) -> Role {
        match self {
            Kind::Hook => Role::Listener,
            Kind::Filter => Role::Filter,
            Kind::Region => Role::Arranger,
            Kind::Partial | Kind::Template => Role::Preprocess,
        }
    }

    /// Has inputs and renders to markup.
    pub fn is_component(self) -> bool {
        matches!(self, Kind::Partial)
    }

    /// Can be put on the page with `place`.
    pub fn is_placed(self) -> bool {
        matches!(self, Kind::Hook | Kind::Region | Kind::Partial)
    }

    /// Vanishes from the page without a word where nothing places it.
    pub fn needs_placement(self) -> bool {
        matches!(self, Kind::Hook | Kind::Region)
    }

    /// Is filled with items by the site.
    pub fn is_filled(self) -> bool {
        matches!(self, Kind::Region)
    }

    /// Can have a partial attached in place of a callback.
    pub fn takes_partials(self) -> bool {
        matches!(self, Kind::Hook)
    }

    /// How a theme puts such a point to use, for messages.
    pub fn verb(self) -> &'static str {
        match self {
            Kind::Filter => "sent through",
            Kind::Template => "used",
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

impl Address {
    /// An address from its two halves.
    pub fn new(kind: Kind, name: impl Into<Name>) -> Address {
        Address { kind, name: name.into() }
    }
}

impl fmt::Display for Address {
    fn fmt(&self, out: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(out, "{}:{}", self.kind, self.name)
    }
}

/// Why a text is no address.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
pub enum AddressError {
    /// No colon, so no kind.
    #[error("`{0}` is not an address; write the kind and the name, as in `region:aside`")]
    NoKind(String),
    /// The word before the colon is no kind.
    #[error("`{word}` is not a kind of point{}", names::hint(suggestion))]
    UnknownKind {
        /// The word that was written.
        word: String,
        /// The nearest kind.
        suggestion: Option<String>,
    },
    /// The name is not in kebab-case.
    #[error("`{0}` is not a name: {why}", why = names::KEBAB)]
    BadName(String),
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
        if !names::is_kebab(name) {
            return Err(AddressError::BadName(name.into()));
        }
        Ok(Address::new(kind, name))
    }
}
