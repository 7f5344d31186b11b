//! Holes: what a placement leaves in markup until it is filled.

use std::hash::{BuildHasher, RandomState};

use minijinja::Value;
use truehook_core::address::Address;

use crate::record::tree::Part;
use crate::value::Given;

/// A placement that is still to be filled.
#[derive(Clone, Debug)]
pub enum Hole {
    /// A point, with its arguments and, for a component, what it holds.
    Point { point: Address, args: Given, held: Vec<Value> },
    /// What the component at hand holds.
    Held(Frame),
    /// The page's sections.
    Sections,
    /// What features and assets put into the head.
    Head,
    /// What they put at the page's end.
    End,
}

/// The component that is being rendered.
#[derive(Clone, Debug)]
pub struct Frame {
    pub component: Address,
    /// The items that it holds.
    pub held: Vec<Value>,
}

/// Noncharacters of Unicode: no text may hold them, so no text can be taken for a hole.
const OPEN: char = '\u{fdd0}';
const CLOSE: char = '\u{fdd1}';

/// The holes of one page, by number.
pub struct Holes {
    all: Vec<Hole>,
    /// A text that holds the noncharacters all the same can't know this.
    mark: String,
}

impl Default for Holes {
    fn default() -> Holes {
        Holes { all: Vec::new(), mark: format!("{:x}", RandomState::new().hash_one(0)) }
    }
}

impl Holes {
    /// Leaves a hole, and returns the text that stands for it.
    pub fn leave(&mut self, hole: Hole) -> String {
        self.all.push(hole);
        format!("{OPEN}{}:{}{CLOSE}", self.mark, self.all.len() - 1)
    }

    pub fn get(&self, number: usize) -> Option<&Hole> {
        self.all.get(number)
    }

    /// Does a text stand for a hole, or hold one?
    pub fn is_in(&self, text: &str) -> bool {
        text.contains(OPEN) && text.contains(&self.mark)
    }

    /// Splits markup at its holes. What is left of holes whose text was changed on its way is taken away;
    /// the second answer is true where there was any.
    pub fn split(&self, markup: String) -> (Vec<Part>, bool) {
        if !markup.contains(OPEN) {
            return (if markup.is_empty() { Vec::new() } else { vec![Part::Text(markup)] }, false);
        }
        let mut parts = Vec::new();
        let mut lost = false;
        let mut rest = markup.as_str();
        while let Some(at) = rest.find(OPEN) {
            let inside = &rest[at + OPEN.len_utf8()..];
            let end = inside.find(CLOSE);
            let own = inside.strip_prefix(self.mark.as_str()).and_then(|own| own.strip_prefix(':'));
            let number = own.and_then(|own| own.split(CLOSE).next()?.parse().ok()).filter(|_| end.is_some());
            if at > 0 {
                parts.push(Part::Text(rest[..at].to_string()));
            }
            parts.extend(number.map(Part::Hole));
            lost |= number.is_none();
            rest = end.map_or(inside, |end| &inside[end + CLOSE.len_utf8()..]);
        }
        if !rest.is_empty() {
            parts.push(Part::Text(rest.to_string()));
        }
        (parts, lost)
    }
}
