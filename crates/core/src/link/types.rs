//! Sets of types of pages.

/// A set of types of pages, by their position in [`Registry::types`](crate::link::Registry::types).
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash)]
pub struct Types(pub u64);

impl Types {
    /// Every type.
    pub const ALL: Types = Types(u64::MAX);

    /// The set of one type. Types past the 64th share the last bit.
    pub fn one(position: usize) -> Types {
        Types(1 << position.min(63))
    }

    /// No type at all?
    pub fn is_empty(self) -> bool {
        self.0 == 0
    }

    /// Is that type in the set?
    pub fn has(self, position: usize) -> bool {
        self.0 & Types::one(position).0 != 0
    }

    /// The first of them.
    pub fn first(self) -> Option<usize> {
        (!self.is_empty()).then(|| self.0.trailing_zeros() as usize)
    }

    /// Those in both.
    pub fn and(self, other: Types) -> Types {
        Types(self.0 & other.0)
    }

    /// Those in this set, but not in the other.
    pub fn without(self, other: Types) -> Types {
        Types(self.0 & !other.0)
    }

    /// Those in either.
    pub fn or(self, other: Types) -> Types {
        Types(self.0 | other.0)
    }
}

impl FromIterator<usize> for Types {
    fn from_iter<I: IntoIterator<Item = usize>>(positions: I) -> Types {
        positions.into_iter().fold(Types::default(), |all, at| all.or(Types::one(at)))
    }
}
