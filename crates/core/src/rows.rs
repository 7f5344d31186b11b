//! Rows of things, one after the other in one list.

use std::ops::Range;

/// Rows of things, one after the other in one list: where most rows are short, many lists would take more room than
/// what is in them.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(crate) struct Rows<T> {
    all: Vec<T>,
    /// Where each row ends.
    ends: Vec<u32>,
}

impl<T> Default for Rows<T> {
    fn default() -> Self {
        Rows { all: Vec::new(), ends: Vec::new() }
    }
}

impl<T> Rows<T> {
    /// Rows of things that lie in one list already, each by where it ends.
    pub fn of(all: Vec<T>, ends: Vec<u32>) -> Rows<T> {
        debug_assert_eq!(ends.last().copied().unwrap_or_default() as usize, all.len());
        Rows { all, ends }
    }

    /// No rows yet, with room for so many of them, and for so many things in them.
    pub fn with_room(rows: usize, things: usize) -> Rows<T> {
        Rows { all: Vec::with_capacity(things), ends: Vec::with_capacity(rows) }
    }

    /// How many rows there are.
    pub fn len(&self) -> usize {
        self.ends.len()
    }

    /// The things of all rows.
    pub fn all(&self) -> &[T] {
        &self.all
    }

    /// Where a row lies in the list.
    pub fn range(&self, row: usize) -> Range<usize> {
        let start = row.checked_sub(1).map_or(0, |before| self.ends[before]);
        start as usize..self.ends[row] as usize
    }

    /// One row.
    pub fn row(&self, row: usize) -> &[T] {
        &self.all[self.range(row)]
    }

    /// All rows.
    pub fn iter(&self) -> impl Iterator<Item = &[T]> {
        (0..self.len()).map(|row| self.row(row))
    }

    /// The list, and where each row ends.
    pub fn into_parts(self) -> (Vec<T>, Vec<u32>) {
        (self.all, self.ends)
    }

    /// Adds further rows after the last one.
    pub fn append(&mut self, mut more: Rows<T>) {
        let before = self.all.len() as u32;
        self.all.append(&mut more.all);
        self.ends.extend(more.ends.into_iter().map(|end| before + end));
    }

    /// Adds rows that lie in one list, each by where it ends.
    pub fn extend(&mut self, all: &[T], ends: &[u32])
    where
        T: Copy,
    {
        let before = self.all.len() as u32;
        self.all.extend_from_slice(all);
        self.ends.extend(ends.iter().map(|end| before + end));
    }

    /// Some of the rows.
    pub fn part(&self, rows: Range<usize>) -> Rows<T>
    where
        T: Copy,
    {
        let start = rows.start.checked_sub(1).map_or(0, |before| self.ends[before]);
        let ends: Vec<u32> = self.ends[rows].iter().map(|end| end - start).collect();
        let end = start + ends.last().copied().unwrap_or_default();
        Rows::of(self.all[start as usize..end as usize].to_vec(), ends)
    }

    /// Adds one row after the last one.
    pub fn push(&mut self, row: impl IntoIterator<Item = T>) {
        self.all.extend(row);
        self.ends.push(self.all.len() as u32);
    }

    /// Puts a row in the place of another one.
    pub fn replace(&mut self, row: usize, with: Vec<T>) {
        let range = self.range(row);
        let (old, new) = (range.len() as u32, with.len() as u32);
        self.all.splice(range, with);
        if old != new {
            self.ends[row..].iter_mut().for_each(|end| *end = *end - old + new);
        }
    }
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::Rows;

    proptest! {
        #[test]
        fn rows_are_as_lists_of_lists(
            mut lists in prop::collection::vec(prop::collection::vec(0..9u8, 0..4), 1..9),
            changes in prop::collection::vec((any::<prop::sample::Index>(), prop::collection::vec(0..9u8, 0..4)), 0..9),
            more in prop::collection::vec(prop::collection::vec(0..9u8, 0..4), 0..5),
        ) {
            let rows_of = |lists: &[Vec<u8>]| {
                let mut rows = Rows::default();
                lists.iter().for_each(|list| rows.push(list.clone()));
                rows
            };
            let mut rows = rows_of(&lists);
            for (at, list) in changes {
                let at = at.index(lists.len());
                rows.replace(at, list.clone());
                lists[at] = list;
            }
            rows.append(rows_of(&more));
            lists.extend(more);
            prop_assert_eq!(rows.len(), lists.len());
            prop_assert_eq!(rows.all(), lists.concat());
            prop_assert!(rows.iter().eq(lists.iter().map(Vec::as_slice)));
        }
    }
}
