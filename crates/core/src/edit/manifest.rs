//! Additions to a manifest.

use toml::de::{DeTable, DeValue};

use super::tables::{self, Table};
use super::texts::{quoted, string};
use super::{EditError, line_end, tree};
use crate::address::Address;
use crate::read::{FileKind, Project};
use crate::source::{Edit, FileId, Span};

/// What an `[[attach]]` table says.
#[derive(Clone, Debug, Default)]
pub struct NewAttachment {
    /// The point.
    pub to: String,
    /// The callback, `file.js#name`, or the address of a partial.
    pub what: String,
    /// Nothing where it is the usual one.
    pub priority: Option<u8>,
    /// The condition.
    pub when: Option<String>,
    /// Callbacks that run after this one.
    pub before: Vec<String>,
    /// Callbacks that run before this one.
    pub after: Vec<String>,
}

/// The edit that declares a point in the checked theme: after the last declaration of the same kind,
/// else before the attachments.
///
/// # Errors
/// Where the manifest can't be edited, or a key is none.
pub fn declare(project: &Project, address: Address, keys: &[(String, String)]) -> Result<Edit, EditError> {
    let mut table = match address.inner() {
        Some((section, own)) => format!("[section.{}.piece.{own}]\n", section.name),
        None => format!("[{}.{}]\n", address.kind, address.name),
    };
    let like: Vec<&str> = match address.inner() {
        Some((section, _)) => vec!["section", section.name.as_str()],
        None => vec![address.kind.word()],
    };
    for (key, value) in keys {
        if !key.split('.').all(is_bare_key) {
            return Err(EditError::new(format!("`{key}` is not a key")));
        }
        table.push_str(&format!("{key} = {}\n", toml_value(value)));
    }
    add(project, &table, |block| block.name.iter().map(String::as_str).take(like.len()).eq(like.iter().copied()))
}

/// The edits that set keys of a declaration which stands in the checked theme, and leave the others; a key without a
/// value is taken away.
///
/// # Errors
/// Where the manifest can't be edited, a key is none, or one that is to go isn't there.
pub fn change(
    project: &Project,
    file: FileId,
    address: Address,
    keys: &[(String, String)],
) -> Result<Vec<Edit>, EditError> {
    let path: Vec<String> = match address.inner() {
        Some((section, own)) => {
            vec!["section".into(), section.name.to_string(), "piece".into(), own.to_string()]
        }
        None => vec![address.kind.to_string(), address.name.to_string()],
    };
    let edits = tree::edits(file, project.file(file).text(), |document| {
        let Some(table) = tree::find(document, &path) else {
            return Err(EditError::new(format!("{address} is declared there in a form that commands don't change")));
        };
        for (key, value) in keys {
            let steps: Vec<&str> = key.split('.').collect();
            if !steps.iter().all(|step| is_bare_key(step)) {
                return Err(EditError::new(format!("`{key}` is not a key")));
            }
            if !value.is_empty() {
                tree::set(table, &steps, tree::value(&toml_value(value))?)?;
            } else if !tree::unset(table, &steps) {
                let known: Vec<String> = table.iter().map(|(key, _)| key.to_string()).collect();
                let near = crate::names::nearest(key, known.iter().map(String::as_str)).map(str::to_string);
                let there = match known.is_empty() {
                    true => "it has none".to_string(),
                    false => format!("it has {}", known.join(", ")),
                };
                return Err(EditError::new(format!(
                    "{address} has no key `{key}`{}; {there}",
                    crate::names::hint(&near)
                )));
            }
        }
        Ok(())
    });
    edits.map_err(|error| EditError::new(format!("{}: {error}", project.shown(file))))
}

fn is_bare_key(text: &str) -> bool {
    !text.is_empty() && text.chars().all(|c| c.is_ascii_alphanumeric() || "-_".contains(c))
}

