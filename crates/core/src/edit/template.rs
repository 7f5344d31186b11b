//! Placements put into a template, beside an element or into a block.

use super::blocks::blocks;
use super::elements::{Element, elements};
use super::guard::{self, Widened};
pub use super::placement::Placement;
use super::{EditError, Position, Selector, line_end};
use crate::command_line;
use crate::link::Registry;
use crate::names::{hint, nearest};
use crate::read::FileKind;
use crate::source::{Edit, FileId, LineIndex, Span};

/// The template of the checked theme that a command names.
///
/// # Errors
/// Where there is none, or only a lower layer has it.
pub fn own_template(registry: &Registry, name: &str) -> Result<FileId, EditError> {
    let name = name.strip_prefix("markup/").unwrap_or(name);
    let top = registry.project().top();
    if let Some(file) = registry.project().find(top, &format!("markup/{name}")) {
        return Ok(file);
    }
    let own: Vec<&str> = registry
        .project()
        .files_of(top)
        .filter(|(_, file)| file.kind == FileKind::Template)
        .map(|(_, file)| file.name())
        .collect();
    Err(match registry.files_named(FileKind::Template, name).last() {
        Some(lower) => {
            let layer = registry.project().layer(registry.project().file(*lower).layer).name;
            EditError::new(format!(
                "{name} belongs to {layer}, and commands edit this theme only{}; {} takes it over",
                if own.is_empty() { String::new() } else { format!(": {}", own.join(", ")) },
                command_line!["adopt", name, "--copy"]
            ))
        }
        None => {
            let near = crate::names::nearest(name, own.iter().copied()).map(str::to_string);
            EditError::new(format!("there is no template {name} in this theme{}", crate::names::hint(&near)))
        }
    })
}

/// How `place` is told of the place beside a line of a template, where that line begins or ends an element that a
/// selector finds: `--before footer`, `--after main`.
pub fn beside(registry: &Registry, file: FileId, line: Span, behind: bool) -> Option<String> {
    let elements = elements(registry.project().file(file).text())?;
    let is_it = |element: &&Element| match behind {
        false => element.open.start == line.start,
        true => element.close.unwrap_or(element.open).end == line.end,
    };
    let element = elements.iter().find(is_it)?;
    let written = element.selectors().into_iter().find(|written| {
        let selector: Option<Selector> = written.parse().ok();
        selector.is_some_and(|selector| matches!(selector.find(&elements)[..], [one] if one.open == element.open))
    })?;
    Some(format!("{} {written}", if behind { "--after" } else { "--before" }))
}

/// A template that placements are put into.
struct Template<'r> {
    registry: &'r Registry,
    file: FileId,
    text: &'r str,
    shown: String,
    elements: Vec<Element>,
}

/// The edits that put placements into a template.
///
/// # Errors
/// Where the template's tags can't be told apart, not just one element fits, the block can't be there, or placements
/// would get lost.
pub fn place(registry: &Registry, new: &Placement) -> Result<Vec<Edit>, EditError> {
    let text = registry.project().file(new.file).text();
    let shown = registry.project().shown(new.file);
    let elements = elements(text)
        .ok_or_else(|| EditError::new(format!("{shown} doesn't parse; mend that first (truehook check)")))?;
    let template = Template { registry, file: new.file, text, shown, elements };
    let within = match &new.block {
        None => None,
        Some(name) => match blocks(text).into_iter().find(|block| block.name == *name) {
            Some(block) => Some(block),
            None => return template.open_block(name, new).map(|edit| vec![edit]),
        },
    };
    let end = line_end(text);
    let Some((position, selector)) = &new.at else {
        let Some(block) = within else { return guard::around_placed(registry, new) };
        let (at, lines) = inside(text, block.tag(), block.inner.end as usize, &new.calls, end);
        return Ok(vec![Edit { file: new.file, span: Span::new(at, at), new: lines }]);
    };
    let element = template.one(selector, within.map(|block| block.inner))?;
    let edit = template.beside(element, *position, new)?;
    match guard::widened(text, &edit, new) {
        Some(Widened::By(wider)) => return Ok(vec![wider, edit]),
        Some(Widened::Beside(at, behind)) => return Ok(vec![template.outside(at, behind, new)]),
        None => {}
    }
    match new.guard {
        false => Ok(vec![edit]),
        true => guard::around(registry, element, edit, new),
    }
}

/// The classes of the element beside which something is to be placed.
///
/// # Errors
/// Where not one element fits.
pub(super) fn anchor(registry: &Registry, new: &Placement, selector: &Selector) -> Result<Vec<String>, EditError> {
    let text = registry.project().file(new.file).text();
    let shown = registry.project().shown(new.file);
    let template = Template { registry, file: new.file, text, shown, elements: elements(text).unwrap_or_default() };
    let element = template.one(selector, None)?;
    Ok(element.attribute("class").map_or(Vec::new(), |held| held.words.clone()))
}

