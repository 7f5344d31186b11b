//! Points.

use crate::command_line;
use camino::Utf8PathBuf;
use minijinja::machinery::{Token, tokenize};
use regex::Regex;

use super::super::words::words;
use super::{Renaming, belongs, code, own_files, own_references, template, told_below};
use crate::address::{Address, Kind};
use crate::edit::EditError;
use crate::link::{Point as Declared, Registry, Target, component_template};
use crate::names::{hint, nearest};
use crate::read::FileKind;
use crate::source::{Edit, FileId, SourceFile, Span};

/// A point's new name.
pub(in crate::edit) struct Point<'r> {
    registry: &'r Registry,
    from: Address,
    to: Address,
    /// How both are written.
    old: String,
    new: String,
}

pub(super) fn rename(registry: &Registry, from: &str, to: &str) -> Result<Renaming, EditError> {
    let (from, to) = addresses(registry, from, to)?;
    Ok(renamed(registry, from, to))
}

/// All that the checked theme says of a point, said of its new name.
pub(super) fn renamed(registry: &Registry, from: Address, to: Address) -> Renaming {
    let point = Point::new(registry, from, to);
    let mut renaming = Renaming { points: vec![to], ..Renaming::default() };
    for (file, source) in own_files(registry) {
        renaming.plan.edits.extend(match source.kind {
            FileKind::Manifest | FileKind::Site | FileKind::Page => point.in_toml(file, source),
            FileKind::Template => point.in_template(file, source.text()),
            FileKind::Module => point.in_module(file, source.text()),
            _ => Vec::new(),
        });
    }
    renaming.plan.edits.extend(point.short_forms());
    if from.kind.is_component() {
        point.move_templates(&mut renaming);
    }
    renaming.told = told_below(registry, &point.old, |reference| point.is_meant(reference.outcome.target()));
    for (file, source) in own_files(registry) {
        let dynamic = registry.module(file).is_some_and(|module| module.dynamic)
            || registry.template(file).is_some_and(|template| template.dynamic);
        if dynamic {
            renaming
                .told
                .push(format!("{} names points by what it computes; look there for {}", source.path, point.old));
        }
    }
    renaming.names.insert(0, (point.old.clone(), point.new.clone()));
    if let (Some((_, old)), Some((_, new))) = (from.inner(), to.inner()) {
        renaming.names.push((format!("piece:{old}"), format!("piece:{new}")));
    }
    renaming.names.extend(header(from).into_iter().zip(header(to)));
    renaming
}

/// How messages write the table that declares a point.
fn header(address: Address) -> Vec<String> {
    match address.inner() {
        Some((section, own)) => vec![format!("[section.{}.piece.{own}]", section.name)],
        None => vec![format!("[{}.{}]", address.kind, address.name), format!("{}.{}", address.kind, address.name)],
    }
}

/// What is to be renamed, and how it is to be called.
fn addresses(registry: &Registry, from: &str, to: &str) -> Result<(Address, Address), EditError> {
    let parse = |text: &str| text.parse::<Address>().map_err(|error| EditError::new(error.to_string()));
    let from = parse(from)?;
    // The new name alone will do, too.
    let to = if to.contains(':') { to.to_string() } else { format!("{}:{to}", from.kind) };
    let to = parse(&to)?;
    let top = registry.project().top();
    if follows(registry, from, to) {
        return Ok((from, to));
    }
    let Some(point) = registry.point(from).filter(|point| !point.declared.is_empty()) else {
        let near = nearest(&from.name, registry.names(from.kind)).map(|name| Address::new(from.kind, name).to_string());
        return Err(EditError::new(format!("no layer declares `{from}`{}", hint(&near))));
    };
    if matches!(from.kind, Kind::Feature | Kind::Template) {
        return Err(EditError::new(match from.kind {
            Kind::Feature => format!("{from} is the host's, and keeps its name"),
            _ => format!(
                "{from} is called as its file: {}",
                command_line!["rename", format!("{}.html", from.name), "NEW.html"]
            ),
        }));
    }
    if let Some(below) = point.declared.iter().rev().find(|declared| declared.layer != top) {
        return Err(belongs(registry, &from.to_string(), below.layer));
    }
    if from.kind != to.kind {
        return Err(EditError::new(format!(
            "{from} is {}, and stays that; withdraw {from} --to {to} moves what hangs on it to another point",
            from.kind.one()
        )));
    }
    match (from.inner(), to.inner()) {
        (Some((one, _)), Some((other, _))) if one == other => {}
        (None, None) => {}
        _ => return Err(EditError::new(format!("{from} is an inner piece of its section, and stays there"))),
    }
    if registry.point(to).is_some() {
        return Err(EditError::new(format!("{to} is there already; {}", command_line!["show", to])));
    }
    Ok((from, to))
}

