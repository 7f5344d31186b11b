//! Templates of lower layers taken over: built upon, or copied and brought up to date when the original changes.

use camino::Utf8PathBuf;
use diffy::{ConflictStyle, MergeOptions};

use super::blocks::blocks;
use super::{Beside, EditError, Plan, line_end, tree};
use crate::address::Kind;
use crate::command_line;
use crate::link::Registry;
use crate::names::{hint, nearest};
use crate::read::{FileKind, Files};
use crate::scan::{Adopted, Verb};
use crate::source::{Edit, FileId, Span, print_of};

/// How a template is taken over.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Manner {
    /// By one that builds on it: with all its blocks, or one of them.
    Extend(Option<String>),
    /// As a copy, which is brought up to date where it is there already.
    Copy,
    /// Not any more: a template that says nothing of its own goes, with all that was written of it.
    Undo,
}

/// What taking over comes to.
#[derive(Clone, Debug, Default)]
pub struct Taken {
    /// The changes.
    pub plan: Plan,
    /// What might make it needless, and how it went.
    pub told: Vec<String>,
    /// Are there conflicts, which people have to solve?
    pub conflicts: usize,
}

/// Takes a template of a lower layer over into the checked theme. `files` has what is kept of originals.
///
/// # Errors
/// Where no lower layer has it, the theme has one of its own that is no copy, or there is nothing to build on.
pub fn adopt(registry: &Registry, files: &dyn Files, name: &str, manner: &Manner) -> Result<Taken, EditError> {
    let name = name.strip_prefix("markup/").unwrap_or(name);
    let project = registry.project();
    let top = project.top();
    let named = registry.files_named(FileKind::Template, name);
    let own = named.iter().copied().find(|file| project.file(*file).layer == top);
    let Some(original) = named.iter().rev().copied().find(|file| project.file(*file).layer != top) else {
        return Err(missing(registry, name, own.is_some()));
    };
    let record = adopted(registry, name);
    if *manner == Manner::Undo {
        let Some(own) = own else { return Err(EditError::new(format!("this theme has no {name} of its own"))) };
        return Ok(Taken { plan: undone(registry, files, own, original, name)?, ..Taken::default() });
    }
    let mut taken = Taken::default();
    match (own, record, manner) {
        (None, _, _) => taken.told = needless(registry, original),
        (Some(own), Some((_, copy)), Manner::Copy) => {
            return brought_up_to_date(registry, files, own, copy.from.name.as_str(), name);
        }
        (Some(_), Some(_), _) => {
            return Err(EditError::new(format!(
                "{name} is a copy already; {} brings it up to date",
                command_line!["adopt", name, "--copy"]
            )));
        }
        (Some(own), None, _) => {
            return Err(EditError::new(format!(
                "this theme has a {name} of its own ({}), which is no copy that was taken over; rename or remove that first",
                project.shown(own)
            )));
        }
    }
    match manner {
        Manner::Extend(block) => taken.plan.created.push(extending(registry, original, name, block.as_deref())?),
        Manner::Copy => copied(registry, original, name, &mut taken.plan)?,
        Manner::Undo => {}
    }
    Ok(taken)
}

fn missing(registry: &Registry, name: &str, own: bool) -> EditError {
    if own {
        return EditError::new(format!("{name} is this theme's own, and stands in the place of nothing"));
    }
    let project = registry.project();
    let top = project.top();
    let lower = project.files.iter().filter(|file| file.kind == FileKind::Template && file.layer != top);
    let mut names: Vec<&str> = lower.map(|file| file.name()).collect();
    names.sort_unstable();
    names.dedup();
    let near = nearest(name, names.iter().copied()).map(str::to_string);
    EditError::new(format!("no layer below has a template {name}{}; there are {}", hint(&near), names.join(", ")))
}

/// What a manifest of the checked theme says of a copy.
fn adopted<'r>(registry: &'r Registry, name: &str) -> Option<(FileId, &'r Adopted)> {
    let top = registry.project().top();
    let manifests = registry.manifests().into_iter().filter(|(layer, _)| *layer == top);
    manifests.filter_map(|(_, file)| Some((file, registry.manifest(file)?))).find_map(|(file, manifest)| {
        let copy = manifest.adopted.iter().find(|copy| copy.template.name.as_str() == name)?;
        Some((file, copy))
    })
}

