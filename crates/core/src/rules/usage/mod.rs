//! Use: is every point placed and reached, and every name known?

pub(crate) mod around;
pub mod dynamic_point;
pub mod empty_wrapper;
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
pub mod wrong_spot;

use crate::address::Address;
use crate::edit::template::suggest;
use crate::link::{Registry, START, Taken};
use crate::rules::Finding;
use crate::source::{FileId, Place};

/// Adds where in a copy of a template something is lacking that stands at a place of the original.
pub fn at_counterpart(registry: &Registry, finding: Finding, original: Place, copy: FileId) -> Finding {
    let text = |file: FileId| registry.project().file(file).text();
    let at = registry.span(original).start as usize;
    match around::counterpart(text(original.file), at, text(copy)) {
        Some((span, label)) => finding.at_span(copy, span, format!("the copy lacks it: {label}")),
        None => finding.at(registry, Place { file: copy, at: START }, "the copy lacks it"),
    }
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

/// The command that places a point, in a template if one is to be preferred.
pub fn place_command(registry: &Registry, point: Address, file: Option<FileId>) -> String {
    match suggest(registry, point, file) {
        Some((template, selector)) => format!("truehook place {point} --in {template} --inside {selector}"),
        None => format!("truehook place {point} --in TEMPLATE --inside SELECTOR"),
    }
}