impl Template<'_> {
    fn line(&self, element: &Element) -> usize {
        LineIndex::new(self.text).position(element.open.start).0
    }

    /// The one element that fits.
    fn one(&self, selector: &Selector, within: Option<Span>) -> Result<&Element, EditError> {
        let is_there = |element: &&Element| within.is_none_or(|span| element.is_within(span));
        let found: Vec<&Element> = selector.find(&self.elements).into_iter().filter(is_there).collect();
        match found[..] {
            [element] => Ok(element),
            [] => {
                let held: Vec<&Element> = self.elements.iter().filter(is_there).collect();
                let there = match held.is_empty() {
                    true => "; there are no elements".to_string(),
                    false => format!("; there are{}", self.listed(&held)),
                };
                Err(EditError::new(format!("nothing in {} fits `{selector}`{there}", self.shown)))
            }
            _ => Err(EditError::new(format!(
                "`{selector}` fits {} elements in {}; say which with #id, .class, [attribute] or what it is in{}",
                found.len(),
                self.shown,
                self.listed(&found)
            ))),
        }
    }

    /// Elements with their lines, as they stand there.
    fn listed(&self, elements: &[&Element]) -> String {
        const MOST: usize = 40;
        const LONGEST: usize = 80;
        let row = |element: &&Element| {
            let tag: String = self.text[element.open.range()].split_whitespace().collect::<Vec<_>>().join(" ");
            let tag = match tag.char_indices().nth(LONGEST) {
                Some((end, _)) => format!("{}…", &tag[..end]),
                None => tag,
            };
            format!("\n  line {:<4} {tag}", self.line(element))
        };
        let rows: String = elements.iter().take(MOST).map(row).collect();
        let more = elements.len().saturating_sub(MOST);
        if more == 0 { rows } else { format!("{rows}\n  and {more} more") }
    }

    /// The edit beside an element.
    fn beside(&self, element: &Element, position: Position, new: &Placement) -> Result<Edit, EditError> {
        let (text, end) = (self.text, line_end(self.text));
        let start = element.open.start as usize;
        let edit = |start: usize, end: usize, new: String| Edit { file: self.file, span: Span::new(start, end), new };
        if position == Position::Before {
            let (at, new) = before(text, start, &new.calls, end);
            return Ok(edit(at, at, new));
        }
        if position == Position::After {
            let (at, new) = after(text, start, element.close.unwrap_or(element.open).end as usize, &new.calls, end);
            return Ok(edit(at, at, new));
        }
        let Some(close) = element.close else {
            return Err(EditError::new(format!(
                "the {} on line {} of {} has no end tag, so nothing can go inside it",
                element.name,
                self.line(element),
                self.shown
            )));
        };
        if let (Position::Inside, Some(last)) = (position, self.last_hook(element, close)) {
            let (at, new) = before(text, last, &new.calls, end);
            return Ok(edit(at, at, new));
        }
        if position == Position::Inside {
            let (at, new) = inside(text, element.open, close.start as usize, &new.calls, end);
            return Ok(edit(at, at, new));
        }
        let held = Span::new(element.open.end as usize, close.start as usize);
        self.loses_nothing(held)?;
        // What it held goes, its end tag stays where it stands.
        let content = &text[held.range()];
        let lines = match (content.contains('\n'), indent(text, start)) {
            (true, Some(lead)) => {
                let step = if lead.contains('\t') { "\t" } else { "  " };
                let lines: String = new.calls.iter().map(|call| format!("{end}{lead}{step}{call}")).collect();
                format!("{lines}{end}{lead}")
            }
            _ => new.calls.concat(),
        };
        Ok(edit(held.range().start, held.range().end, lines))
    }

    /// The edit before or behind a guard that stands around an element alone.
    fn outside(&self, at: usize, behind: bool, new: &Placement) -> Edit {
        let end = line_end(self.text);
        let (at, lines) = match behind {
            false => before(self.text, at, &new.calls, end),
            true => {
                let start = self.text[..at].rfind("{%").unwrap_or(at);
                after(self.text, start, at, &new.calls, end)
            }
        };
        Edit { file: self.file, span: Span::new(at, at), new: lines }
    }

    /// Where the host's hook stands that has to be the last thing in the body, where it is that in this element.
    fn last_hook(&self, element: &Element, close: Span) -> Option<usize> {
        let hook = self.registry.end_hook()?;
        let uses = &self.registry.point(hook)?.uses;
        uses.iter().filter(|id| id.file == self.file).find_map(|id| {
            let span = self.registry.span(self.registry.use_place(*id));
            let held = element.open.end <= span.start && span.end <= close.start;
            let start = self.text[..span.range().start].rfind("{{").filter(|_| held)?;
            let end = span.range().end + self.text[span.range().end..].find("}}")? + "}}".len();
            self.text[end..close.range().start].trim().is_empty().then_some(start)
        })
    }

    /// Is nothing placed, included or opened in a stretch of the template?
    fn loses_nothing(&self, held: Span) -> Result<(), EditError> {
        let mut lost: Vec<String> = Vec::new();
        let facts = self.registry.facts(self.file);
        let is_held = |span: Span| held.start <= span.start && span.end <= held.end;
        if let Some(shape) = self.registry.template(self.file) {
            let uses = shape.uses.iter().filter(|used| is_held(facts.span(used.point.at)));
            lost.extend(uses.map(|used| used.point.raw.to_string()));
            let refs = shape.refs.iter().filter(|reference| is_held(facts.span(reference.at)));
            lost.extend(refs.filter_map(|reference| Some(reference.target?.to_string())));
            let outlets = shape.outlets.iter().filter(|outlet| is_held(facts.span(outlet.at)));
            lost.extend(outlets.map(|outlet| format!("{:?}", outlet.kind).to_lowercase()));
        }
        let blocks = blocks(self.text).into_iter().filter(|block| is_held(block.whole));
        lost.extend(blocks.map(|block| format!("the block {}", block.name)));
        lost.dedup();
        match lost.is_empty() {
            true => Ok(()),
            false => Err(EditError::new(format!(
                "what stands there holds {}, which would get lost; use --inside, or move that first",
                lost.join(", ")
            ))),
        }
    }

    /// The edit that opens a block of a template that builds on others, with what it had before.
    fn open_block(&self, name: &str, new: &Placement) -> Result<Edit, EditError> {
        let own = blocks(self.text);
        let chain = self.registry.chain(self.file);
        let above = chain.iter().filter(|file| **file != self.file);
        let mut known: Vec<String> = own.into_iter().map(|block| block.name).collect();
        known.extend(above.flat_map(|file| blocks(self.registry.project().file(*file).text())).map(|block| block.name));
        known.sort();
        known.dedup();
        if !known.iter().any(|known| known == name) {
            let near = nearest(name, known.iter().map(String::as_str)).map(str::to_string);
            let there = match known.is_empty() {
                true => "it has no blocks".to_string(),
                false => format!("there are {}", known.join(", ")),
            };
            return Err(EditError::new(format!("{} has no block {name}{}; {there}", self.shown, hint(&near))));
        }
        if let Some((_, selector)) = &new.at {
            return Err(EditError::new(format!(
                "{} doesn't write the block {name} itself, so that nothing in it fits `{selector}`; leave that out to go \
                 at the block's end",
                self.shown
            )));
        }
        let end = line_end(self.text);
        let calls: String = new.calls.iter().map(|call| format!("  {call}{end}")).collect();
        let gap = if self.text.is_empty() || self.text.ends_with('\n') { "" } else { end };
        let at = self.text.len();
        let text = format!("{gap}{{% block {name} %}}{end}  {{{{ super() }}}}{end}{calls}{{% endblock %}}{end}");
        Ok(Edit { file: self.file, span: Span::new(at, at), new: text })
    }
}

