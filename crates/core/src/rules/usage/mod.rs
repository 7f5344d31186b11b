//! Use: is every point placed and reached, and every name known?

pub(crate) mod around;
pub mod dynamic_point;
pub mod empty_wrapper;
pub mod guard_target;
pub mod lost_block;
pub mod lost_placement;
pub mod missing_argument;
pub mod placement_cycle;
pub mod repeated_placement;
pub mod stale_copy;
pub mod template_cycle;
pub mod undeclared_point;
pub mod unknown_argument;
pub mod unknown_variable;
pub mod unplaced_point;
pub mod unreached_placement;
pub mod unreached_template;
pub mod unseen_offer;
pub mod untitled_page;
pub mod wrong_spot;

use crate::address::Address;
use crate::command_line;
use crate::edit::template::beside;
use crate::link::{Registry, START, Taken};
use crate::rules::{Finding, Mend};
use crate::source::{Edit, FileId, Place, Span};

/// Adds where in a copy of a template something is lacking that stands at a place of the original.
pub fn at_counterpart(registry: &Registry, finding: Finding, original: Place, copy: FileId) -> Finding {
    let text = |file: FileId| registry.project().file(file).text();
    let at = registry.span(original).start as usize;
    match around::counterpart(text(original.file), at, text(copy)) {
        Some(found) => {
            let side = if found.behind { "behind" } else { "before" };
            finding.at_span(copy, found.line, format!("the copy lacks it: in the original it stands {side} this"))
        }
        None => finding.at(registry, Place { file: copy, at: START }, "the copy lacks it"),
    }
}

/// The mend that puts into a copy what the original has at a place, where that is a line of its own.
pub fn put_back(registry: &Registry, point: Address, original: Place, copy: FileId) -> Option<Mend> {
    let text = |file: FileId| registry.project().file(file).text();
    let from = text(original.file);
    let at = registry.span(original).start as usize;
    let start = from[..at].rfind('\n').map_or(0, |end| end + 1);
    let line = from[start..].lines().next()?.trim();
    let whole = line.starts_with('{') && line.ends_with('}') && line.matches(['{', '}']).count() == 4;
    let found = around::counterpart(from, at, text(copy)).filter(|_| whole)?;
    let into = text(copy);
    let begin = into[..found.line.range().start].rfind('\n').map_or(0, |end| end + 1);
    let indent = &into[begin..found.line.range().start];
    let number = into[..begin].lines().count() + 1;
    let (at, new, side) = match found.behind {
        true => (found.line.range().end, format!("\n{indent}{line}"), "behind"),
        false => (begin, format!("{indent}{line}\n"), "before"),
    };
    let edit = Edit { file: copy, span: Span::new(at, at), new };
    let source = registry.project().file(copy);
    let plain = line == format!("{{{{ place(\"{point}\") }}}}");
    let beside = beside(registry, copy, found.line, found.behind).filter(|_| plain);
    let text = match beside {
        Some(beside) => format!("{} {beside}", command_line!["place", point, "--in", source.name()]),
        None => format!("put {line} {side} line {number} of {}", source.path),
    };
    Some(Mend { text, safe: false, edits: vec![edit] })
}

/// Adds what took a placement away, and where that was.
pub fn at_taken(registry: &Registry, finding: Finding, taken: Taken) -> Finding {
    match taken {
        Taken::Copy { copy, original } => {
            at_counterpart(registry, finding, original, copy).at(registry, original, "the original has it here")
        }
        Taken::Block { block, original } => {
            let finding = finding.at(registry, block, "this block takes the place of the one with it");
            finding.at(registry, original, "it stands in the block of that name here")
        }
    }
}