/// The edit that adds something to what the table of a script or style needs.
///
/// # Errors
/// Where the manifest can't be edited.
pub fn need(project: &Project, file: FileId, table: Span, needed: Address) -> Result<Edit, EditError> {
    let source = project.file(file);
    if project.layer(source.layer).built_in {
        return Err(EditError::new(format!("{} is built in and can't be edited", project.shown(file))));
    }
    let text = source.text();
    let (parsed, _) = DeTable::parse_recoverable(text);
    let mut open: Vec<(&DeTable<'_>, Span)> = vec![(parsed.get_ref(), Span::default())];
    while let Some((inside, at)) = open.pop() {
        if at == table {
            let list = inside.get("needs").map(|node| (node.span(), node.get_ref().as_array()));
            if let Some((span, Some(list))) = list {
                let new = if list.is_empty() {
                    quoted(&needed.to_string())
                } else {
                    format!(", {}", quoted(&needed.to_string()))
                };
                let end = list.iter().last().map_or(span.start + 1, |last| last.span().end);
                return Ok(Edit { file, span: Span::new(end, end), new });
            }
            // After the line of the table's header.
            let end = text[at.range().start..].find('\n').map_or(text.len(), |line| at.range().start + line + 1);
            let new = format!("needs = [{}]{}", quoted(&needed.to_string()), line_end(text));
            return Ok(Edit { file, span: Span::new(end, end), new });
        }
        for (_, node) in inside {
            if let DeValue::Table(below) = node.get_ref() {
                open.push((below, Span::new(node.span().start, node.span().end)));
            }
        }
    }
    Err(EditError::new("the table is not there any more".to_string()))
}

/// The edit that attaches something, after the last attachment.
///
/// # Errors
/// Where the manifest can't be edited.
pub fn attach(project: &Project, new: &NewAttachment) -> Result<Edit, EditError> {
    let key = if new.what.contains('#') { "call" } else { "use" };
    let mut table = format!("[[attach]]\nto = {}\n{key} = {}\n", quoted(&new.to), quoted(&new.what));
    if let Some(priority) = new.priority {
        table.push_str(&format!("priority = {priority}\n"));
    }
    for (key, names) in [("before", &new.before), ("after", &new.after)] {
        if !names.is_empty() {
            let names: Vec<String> = names.iter().map(|name| quoted(name)).collect();
            table.push_str(&format!("{key} = [{}]\n", names.join(", ")));
        }
    }
    if let Some(when) = &new.when {
        table.push_str(&format!("when = {}\n", quoted(when)));
    }
    add(project, &table, |block| block.name == ["attach"])
}

/// The edit that takes away what a lower layer attached.
///
/// # Errors
/// Where the manifest can't be edited.
pub fn detach(project: &Project, from: &str, what: &str) -> Result<Edit, EditError> {
    let key = if what.contains('#') { "call" } else { "use" };
    let table = format!("[[detach]]\nfrom = {}\n{key} = {}\n", quoted(from), quoted(what));
    add(project, &table, |block| block.name == ["detach"])
}

/// The edit that puts a callback in the place of a lower layer's.
///
/// # Errors
/// Where the manifest can't be edited.
pub fn replace(project: &Project, call: &str, with: &str, within: Option<Address>) -> Result<Edit, EditError> {
    let within = within.map(|point| format!("in = {}\n", quoted(&point.to_string()))).unwrap_or_default();
    let table = format!("[[replace]]\n{within}call = {}\nwith = {}\n", quoted(call), quoted(with));
    add(project, &table, |block| block.name == ["replace"])
}

/// The edit that takes a table out of a manifest, with the blank line that parts it from what is around. Comments stay.
///
/// # Errors
/// Where the manifest can't be edited, or no table begins there.
pub fn take_away(project: &Project, file: FileId, header: Span) -> Result<Edit, EditError> {
    let blocks = blocks(project, file)?;
    let Some(block) = blocks.iter().find(|block| block.start == header.start as usize) else {
        return Err(EditError::new(format!("{} has no table there", project.shown(file))));
    };
    let gone = tables::removed(project.file(file).text(), block.start..block.end);
    Ok(Edit { file, span: Span::new(gone.start, gone.end), new: String::new() })
}

/// A value as TOML: as it is where it is one, else as a string.
fn toml_value(text: &str) -> String {
    let alone = format!("value = {text}");
    let (table, errors) = DeTable::parse_recoverable(&alone);
    let is_value = errors.is_empty() && table.get_ref().len() == 1 && !text.trim().is_empty() && !text.contains('\n');
    match is_value {
        true => text.trim().to_string(),
        false => string(text),
    }
}

/// Adds a table to the manifest of the checked theme that has most of its like, after the last one.
fn add(project: &Project, table: &str, like: impl Fn(&Table) -> bool) -> Result<Edit, EditError> {
    let top = project.layer(project.top());
    let further = project.files_of(project.top()).filter(|(_, file)| file.kind == FileKind::Manifest);
    let mut files: Vec<FileId> = further.map(|(file, _)| file).filter(|file| *file != top.manifest).collect();
    files.insert(0, top.manifest);
    let mut best: Option<(usize, FileId, usize)> = None;
    for file in files {
        let blocks = blocks(project, file)?;
        let count = blocks.iter().filter(|block| like(block)).count();
        if let Some(last) = blocks.iter().filter(|block| like(block)).max_by_key(|block| block.end)
            && best.is_none_or(|(most, _, _)| count > most)
        {
            best = Some((count, file, last.end));
        }
    }
    let (file, at) = match best {
        Some((_, file, at)) => (file, at),
        None => (top.manifest, place_for_new(project, top.manifest, table)?),
    };
    let new = tables::inserted(project.file(file).text(), at, table);
    Ok(Edit { file, span: Span::new(at, at), new })
}

/// Where the first table of its kind goes: declarations before attachments and what comes after
/// those, attachments before `[check]`, else at the end.
fn place_for_new(project: &Project, file: FileId, table: &str) -> Result<usize, EditError> {
    let later: &[&str] = if table.starts_with("[[") { &["check"] } else { &["attach", "detach", "replace", "check"] };
    let blocks = blocks(project, file)?;
    let next = blocks.iter().filter(|block| later.contains(&block.name[0].as_str())).map(|block| block.start).min();
    let Some(next) = next else { return Ok(project.file(file).text().len()) };
    let before = blocks.iter().filter(|block| block.start < next).map(|block| block.end).max();
    Ok(before.unwrap_or(next))
}

fn blocks(project: &Project, file: FileId) -> Result<Vec<Table>, EditError> {
    tables::tables(project.file(file).text())
        .ok_or_else(|| EditError::new(format!("{} is not TOML; mend that first (truehook check)", project.shown(file))))
}