/// The blanks before a place, if nothing else stands before it on its line.
fn indent(text: &str, at: usize) -> Option<&str> {
    let start = text[..at].rfind('\n').map_or(0, |end| end + 1);
    let lead = &text[start..at];
    lead.chars().all(|c| c == ' ' || c == '\t').then_some(lead)
}

fn before(text: &str, at: usize, calls: &[String], end: &str) -> (usize, String) {
    match indent(text, at) {
        Some(lead) => (at, calls.iter().map(|call| format!("{call}{end}{lead}")).collect()),
        None => (at, calls.concat()),
    }
}

fn after(text: &str, start: usize, at: usize, calls: &[String], end: &str) -> (usize, String) {
    match indent(text, start) {
        Some(lead) => (at, calls.iter().map(|call| format!("{end}{lead}{call}")).collect()),
        None => (at, calls.concat()),
    }
}

/// As the last thing between a start tag and the end tag that begins at `at`.
fn inside(text: &str, open: Span, at: usize, calls: &[String], end: &str) -> (usize, String) {
    match (indent(text, at), indent(text, open.start as usize)) {
        // The end tag stands on a line of its own: so does what is added, one step further in.
        (Some(lead), _) => {
            let step = if lead.contains('\t') { "\t" } else { "  " };
            let lines: String = calls.iter().map(|call| format!("{lead}{step}{call}{end}")).collect();
            (at - lead.len(), lines)
        }
        // An empty element on one line is opened up.
        (None, Some(lead)) if open.end as usize == at => {
            let lines: String = calls.iter().map(|call| format!("{end}{lead}  {call}")).collect();
            (at, format!("{lines}{end}{lead}"))
        }
        _ => (at, calls.concat()),
    }
}
