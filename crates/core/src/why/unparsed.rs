//! A file on the way that does not parse: what it holds is not known, so it is the first thing to look at.

use super::answer::{LinkName, WhyLine};
use super::asking::Asking;
use super::subject::Subject;
use crate::link::{Point, Runs};
use crate::scan::{FlawKind, Shape};
use crate::source::{FileId, LayerId, Place};

/// A file that does not parse, with what to say of it.
pub struct Unparsed {
    pub line: WhyLine,
    pub reason: String,
}

/// The file because of which a link can't hold, where there is one.
pub fn behind(asking: &Asking<'_>, subject: Subject, broken: LinkName) -> Option<Unparsed> {
    match broken {
        LinkName::Placed | LinkName::Sent | LinkName::Reached | LinkName::Rendered => {
            let files = templates(asking);
            let name = subject.name(asking.registry);
            let names_it = |file: &&FileId| asking.registry.project().file(**file).text().contains(&name);
            let file = files.iter().find(names_it).or(files.first())?;
            told(asking, *file, "so what it shows is not known")
        }
        LinkName::On => match subject {
            Subject::Point(address) => module_of(asking, asking.registry.point(address)?),
            Subject::Callback(_) => None,
        },
        _ => None,
    }
}

/// The module that a callback's name leads to, where it does not parse.
pub fn module(asking: &Asking<'_>, name: &str, layer: LayerId) -> Option<Unparsed> {
    told(asking, asking.registry.unparsed_module(name, layer)?, "so none of its callbacks can run")
}

/// The module of a point's callback, where it does not parse.
fn module_of(asking: &Asking<'_>, point: &Point) -> Option<Unparsed> {
    point.slots.iter().find_map(|slot| {
        let Runs::Callback(call, None) = slot.runs else { return None };
        module(asking, &call.raw, slot.layer)
    })
}

/// The templates that don't parse, those of higher layers first.
fn templates(asking: &Asking<'_>) -> Vec<FileId> {
    let registry = asking.registry;
    let is_broken =
        |file: &FileId| matches!(&registry.facts(*file).shape, Shape::Template(template) if template.broken);
    let mut files: Vec<FileId> = registry.project().file_ids().filter(is_broken).collect();
    files.sort_by_key(|file| std::cmp::Reverse(registry.project().file(*file).layer));
    files
}

fn told(asking: &Asking<'_>, file: FileId, so: &str) -> Option<Unparsed> {
    let flaws = &asking.registry.facts(file).flaws;
    let flaw = flaws.iter().find(|flaw| matches!(flaw.kind, FlawKind::MarkupSyntax | FlawKind::CodeSyntax))?;
    let reason = format!("{} does not parse, {so}", asking.registry.project().shown(file));
    Some(Unparsed { line: asking.line(Place { file, at: flaw.at }, &*flaw.message), reason })
}