/// The points of a template by which it may be changed from outside, each with the command for it.
fn needless(registry: &Registry, file: FileId) -> Vec<String> {
    let mut rows: Vec<(String, String, String)> = Vec::new();
    let uses = registry.template(file).map(|template| template.uses.as_slice()).unwrap_or_default();
    for used in uses.iter().filter(|used| matches!(used.verb, Verb::Place | Verb::Through)) {
        let Some(address) = used.point.address else { continue };
        let Some(point) = registry.point(address) else { continue };
        let command = match address.kind {
            Kind::Hook => command_line!["attach", address, "notes.js#shown"],
            Kind::Filter => command_line!["attach", address, "notes.js#changed"],
            Kind::Region | Kind::Area => command_line!["fill", address, "partial:link", "href=/", "text=Home"],
            Kind::Menu => command_line!["attach", address, "notes.js#arranged"],
            _ => command_line!["attach", address, "notes.js#prepared"],
        };
        let what = point.label.or(point.about).map(|text| text.to_string()).unwrap_or_default();
        if rows.iter().all(|(known, _, _)| *known != address.to_string()) {
            rows.push((address.to_string(), what, command));
        }
    }
    if rows.is_empty() {
        return Vec::new();
    }
    let width = rows.iter().map(|(address, _, _)| address.len()).max().unwrap_or_default();
    let shown = registry.project().shown(file);
    let mut told = vec![format!("What {shown} prints can be changed without taking it over, by the points in it:")];
    told.extend(rows.into_iter().map(|(address, what, command)| match what.is_empty() {
        true => format!("  {address:width$}  {command}"),
        false => format!("  {address:width$}  {command}  # {what}"),
    }));
    told
}

/// A template that builds on the one below, and leaves all as it was.
fn extending(
    registry: &Registry,
    original: FileId,
    name: &str,
    block: Option<&str>,
) -> Result<(Utf8PathBuf, String), EditError> {
    let chain = registry.chain(original);
    let mut known: Vec<String> = Vec::new();
    for file in chain.iter().copied().chain([original]) {
        let mut own = blocks(registry.project().file(file).text());
        own.sort_by_key(|block| block.whole);
        for block in own {
            if !known.contains(&block.name) {
                known.push(block.name);
            }
        }
    }
    let asked: Vec<String> = match block {
        None => known.clone(),
        Some(block) if known.iter().any(|known| known == block) => vec![block.to_string()],
        Some(block) => {
            let near = nearest(block, known.iter().map(String::as_str)).map(str::to_string);
            let there = if known.is_empty() { "it has none".into() } else { format!("there are {}", known.join(", ")) };
            return Err(EditError::new(format!("{name} has no block {block}{}; {there}", hint(&near))));
        }
    };
    if asked.is_empty() {
        return Err(EditError::new(format!(
            "{name} has no blocks to build on; {} takes a copy of it",
            command_line!["adopt", name, "--copy"]
        )));
    }
    let mut text = format!("{{% extends \"below:{name}\" %}}\n");
    for block in asked {
        text.push_str(&format!("\n{{% block {block} %}}\n{{{{ super() }}}}\n{{% endblock %}}\n"));
    }
    // What stands between a block's tags is printed: nothing more than before may be.
    let text = text.replace("%}\n{{ super() }}\n{%", "%}{{ super() }}{%");
    Ok((Utf8PathBuf::from(format!("markup/{name}")), text))
}

/// A copy, with what is needed to bring it up to date later.
fn copied(registry: &Registry, original: FileId, name: &str, plan: &mut Plan) -> Result<(), EditError> {
    let project = registry.project();
    let text = project.file(original).text();
    let layer = project.layer(project.file(original).layer).name.to_string();
    plan.created.push((format!("markup/{name}").into(), text.to_string()));
    plan.beside.push(Beside { path: kept(&layer, name), before: None, after: Some(text.to_string()) });
    let manifest = project.layer(project.top()).manifest;
    plan.edits.extend(recorded(project.file(manifest).text(), manifest, name, &layer, &print_of(text))?);
    Ok(())
}

/// Where the original's text is kept, below the theme's folder.
fn kept(layer: &str, name: &str) -> Utf8PathBuf {
    format!("adopted/{layer}/{name}").into()
}

/// The edits that write a copy down in a manifest.
fn recorded(text: &str, file: FileId, name: &str, layer: &str, print: &str) -> Result<Vec<Edit>, EditError> {
    let line = format!("{} = {{ from = \"{layer}\", print = \"{print}\" }}", tree::key(name));
    let table =
        super::tables::tables(text).and_then(|tables| tables.into_iter().find(|table| table.name == ["adopted"]));
    let end = line_end(text);
    let (at, new) = match table {
        Some(table) => {
            let gap = if text[..table.end].ends_with('\n') { "" } else { end };
            (table.end, format!("{gap}{line}{}", if gap.is_empty() { end } else { "" }))
        }
        None => (text.len(), super::tables::inserted(text, text.len(), &format!("[adopted]\n{line}\n"))),
    };
    Ok(vec![Edit { file, span: Span::new(at, at), new }])
}

