//! Tables with a header in a TOML text: where each begins and ends, and how one comes and goes. One that came and goes
//! again leaves the bytes as they were.

use std::ops::Range;

use toml::de::{DeTable, DeValue};

use super::{EditError, line_end, tree, with_line_ends_of};
use crate::source::{Edit, FileId, Span};

/// A table with a header, and where its content ends: behind the end of its last line.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) struct Table {
    pub name: Vec<String>,
    pub start: usize,
    pub end: usize,
}

impl Table {
    /// Is it at these keys, or below them?
    pub fn is_below(&self, keys: &[&str]) -> bool {
        self.name.iter().map(String::as_str).take(keys.len()).eq(keys.iter().copied())
    }
}

/// The tables of a text, in their order. Nothing where it is no TOML.
pub(super) fn tables(text: &str) -> Option<Vec<Table>> {
    let (table, errors) = DeTable::parse_recoverable(text);
    if !errors.is_empty() {
        return None;
    }
    let mut tables = Vec::new();
    let mut ends = Vec::new();
    visit(table.get_ref(), text, &mut Vec::new(), &mut tables, &mut ends);
    tables.sort_by_key(|table: &Table| table.start);
    let starts: Vec<usize> = tables.iter().map(|table| table.start).collect();
    for (at, table) in tables.iter_mut().enumerate() {
        let next = starts.get(at + 1).copied().unwrap_or(text.len());
        let last = ends.iter().copied().filter(|end| *end > table.start && *end <= next).max().unwrap_or(table.end);
        // The rest of the line belongs to it: a comment, and the line's end.
        table.end = text[last..].find('\n').map_or(text.len(), |at| last + at + 1);
    }
    Some(tables)
}

fn visit(table: &DeTable<'_>, text: &str, path: &mut Vec<String>, tables: &mut Vec<Table>, ends: &mut Vec<usize>) {
    for (key, value) in table {
        path.push(key.get_ref().to_string());
        let mut one = |node: &toml::Spanned<DeValue<'_>>, path: &mut Vec<String>| {
            let span = node.span();
            let is_header = text[span.clone()].starts_with('[') && node.get_ref().is_table();
            if is_header {
                tables.push(Table { name: path.clone(), start: span.start, end: span.end });
            }
            ends.push(span.end);
            if let DeValue::Table(inner) = node.get_ref() {
                visit(inner, text, path, tables, ends);
            }
        };
        match value.get_ref() {
            DeValue::Array(items) if items.iter().any(|item| text[item.span()].starts_with("[[")) => {
                items.iter().for_each(|item| one(item, path));
            }
            _ => one(value, path),
        }
        path.pop();
    }
}

/// What is written at a place, between two lines, for a table to stand there: a blank line parts it from what is
/// before it, or from what follows.
pub(super) fn inserted(text: &str, at: usize, table: &str) -> String {
    let end = line_end(text);
    let (before, rest) = text.split_at(at);
    let table = with_line_ends_of(table, text);
    if before.is_empty() && rest.is_empty() {
        return table;
    }
    if !before.is_empty() && !before.ends_with('\n') {
        // A text without a last line end stays one.
        return format!("{end}{end}{}", table.trim_end_matches(['\r', '\n']));
    }
    let is_parted = before.is_empty() || ends_blank(before);
    match rest.is_empty() || rest.starts_with(['\r', '\n', '[']) && !is_parted {
        true => format!("{end}{table}"),
        false => format!("{table}{end}"),
    }
}

fn ends_blank(text: &str) -> bool {
    text.ends_with("\n\n") || text.ends_with("\n\r\n")
}

/// The bytes that go with a table. Comments around it stay.
pub(super) fn removed(text: &str, table: Range<usize>) -> Range<usize> {
    let (before, rest) = (&text[..table.start], &text[table.end..]);
    if rest.is_empty() && !text[..table.end].ends_with('\n') {
        return before.trim_end_matches(['\r', '\n']).len()..table.end;
    }
    if ends_blank(before) {
        let blank = if before.ends_with("\r\n") { 2 } else { 1 };
        return table.start - blank..table.end;
    }
    let blank = ["\r\n", "\n"].into_iter().find(|blank| rest.starts_with(blank)).map_or(0, str::len);
    table.start..table.end + blank
}

/// The edits that take a key of a table away; the table, too, where nothing is left in it.
///
/// # Errors
/// Where the text is no TOML.
pub(super) fn without_key(text: &str, file: FileId, [table, key]: &[&str; 2]) -> Result<Vec<Edit>, EditError> {
    let parsed = DeTable::parse_recoverable(text).0;
    let alone = match parsed.get_ref().get(*table).map(toml::Spanned::get_ref) {
        Some(DeValue::Table(inner)) => inner.iter().all(|(known, _)| known.get_ref() == *key),
        _ => false,
    };
    let found = tables(text).and_then(|all| all.into_iter().find(|known| known.name == [*table]));
    match found {
        Some(found) if alone => {
            let range = removed(text, found.start..found.end);
            Ok(vec![Edit { file, span: Span::new(range.start, range.end), new: String::new() }])
        }
        _ => tree::edits(file, text, |document| {
            tree::unset(document.as_table_mut(), &[table, key]);
            Ok(())
        }),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_table_that_came_and_goes_leaves_the_bytes_as_they_were() {
        let new = "[new]\nx = 1\ny.z = [\n  2,\n]\n";
        let texts = [
            "",
            "a = 1",
            "a = 1\n",
            "[a]\nb = 1\n",
            "[a]\nb = 1",
            "[a]\nb = 1\n\n[c]\nd = 2\n",
            "[a]\nb = 1\n[c]\nd = 2\n",
            "[a]\nb = 1 # x\n# of c\n[c]\nd = 2\n",
            "# all\n\n[a]\n\n\n[c]\n",
            "[a]\r\nb = 1\r\n\r\n[c]\r\nd = 2\r\n",
            "[[a]]\nb = 1\n\n# group\n\n[[a]]\nc = 1\n\n\n",
        ];
        for text in texts {
            let mut places: Vec<usize> =
                tables(text).unwrap().iter().flat_map(|table| [table.start, table.end]).collect();
            places.push(text.len());
            for at in places {
                let with = format!("{}{}{}", &text[..at], inserted(text, at, new), &text[at..]);
                let table = tables(&with).unwrap().into_iter().find(|table| table.name == ["new"]).unwrap();
                let gone = removed(&with, table.start..table.end);
                assert_eq!(format!("{}{}", &with[..gone.start], &with[gone.end..]), text, "{at}: {with}");
            }
        }
    }
}
