//! Holes: what a placement leaves in markup until it is filled.

use std::hash::{BuildHasher, RandomState};

use minijinja::Value;
use truehook_core::address::Address;

use crate::record::tree::{Part, Source};
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
/// How the numbers of sources begin.
const BEGIN: char = '+';
const END: char = '-';

/// The holes of one page, by number.
pub struct Holes {
    all: Vec<Hole>,
    /// What printed the texts that are between a begin and an end.
    sources: Vec<Source>,
    /// A text that holds the noncharacters all the same can't know this.
    mark: String,
}

impl Default for Holes {
    fn default() -> Holes {
        Holes { all: Vec::new(), sources: Vec::new(), mark: format!("{:x}", RandomState::new().hash_one(0)) }
    }
}

impl Holes {
    /// Leaves a hole, and returns the text that stands for it.
    pub fn leave(&mut self, hole: Hole) -> String {
        self.all.push(hole);
        self.token(&(self.all.len() - 1).to_string())
    }

    /// The texts that stand for the begin and the end of what something printed.
    pub fn printed(&mut self, source: Source) -> [String; 2] {
        self.sources.push(source);
        let number = self.sources.len() - 1;
        [self.token(&format!("{BEGIN}{number}")), self.token(&format!("{END}{number}"))]
    }

    fn token(&self, number: &str) -> String {
        let mut text = String::with_capacity(self.mark.len() + number.len() + 8);
        text.push(OPEN);
        text.push_str(&self.mark);
        text.push(':');
        text.push_str(number);
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

    /// Splits markup at its holes. What is left of holes whose text was changed on its way is taken away.
    pub fn split(&self, markup: String) -> Pieces {
        let mut pieces = Pieces::default();
        if !markup.contains(OPEN) {
            pieces.parts.extend((!markup.is_empty()).then_some(Part::Text(markup)));
            return pieces;
        }
        // What prints here, the innermost last.
        let mut printing: Vec<Source> = Vec::new();
        let mut rest = markup.as_str();
        while let Some(at) = rest.find(OPEN) {
            let inside = &rest[at + OPEN.len_utf8()..];
            let end = inside.find(CLOSE);
            let own = inside.strip_prefix(self.mark.as_str()).and_then(|own| own.strip_prefix(':'));
            let token = own.zip(end).map(|(own, end)| &own[..end - (inside.len() - own.len())]);
            pieces.text(&rest[..at], &printing);
            match token.map(|token| (token.strip_prefix(BEGIN), token.strip_prefix(END), token.parse().ok())) {
                Some((Some(number), _, _)) => {
                    printing.extend(number.parse().ok().and_then(|at: usize| self.sources.get(at)))
                }
                Some((_, Some(_), _)) => drop(printing.pop()),
                Some((_, _, Some(number))) => pieces.add(Part::Hole(number), printing.last().copied()),
                _ => pieces.lost = true,
            }
            rest = end.map_or(inside, |end| &inside[end + CLOSE.len_utf8()..]);
        }
        pieces.text(rest, &printing);
        pieces
    }
}

/// Markup that was split at its holes.
#[derive(Default)]
pub struct Pieces {
    pub parts: Vec<Part>,
    /// What printed each of them, where that is known of any.
    pub sources: Vec<Option<Source>>,
    /// Was there a hole whose text was changed on its way?
    pub lost: bool,
}

impl Pieces {
    fn text(&mut self, text: &str, printing: &[Source]) {
        if !text.is_empty() {
            self.add(Part::Text(text.to_string()), printing.last().copied());
        }
    }

    fn add(&mut self, part: Part, source: Option<Source>) {
        self.parts.push(part);
        self.sources.push(source);
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
            "number" => hole.replace(':', ":x"),
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
            let pieces = holes.split(markup);
            prop_assert_eq!(pieces.lost, lost);
            prop_assert_eq!(joined(&pieces.parts), joined(&wanted));
        }

        #[test]
        fn whatever_a_text_holds_it_is_no_hole(text in "(\u{fdd0}|\u{fdd1}|[0-9a-f]{1,16}|:|[a-z ]){0,20}") {
            let mut holes = Holes::default();
            holes.leave(Hole::Sections);
            let pieces = holes.split(text);
            let is_hole = pieces.parts.iter().any(|part| matches!(part, Part::Hole(_)));
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