/// Takes a template that says what the one below says away, with its record and what is kept of its original.
fn undone(
    registry: &Registry,
    files: &dyn Files,
    own: FileId,
    original: FileId,
    name: &str,
) -> Result<Plan, EditError> {
    let project = registry.project();
    let text = project.file(own).text();
    let mut plan = Plan { removed: vec![own], ..Plan::default() };
    if let Some((manifest, copy)) = adopted(registry, name) {
        let path = kept(copy.from.name.as_str(), name);
        let bytes = files.read(&project.layer(project.top()).root.join(&path)).ok();
        let before = bytes.and_then(|bytes| String::from_utf8(bytes).ok());
        plan.edits = super::tables::without_key(project.file(manifest).text(), manifest, &["adopted", name])?;
        plan.beside.extend(before.is_some().then_some(Beside { path, before, after: None }));
    }
    let is_like = |other: &str| other.trim() == text.trim();
    let then = plan.beside.first().and_then(|kept| kept.before.as_deref());
    if !is_like(project.file(original).text()) && !then.is_some_and(is_like) {
        return Err(EditError::new(format!(
            "{} says more than the one below, which would be lost; take it away by hand, if that is meant",
            project.shown(own)
        )));
    }
    Ok(plan)
}

/// A copy that has what its original has by now, as far as both can be had.
fn brought_up_to_date(
    registry: &Registry,
    files: &dyn Files,
    own: FileId,
    layer: &str,
    name: &str,
) -> Result<Taken, EditError> {
    let project = registry.project();
    let Some((manifest, copy)) = adopted(registry, name) else { return Err(missing(registry, name, true)) };
    let Some(original) = registry.original(copy) else {
        return Err(EditError::new(format!(
            "{layer} has no {name} any more; the copy is this theme's own now: take it out of [adopted]"
        )));
    };
    let now = project.file(original).text();
    let mine = project.file(own).text();
    if is_conflicted(mine) {
        return Err(EditError::new(format!(
            "{} still has conflicts of the last time; solve them first",
            project.shown(own)
        )));
    }
    if copy.print.name.as_str() == print_of(now) {
        return Ok(Taken { told: vec![format!("{name} is up to date with the one of {layer}")], ..Taken::default() });
    }
    let path = kept(layer, name);
    let then =
        files.read(&project.layer(project.top()).root.join(&path)).ok().and_then(|bytes| String::from_utf8(bytes).ok());
    let known = then.as_deref().filter(|then| copy.print.name.as_str() == print_of(then));
    // All with the same line ends, or each line would be a conflict.
    let plain = |text: &str| text.replace("\r\n", "\n");
    let (ours, theirs) = (plain(mine), plain(now));
    let merged = match known {
        Some(then) => {
            let merged =
                MergeOptions::new().set_conflict_style(ConflictStyle::Merge).merge(&plain(then), &ours, &theirs);
            merged.unwrap_or_else(|conflicted| conflicted)
        }
        None => side_by_side(&ours, &theirs),
    };
    let conflicts = merged.lines().filter(|line| line.starts_with("<<<<<<< ")).count();
    let text = named(&merged, &format!("{layer}, now"));
    let mut taken = Taken { conflicts, ..Taken::default() };
    taken.plan.edits = tree::text_edits(own, mine, |_| Ok(text))?;
    if known.is_none() {
        taken
            .told
            .push(format!("{path} lacks what the original was when it was taken over, so every difference is marked"));
    }
    taken.plan.beside.push(Beside { path, before: then, after: Some(now.to_string()) });
    let span = registry.span(crate::source::Place { file: manifest, at: copy.print.at });
    taken.plan.edits.push(Edit { file: manifest, span, new: format!("\"{}\"", print_of(now)) });
    if conflicts > 0 {
        taken.told.push(format!(
            "{name} and the one of {layer} changed the same lines in {conflicts} place{}; both stand there, between <<<<<<< and >>>>>>>",
            if conflicts == 1 { "" } else { "s" }
        ));
    }
    Ok(taken)
}

/// Two texts as one, with a conflict wherever they differ.
fn side_by_side(ours: &str, theirs: &str) -> String {
    let (mine, now): (Vec<&str>, Vec<&str>) =
        (ours.split_inclusive('\n').collect(), theirs.split_inclusive('\n').collect());
    let mut text = String::new();
    for op in similar::TextDiff::from_lines(ours, theirs).ops() {
        let (old, new) = (mine[op.old_range()].concat(), now[op.new_range()].concat());
        let ended = |part: String| if part.is_empty() || part.ends_with('\n') { part } else { part + "\n" };
        match op {
            similar::DiffOp::Equal { .. } => text.push_str(&old),
            _ => text.push_str(&format!("<<<<<<< ours\n{}=======\n{}>>>>>>> theirs\n", ended(old), ended(new))),
        }
    }
    text
}

/// Conflicts whose sides are called by what they are.
fn named(text: &str, theirs: &str) -> String {
    let line = |line: &str| match line {
        _ if line.starts_with("<<<<<<< ") => "<<<<<<< this theme\n".to_string(),
        _ if line.starts_with(">>>>>>> ") => format!(">>>>>>> {theirs}\n"),
        _ => line.to_string(),
    };
    text.split_inclusive('\n').map(line).collect()
}

/// Does a merge's conflict stand in a text?
fn is_conflicted(text: &str) -> bool {
    crate::scan::conflict(text).is_some()
}
