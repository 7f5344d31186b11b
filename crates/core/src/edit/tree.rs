//! TOML texts changed by their tree: whatever the change doesn't touch keeps its bytes.

use similar::{DiffOp, TextDiff};
use toml_edit::{DocumentMut, Item, Key, Table, TableLike, Value};

use super::{EditError, line_end};
use crate::source::{Edit, FileId, Span};

/// The edits of a TOML text that come of a change of its tree, a line each or several.
pub(super) fn edits(
    file: FileId,
    text: &str,
    change: impl FnOnce(&mut DocumentMut) -> Result<(), EditError>,
) -> Result<Vec<Edit>, EditError> {
    text_edits(file, text, |plain| changed(plain, change))
}

/// The edits of a text that come of a change of it, as it is with plain line ends.
pub(super) fn text_edits(
    file: FileId,
    text: &str,
    change: impl FnOnce(&str) -> Result<String, EditError>,
) -> Result<Vec<Edit>, EditError> {
    let plain = text.replace("\r\n", "\n");
    let after = change(&plain)?;
    Ok(differences(file, text, &plain, &after))
}

/// A TOML text whose tree was changed.
pub(super) fn changed(
    plain: &str,
    change: impl FnOnce(&mut DocumentMut) -> Result<(), EditError>,
) -> Result<String, EditError> {
    let no_toml = || EditError::new("it is not TOML; mend that first (truehook check)");
    // A text without a last line end stays one.
    let is_open = !plain.is_empty() && !plain.ends_with('\n');
    let closed = if is_open { format!("{plain}\n") } else { plain.to_string() };
    let mut document: DocumentMut = closed.parse().map_err(|_| no_toml())?;
    let printed = document.to_string();
    if printed.lines().count() != closed.lines().count() {
        return Err(EditError::new("it can't be changed by command without changing more than that"));
    }
    change(&mut document)?;
    let mut after = document.to_string();
    if printed != closed {
        after = carried_over(&closed, &printed, &after);
    }
    if is_open && after.ends_with('\n') {
        after.pop();
    }
    Ok(after)
}

/// A change from what is printed to what comes after it, made in the text that was written with other blanks: line by
/// line, so that only the lines that change are written as the printer does.
fn carried_over(text: &str, printed: &str, after: &str) -> String {
    let (lines, new): (Vec<&str>, Vec<&str>) =
        (text.split_inclusive('\n').collect(), after.split_inclusive('\n').collect());
    let diff = TextDiff::from_lines(printed, after);
    let kept = diff.ops().iter().map(|op| match op {
        DiffOp::Equal { .. } => lines[op.old_range()].concat(),
        _ => new[op.new_range()].concat(),
    });
    kept.collect()
}

/// The lines that differ, as edits of the text with its own line ends.
fn differences(file: FileId, text: &str, plain: &str, after: &str) -> Vec<Edit> {
    // Where each line begins, and where the last one ends.
    let mut starts = vec![0];
    starts.extend(text.match_indices('\n').map(|(at, _)| at + 1));
    if starts.last() != Some(&text.len()) {
        starts.push(text.len());
    }
    let end = line_end(text);
    let lines: Vec<&str> = after.split_inclusive('\n').collect();
    let diff = TextDiff::from_lines(plain, after);
    let changed = diff.ops().iter().filter(|op| !matches!(op, DiffOp::Equal { .. }));
    changed
        .map(|op| {
            let (old, new) = (op.old_range(), op.new_range());
            let new: String = lines[new].concat();
            let span = Span::new(starts[old.start], starts[old.end]);
            Edit { file, span, new: if end == "\n" { new } else { new.replace('\n', end) } }
        })
        .collect()
}

/// A value as the tree holds it, from its text.
pub(super) fn value(text: &str) -> Result<Value, EditError> {
    text.parse().map_err(|_| EditError::new(format!("`{text}` is no TOML value")))
}

/// Sets a key of a table, by its path; the tables on the way are made, in the short form. What stands around a value
/// that was there stays around the new one.
pub(super) fn set(table: &mut dyn TableLike, path: &[&str], new: Value) -> Result<(), EditError> {
    let Some((key, rest)) = path.split_first() else { return Ok(()) };
    if rest.is_empty() {
        return match table.get_mut(key) {
            None => {
                table.insert(key, Item::Value(new));
                Ok(())
            }
            Some(Item::Value(held)) => {
                let around = held.decor().clone();
                *held = new;
                *held.decor_mut() = around;
                Ok(())
            }
            Some(_) => Err(EditError::new(format!("`{key}` is a table there; set its keys, as in {key}.KEY=VALUE"))),
        };
    }
    if table.get(key).is_none_or(Item::is_none) {
        let mut below = Table::new();
        below.set_dotted(true);
        table.insert(key, Item::Table(below));
    }
    match table.get_mut(key).and_then(Item::as_table_like_mut) {
        Some(below) => set(below, rest, new),
        None => Err(EditError::new(format!("`{key}` is no table there, so it has no `{}`", rest.join(".")))),
    }
}

/// Takes a key of a table away, by its path, and tables that are left with nothing. True where it was there.
pub(super) fn unset(table: &mut dyn TableLike, path: &[&str]) -> bool {
    match path {
        [] => false,
        [key] => table.remove(key).is_some(),
        [key, rest @ ..] => {
            let Some(below) = table.get_mut(key).and_then(Item::as_table_like_mut) else { return false };
            let gone = unset(below, rest);
            let empty = below.is_empty() && below.is_dotted();
            if gone && empty {
                table.remove(key);
            }
            gone
        }
    }
}

/// The table at the end of a path, where there is one.
pub(super) fn find<'t>(document: &'t mut DocumentMut, path: &[String]) -> Option<&'t mut dyn TableLike> {
    let mut table: &mut dyn TableLike = document.as_table_mut();
    for key in path {
        table = table.get_mut(key)?.as_table_like_mut()?;
    }
    Some(table)
}

/// A value as TOML writes it on one line; nothing where a part of it is null, for which TOML has no word.
pub(super) fn inline(value: &serde_json::Value) -> Option<String> {
    use serde_json::Value as Json;
    Some(match value {
        Json::Null => return None,
        Json::Bool(truth) => truth.to_string(),
        Json::Number(number) => number.to_string(),
        Json::String(text) => super::texts::string(text),
        Json::Array(items) => {
            let items: Vec<String> = items.iter().map(inline).collect::<Option<_>>()?;
            if items.is_empty() { "[]".into() } else { format!("[{}]", items.join(", ")) }
        }
        Json::Object(entries) => {
            let entry = |(word, value): (&String, &Json)| Some(format!("{} = {}", key(word), inline(value)?));
            let entries: Vec<String> = entries.iter().map(entry).collect::<Option<_>>()?;
            if entries.is_empty() { "{}".into() } else { format!("{{ {} }}", entries.join(", ")) }
        }
    })
}

/// A key as TOML writes it.
pub(super) fn key(text: &str) -> String {
    Key::new(text).display_repr().into_owned()
}
