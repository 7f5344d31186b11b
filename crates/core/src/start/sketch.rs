//! A layout as a sketch: rows of names, as CSS itself writes them in `grid-template-areas` (CSS Grid Layout, 7.3).

use std::fmt;

use crate::address::{Address, Kind};
use crate::names;

/// What is sketched where nothing is said.
pub const USUAL: &str = "header header / main aside / footer footer";

/// A name of a sketch, and the cells that it covers.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Part {
    /// The point that it becomes.
    pub address: Address,
    /// The first row and column, from 0.
    pub from: (usize, usize),
    /// The last row and column.
    pub to: (usize, usize),
}

/// A layout: rows of cells, each of one part or empty; the cells of a part are a rectangle.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Sketch {
    /// The parts in reading order: row by row, by where each begins.
    pub parts: Vec<Part>,
    /// By row and column, the positions of parts.
    pub rows: Vec<Vec<Option<usize>>>,
}

/// Why a text is no sketch. Rows and columns count from 1.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct SketchError {
    /// The row and the column, where one is to blame.
    pub place: Option<(usize, usize)>,
    /// What is wrong there.
    pub message: String,
}

impl fmt::Display for SketchError {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self.place {
            Some((row, column)) => write!(f, "row {row}, column {column} of the sketch: {}", self.message),
            None => write!(f, "the sketch: {}", self.message),
        }
    }
}

impl std::error::Error for SketchError {}

fn wrong(place: (usize, usize), message: impl Into<String>) -> SketchError {
    SketchError { place: Some((place.0 + 1, place.1 + 1)), message: message.into() }
}

impl Sketch {
    /// Reads a sketch. Rows are lines, or are parted by `/`; a dot is an empty cell.
    ///
    /// # Errors
    /// Where the rows differ in length, a name is none, a part is no rectangle, or `main` isn't there.
    pub fn parse(text: &str) -> Result<Sketch, SketchError> {
        let lines = text.split(['\n', '/']).map(|row| row.trim().trim_matches(['"', '\'']));
        let words: Vec<Vec<&str>> =
            lines.map(|row| row.split_whitespace().collect()).filter(|row: &Vec<&str>| !row.is_empty()).collect();
        let Some(width) = words.first().map(Vec::len) else {
            return Err(SketchError { place: None, message: format!("it is empty; as in \"{USUAL}\"") });
        };
        let mut sketch = Sketch { parts: Vec::new(), rows: Vec::new() };
        for (row, names) in words.iter().enumerate() {
            if names.len() != width {
                let message = format!("this row has {} cells, the first {width}; a dot is an empty cell", names.len());
                return Err(wrong((row, names.len().min(width) - 1), message));
            }
            let mut cells = Vec::new();
            for (column, name) in names.iter().enumerate() {
                cells.push(match name.bytes().all(|byte| byte == b'.') {
                    true => None,
                    false => Some(sketch.cell((row, column), part_address((row, column), name)?)),
                });
            }
            sketch.rows.push(cells);
        }
        sketch.are_rectangles()?;
        if !sketch.parts.iter().any(|part| part.address == main()) {
            let message = "it has no `main`, which is where a page's own text goes".to_string();
            return Err(SketchError { place: None, message });
        }
        Ok(sketch)
    }

    /// Notes a cell of a part; answers the part's position.
    fn cell(&mut self, (row, column): (usize, usize), address: Address) -> usize {
        match self.parts.iter().position(|part| part.address == address) {
            Some(at) => {
                let part = &mut self.parts[at];
                part.from = (part.from.0.min(row), part.from.1.min(column));
                part.to = (part.to.0.max(row), part.to.1.max(column));
                at
            }
            None => {
                self.parts.push(Part { address, from: (row, column), to: (row, column) });
                self.parts.len() - 1
            }
        }
    }

    fn are_rectangles(&self) -> Result<(), SketchError> {
        for (at, part) in self.parts.iter().enumerate() {
            for row in part.from.0..=part.to.0 {
                for column in part.from.1..=part.to.1 {
                    if self.rows[row][column] != Some(at) {
                        let message = format!(
                            "`{}` is no rectangle: it has cells on both sides of this one, and not this one",
                            part.name()
                        );
                        return Err(wrong((row, column), message));
                    }
                }
            }
        }
        Ok(())
    }
}

impl Part {
    /// What it is called as a grid area and a class: the point's name; of other kinds than regions with the kind
    /// before it.
    pub fn name(&self) -> String {
        match self.address.kind {
            Kind::Region => self.address.name.to_string(),
            kind => format!("{}-{}", kind.word(), self.address.name),
        }
    }
}

/// The host's own region for a page's text.
pub fn main() -> Address {
    Address::new(Kind::Region, "main")
}

/// Kinds that can be placed in a layout by their name alone.
const PLACED: [Kind; 4] = [Kind::Region, Kind::Area, Kind::Menu, Kind::Hook];

fn part_address(place: (usize, usize), name: &str) -> Result<Address, SketchError> {
    let (word, rest) = name.split_once(':').unwrap_or(("region", name));
    let Some(kind) = Kind::from_word(word).filter(|kind| PLACED.contains(kind)) else {
        let words = PLACED.map(Kind::word).join(", ");
        return Err(wrong(place, format!("a layout is made of {words}, and `{word}` is none of them")));
    };
    if !names::is_kebab(rest) {
        let near = names::kebab(rest).map(|near| format!("; as in {near}")).unwrap_or_default();
        return Err(wrong(place, format!("`{rest}` is no name: {}{near}", names::KEBAB)));
    }
    Ok(Address::new(kind, rest))
}

#[cfg(test)]
mod tests {
    use super::*;

    fn said(text: &str) -> String {
        Sketch::parse(text).map_or_else(|error| error.to_string(), |_| "fine".to_string())
    }

    #[test]
    fn rows_are_lines_or_parted_by_strokes_and_parts_come_in_reading_order() {
        let one = Sketch::parse("top top / main side / . side").unwrap();
        assert_eq!(one, Sketch::parse("top top\n main   side\n\n . side\n").unwrap());
        assert_eq!(one, Sketch::parse("\"top top\"\n\"main side\"\n\"... side\"").unwrap());
        let names: Vec<String> = one.parts.iter().map(Part::name).collect();
        assert_eq!(names, ["top", "main", "side"]);
        assert_eq!((one.parts[2].from, one.parts[2].to), ((1, 1), (2, 1)));
        assert_eq!(Sketch::parse("menu:site main").unwrap().parts[0].name(), "menu-site");
    }

    #[test]
    fn what_is_no_sketch_is_refused_with_its_place() {
        for (text, part) in [
            ("", "it is empty"),
            ("a b / a", "row 2, column 1 of the sketch: this row has 1 cells, the first 2"),
            ("a main a", "row 1, column 2 of the sketch: `a` is no rectangle"),
            ("a a / main a", "row 2, column 1 of the sketch: `a` is no rectangle"),
            ("a b / b main", "row 1, column 1 of the sketch: `b` is no rectangle"),
            ("header / footer", "it has no `main`"),
            ("Side main", "row 1, column 1 of the sketch: `Side` is no name"),
            ("main piece:note", "row 1, column 2 of the sketch: a layout is made of region, area, menu, hook"),
        ] {
            let said = said(text);
            assert!(said.contains(part), "{text}: {said}");
        }
    }
}