/// Has a layer below given the point this new name: it declares the new one, and the old one no more, or as retired?
fn follows(registry: &Registry, from: Address, to: Address) -> bool {
    let top = registry.project().top();
    let declared = |address: Address| registry.point(address).filter(|point| !point.declared.is_empty());
    let is_below = |point: &Declared| point.declared.iter().any(|declared| declared.layer < top);
    from.kind == to.kind
        && declared(to).is_some_and(is_below)
        && declared(from).is_none_or(|old| registry.is_retired(old) && old.declared.iter().all(|one| one.layer < top))
        && own_references(registry, |reference| reference.written == from.to_string().as_str()).next().is_some()
}

impl<'r> Point<'r> {
    pub fn new(registry: &'r Registry, from: Address, to: Address) -> Point<'r> {
        Point { registry, from, to, old: from.to_string(), new: to.to_string() }
    }

    fn is_meant(&self, target: Option<Target>) -> bool {
        target == Some(Target::Point(self.from))
    }

    /// Another text for a written address, where it is this point or one inside of it.
    fn renamed(&self, written: &str) -> Option<String> {
        if written == self.old {
            return Some(self.new.clone());
        }
        let inside = format!("piece:{}/", self.from.name);
        let own = written.strip_prefix(&inside).filter(|_| self.from.kind == Kind::Section)?;
        Some(format!("piece:{}/{own}", self.to.name))
    }

    fn in_toml(&self, file: FileId, source: &SourceFile) -> Vec<Edit> {
        let text = source.text();
        let keys: Vec<&str> = match self.from.inner() {
            Some((section, own)) => vec!["section", section.name.as_str(), "piece", own],
            None => vec![self.from.kind.word(), self.from.name.as_str()],
        };
        let chosen = ["options", self.from.name.as_str()];
        let is_manifest = source.kind == FileKind::Manifest;
        let mut edits = Vec::new();
        for word in words(text) {
            let last = |name: &'static str| name.rsplit('/').next().unwrap_or(name);
            let (old, new) = (last(self.from.name.as_str()), last(self.to.name.as_str()));
            let free = !is_manifest && word.path.first().is_some_and(|key| key == "data");
            let for_people = word.path.last().is_some_and(|key| key == "label" || key == "about");
            if word.is_key && is_manifest && word.is_at(&keys)
                || word.is_key && self.from.kind == Kind::Option && !is_manifest && word.is_at(&chosen)
            {
                edits.push(word.with(file, text, old, new));
            } else if let Some(renamed) = self.renamed(&word.text).filter(|_| !free && !for_people) {
                edits.push(word.with(file, text, &word.text, &renamed));
            } else if self.from.kind == Kind::Option && word.path.last().is_some_and(|key| key == "when") {
                edits.extend(self.in_condition(file, &text[word.span.range()], word.span));
            }
        }
        edits
    }

    /// `options.NAME` in a condition.
    fn in_condition(&self, file: FileId, written: &str, span: Span) -> Vec<Edit> {
        let pattern = format!(r"(?-u)\boptions\s*\.\s*({})\b", regex::escape(self.from.name.as_str()));
        let Ok(pattern) = Regex::new(&pattern) else { return Vec::new() };
        let found = pattern.captures_iter(written).filter_map(|found| found.get(1));
        found
            .map(|name| {
                let start = span.start as usize;
                let span = Span::new(start + name.start(), start + name.end());
                Edit { file, span, new: self.to.name.to_string() }
            })
            .collect()
    }

    pub fn in_template(&self, file: FileId, text: &str) -> Vec<Edit> {
        let mut edits = Vec::new();
        for token in tokenize(text, false, Default::default()) {
            let Ok((token, span)) = token else { break };
            let written = match &token {
                Token::Str(text) => *text,
                Token::String(text) => text,
                _ => continue,
            };
            let range = span.start_offset as usize..span.end_offset as usize;
            if let (Some(renamed), Some(raw)) = (self.renamed(written), text.get(range.clone())) {
                let new = raw.replacen(written, &renamed, 1);
                edits.push(Edit { file, span: Span::new(range.start, range.end), new });
            }
        }
        if self.from.kind == Kind::Option
            && let Some(template) = self.registry.template(file)
        {
            let facts = self.registry.facts(file);
            let read = template.reads.iter().filter_map(|read| match read.path.as_slice() {
                [root, option, ..] if root.name == "options" && option.name == self.from.name => Some(option.at),
                _ => None,
            });
            edits.extend(read.filter_map(|at| {
                let span = facts.span(at);
                // Where it is written in brackets, the quotes stay.
                let raw = text.get(span.range())?;
                let new = raw.replacen(self.from.name.as_str(), self.to.name.as_str(), 1);
                (new != raw).then_some(Edit { file, span, new })
            }));
        }
        edits
    }

    pub fn in_module(&self, file: FileId, text: &str) -> Vec<Edit> {
        let inside = if self.from.kind == Kind::Section {
            format!("|piece:{}/[a-z0-9-]+", self.from.name)
        } else {
            String::new()
        };
        let Ok(pattern) = Regex::new(&format!("(?-u)([\"'`])({}{inside})([\"'`])", regex::escape(&self.old))) else {
            return Vec::new();
        };
        let mut edits = Vec::new();
        for found in pattern.captures_iter(text) {
            let (Some(before), Some(name), Some(after)) = (found.get(1), found.get(2), found.get(3)) else { continue };
            if let Some(new) = self.renamed(name.as_str()).filter(|_| before.as_str() == after.as_str()) {
                edits.push(Edit { file, span: Span::new(name.start(), name.end()), new });
            }
        }
        if self.from.kind == Kind::Option {
            let read = own_references(self.registry, |reference| self.is_meant(reference.outcome.target()));
            let read = read.filter(|reference| reference.from.file == file);
            let names = (self.from.name.as_str(), self.to.name.as_str());
            edits.extend(
                read.filter_map(|reference| code::property(file, text, self.registry.span(reference.from), names)),
            );
        }
        edits
    }

    /// Inner pieces are called without their section inside of it.
    fn short_forms(&self) -> Vec<Edit> {
        let (Some((_, old)), Some((_, new))) = (self.from.inner(), self.to.inner()) else { return Vec::new() };
        let (old, new) = (format!("piece:{old}"), format!("piece:{new}"));
        let meant = own_references(self.registry, |reference| self.is_meant(reference.outcome.target()));
        let short = meant.filter(|reference| reference.written.as_str() == old);
        short
            .filter_map(|reference| {
                let (file, span) = (reference.from.file, self.registry.span(reference.from));
                let raw = self.registry.project().file(file).text().get(span.range())?;
                Some(Edit { file, span, new: raw.replacen(&old, &new, 1) })
            })
            .collect()
    }

    /// The templates of a component go where its new name leads, and those of inner pieces with it.
    fn move_templates(&self, renaming: &mut Renaming) {
        let (old, new) = (component_template(self.from), component_template(self.to));
        let folder = |path: &str| format!("markup/{}/", path.trim_end_matches(".html"));
        for (file, source) in own_files(self.registry).filter(|(_, file)| file.kind == FileKind::Template) {
            let path = source.path.as_str();
            let to = match path.strip_prefix(&folder(&old)) {
                Some(rest) if self.from.kind == Kind::Section => format!("{}{rest}", folder(&new)),
                _ if path == format!("markup/{old}") => format!("markup/{new}"),
                _ => continue,
            };
            renaming.plan.edits.extend(template::references(self.registry, file, path, &to));
            renaming.moved.push((file, Utf8PathBuf::from(to)));
        }
    }
}
