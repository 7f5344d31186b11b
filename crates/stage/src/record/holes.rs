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
        let number = self.all.len().to_string();
        self.all.push(hole);
        let mut text = String::with_capacity(self.mark.len() + number.len() + 8);
        text.push(OPEN);
        text.push_str(&self.mark);
        text.push(':');
        text.push_str(&number);
        text.push(CLOSE);
        text
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
            let number = own.zip(end).and_then(|(own, end)| own[..end - (inside.len() - own.len())].parse().ok());
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

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    /// What markup is made of, as the test means it.
    #[derive(Clone, Debug, PartialEq)]
    enum Piece {
        Text(String),
        Hole,
        /// A hole whose text was changed on its way.
        Mangled(String),
    }

    fn piece() -> impl Strategy<Value = Piece> {
        prop_oneof![
            3 => "[a-z<>é \n:0-9]{1,8}".prop_map(Piece::Text),
            2 => Just(Piece::Hole),
            1 => prop::sample::select(&["cut", "other", "number", "escaped"][..]).prop_map(|how| Piece::Mangled(how.into())),
        ]
    }

    /// The text of a hole, changed.
    fn mangled(hole: &str, how: &str) -> String {
        match how {
            "cut" => hole.chars().filter(|c| *c != CLOSE).collect::<String>() + &CLOSE.to_string(),
            "other" => hole.replacen(OPEN, &format!("{OPEN}x"), 1),
            "number" => hole.replace(':', ":-"),
            _ => hole.replace(':', "&#58;"),
        }
    }

    proptest! {
        #![proptest_config(ProptestConfig { cases: 500, failure_persistence: None, ..ProptestConfig::default() })]

        #[test]
        fn markup_is_split_where_its_holes_are(pieces in prop::collection::vec(piece(), 0..10)) {
            let mut holes = Holes::default();
            let (mut markup, mut wanted, mut lost) = (String::new(), Vec::new(), false);
            for piece in &pieces {
                match piece {
                    Piece::Text(text) => {
                        markup.push_str(text);
                        wanted.push(Part::Text(text.clone()));
                    }
                    Piece::Hole => {
                        markup.push_str(&holes.leave(Hole::Sections));
                        wanted.push(Part::Hole(holes.all.len() - 1));
                    }
                    Piece::Mangled(how) if how == "cut" => {
                        // Still a hole in full: only what was taken away comes back.
                        markup.push_str(&mangled(&holes.leave(Hole::Head), how));
                        wanted.push(Part::Hole(holes.all.len() - 1));
                    }
                    Piece::Mangled(how) => {
                        markup.push_str(&mangled(&holes.leave(Hole::Head), how));
                        lost = true;
                    }
                }
            }
            let (parts, told) = holes.split(markup);
            prop_assert_eq!(told, lost);
            prop_assert_eq!(joined(&parts), joined(&wanted));
        }

        #[test]
        fn whatever_a_text_holds_it_is_no_hole(text in "(\u{fdd0}|\u{fdd1}|[0-9a-f]{1,16}|:|[a-z ]){0,20}") {
            let mut holes = Holes::default();
            holes.leave(Hole::Sections);
            let (parts, _) = holes.split(text);
            let is_hole = parts.iter().any(|part| matches!(part, Part::Hole(_)));
            prop_assert!(!is_hole);
        }
    }

    /// Parts as text, holes by number: neighbouring texts are one.
    fn joined(parts: &[Part]) -> String {
        let shown = |part: &Part| match part {
            Part::Text(text) => text.clone(),
            Part::Hole(number) => format!("[[{number}]]"),
            Part::Segment(_) => unreachable!("nothing is filled yet"),
        };
        parts.iter().map(shown).collect()
    }
}
