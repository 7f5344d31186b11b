//! A declaration taken away, alone, with all that hangs on it, or with that moved to another point.

mod manifest;
mod markup;

use super::rename::Point;
use super::tables::tables;
use super::{EditError, Plan, lists, stubs, tree};
use crate::address::{Address, Kind};
use crate::command_line;
use crate::link::{Reference, Registry, Renderer, Target};
use crate::names::{hint, nearest};
use crate::read::FileKind;
use crate::source::{Edit, FileId, Place, Span};

/// What becomes of what hangs on it.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Way {
    /// Nothing may.
    Alone,
    /// It goes, too.
    Along,
    /// It moves to another point.
    To(Address),
}

/// What it comes to.
#[derive(Clone, Debug, Default)]
pub struct Withdrawn {
    /// The changes.
    pub plan: Plan,
    /// What stays, and why.
    pub told: Vec<String>,
}

/// A point that goes, and the inner pieces that go with it.
pub(super) struct Going<'r> {
    pub registry: &'r Registry,
    pub address: Address,
    pub way: Way,
    /// All that goes.
    pub gone: Vec<Address>,
}

/// Takes away the checked theme's declaration of a point.
///
/// # Errors
/// Where the theme doesn't declare it, something needs it, or what it is moved to doesn't fit.
pub fn withdraw(registry: &Registry, address: Address, way: Way) -> Result<Withdrawn, EditError> {
    let going = Going::new(registry, address, way)?;
    let stands_below = going.is_declared_below();
    let needs = if stands_below { Vec::new() } else { going.needs() };
    if way == Way::Alone && !needs.is_empty() {
        return Err(going.needed(&needs));
    }
    let mut plan = Plan::default();
    let own: Vec<(FileId, FileKind)> =
        registry.project().files_of(registry.project().top()).map(|(file, source)| (file, source.kind)).collect();
    for (file, kind) in own {
        let text = registry.project().file(file).text();
        let moves = !stands_below && way != Way::Alone;
        plan.edits.extend(match kind {
            FileKind::Manifest => tree::text_edits(file, text, |plain| {
                going.in_manifest(
                    &if moves { going.without_short_forms(file, text, plain) } else { plain.to_string() },
                    moves,
                )
            })?,
            FileKind::Site | FileKind::Page if moves => {
                tree::text_edits(file, text, |plain| going.in_preview(&going.without_short_forms(file, text, plain)))?
            }
            FileKind::Template if moves => going.in_template(file, text)?,
            FileKind::Module if moves => going.in_module(file, text),
            _ => Vec::new(),
        });
    }
    let covered = |place: Place| {
        let span = registry.span(place);
        let here = |edit: &&Edit| edit.file == place.file && edit.span.start <= span.start && span.end <= edit.span.end;
        plan.edits.iter().find(here).is_some()
    };
    let left: Vec<&Reference> = needs.into_iter().filter(|reference| !covered(reference.from)).collect();
    if !left.is_empty() {
        return Err(going.stuck(&left));
    }
    let mut withdrawn = Withdrawn::default();
    let mut removed = Plan::default();
    if !stands_below {
        let goes = |place: Place| plan.removed.contains(&place.file) || covered(place);
        going.remove_stubs(&goes, &mut removed)?;
        for gone in &going.gone {
            let Some(point) = registry.point(*gone) else { continue };
            let stays = stubs::remove_files(registry, point, &mut removed);
            withdrawn
                .told
                .extend(stays.map(|path| format!("{path} stays: somebody has written it; take it away by hand")));
        }
    }
    plan.edits.retain(|edit| !removed.removed.contains(&edit.file));
    plan.join(removed);
    withdrawn.plan = plan;
    Ok(withdrawn)
}

impl<'r> Going<'r> {
    fn new(registry: &'r Registry, address: Address, way: Way) -> Result<Going<'r>, EditError> {
        let top = registry.project().top();
        let point = registry.point(address).filter(|point| !point.declared.is_empty());
        let Some(point) = point else {
            let near = nearest(&address.name, registry.names(address.kind));
            let near = near.map(|name| Address::new(address.kind, name).to_string());
            return Err(EditError::new(format!("no layer declares `{address}`{}", hint(&near))));
        };
        if point.declared.iter().all(|declared| declared.layer != top) {
            let layer = point.declared.last().map(|declared| registry.project().layer(declared.layer).name.to_string());
            return Err(EditError::new(format!(
                "{address} is declared by {}, and stays there; {} takes it out of use here",
                layer.unwrap_or_default(),
                command_line!["declare", address, "dropped=true"]
            )));
        }
        if let Way::To(to) = way {
            fits(registry, address, to)?;
        }
        let is_inner = |other: &Address| other.inner().is_some_and(|(section, _)| section == address);
        let inner = registry
            .points()
            .map(|point| point.address)
            .filter(|other| address.kind == Kind::Section && is_inner(other));
        let gone = [address].into_iter().chain(inner).collect();
        Ok(Going { registry, address, way, gone })
    }

    fn is_declared_below(&self) -> bool {
        let top = self.registry.project().top();
        self.registry
            .point(self.address)
            .is_some_and(|point| point.declared.iter().any(|declared| declared.layer != top))
    }

    /// The tables that declare it: their keys.
    pub fn keys(&self) -> Vec<&'static str> {
        match self.address.inner() {
            Some((section, own)) => vec!["section", section.name.as_str(), "piece", own],
            None => vec![self.address.kind.word(), self.address.name.as_str()],
        }
    }

    /// What in the checked theme leads to it, but for its own declaration and template.
    fn needs(&self) -> Vec<&'r Reference> {
        let registry = self.registry;
        let top = registry.project().top();
        let own_template = |file: FileId| {
            let renders = |address: &Address| matches!(registry.point(*address).and_then(|point| point.renderer), Some(Renderer::Template(own)) if own == file);
            self.gone.iter().any(renders)
        };
        let declares = |place: Place| {
            let source = registry.project().file(place.file);
            let start = registry.span(place).start as usize;
            source.kind == FileKind::Manifest
                && tables(source.text()).is_some_and(|tables| {
                    tables.iter().any(|table| table.is_below(&self.keys()) && table.start <= start && start < table.end)
                })
        };
        let mut seen = Vec::new();
        registry
            .references()
            .iter()
            .filter(|reference| registry.layer_of(reference.from) == top)
            .filter(|reference| matches!(reference.outcome.target(), Some(Target::Point(point)) if self.gone.contains(&point)))
            .filter(|reference| !own_template(reference.from.file) && !declares(reference.from))
            .filter(|reference| {
                let place = (reference.from.file, registry.span(reference.from).start);
                let new = !seen.contains(&place);
                seen.push(place);
                new
            })
            .collect()
    }

    /// A list of items without the inner pieces that go, as they are called inside of their section.
    fn without_short_forms(&self, file: FileId, text: &str, plain: &str) -> String {
        let is_meant = |reference: &&Reference| {
            let point = match reference.outcome.target() {
                Some(Target::Point(point)) if self.way == Way::Along && reference.from.file == file => point,
                _ => return false,
            };
            self.gone.contains(&point) && point.inner().is_some() && reference.written.as_str() != point.to_string()
        };
        let meant = self.registry.references().iter().filter(is_meant);
        let mut places: Vec<usize> = meant.map(|reference| self.registry.span(reference.from).start as usize).collect();
        places.sort_unstable();
        let mut left = plain.to_string();
        for at in places.into_iter().rev() {
            // With plain line ends it stands further ahead.
            let at = at - text[..at].matches("\r\n").count();
            left = lists::without(&left, at).unwrap_or(left);
        }
        left
    }

    fn listed(&self, references: &[&Reference]) -> String {
        let line = |reference: &&Reference| {
            let line = self.registry.lines(reference.from.file).position(self.registry.span(reference.from).start);
            let text = self.registry.project().file(reference.from.file).text();
            let said = text.lines().nth(line.0.saturating_sub(1)).unwrap_or_default().trim();
            format!("\n  {}:{}  {said}", self.registry.project().shown(reference.from.file), line.0)
        };
        references.iter().map(line).collect()
    }

    fn needed(&self, needs: &[&Reference]) -> EditError {
        let address = self.address;
        EditError::new(format!(
            "{address} is still needed; {} takes all of this away, too, and --to ADDRESS moves it to another point{}",
            command_line!["withdraw", address, "--along"],
            self.listed(needs)
        ))
    }

    fn stuck(&self, left: &[&Reference]) -> EditError {
        EditError::new(format!(
            "{} is used where no command can take it out; change that first{}",
            self.address,
            self.listed(left)
        ))
    }

    /// The rename that moving to another point is, but for the declaration.
    fn moved(&self) -> Option<Point<'r>> {
        match self.way {
            Way::To(to) => Some(Point::new(self.registry, self.address, to)),
            _ => None,
        }
    }

    fn in_module(&self, file: FileId, text: &str) -> Vec<Edit> {
        self.moved().map(|moved| moved.in_module(file, text)).unwrap_or_default()
    }

    fn in_template(&self, file: FileId, text: &str) -> Result<Vec<Edit>, EditError> {
        let is_placed = |address: Address| {
            let uses = self.registry.point(address).map(|point| point.uses.as_slice()).unwrap_or_default();
            uses.iter().any(|used| self.registry.template(used.file).is_some())
        };
        if let (Some(moved), Way::To(to)) = (self.moved(), self.way)
            && (!is_placed(to) || to.kind.is_component() || to.kind == Kind::Filter)
        {
            return Ok(moved.in_template(file, text));
        }
        tree::text_edits(file, text, |plain| Ok(markup::without(plain, &self.gone)))
    }

    /// Stubs of what was attached to it, and of what rendered it.
    fn remove_stubs(&self, goes: &dyn Fn(Place) -> bool, plan: &mut Plan) -> Result<(), EditError> {
        let top = self.registry.project().top();
        for address in &self.gone {
            let Some(point) = self.registry.point(*address) else { continue };
            let own = point.slots.iter().filter(|slot| slot.layer == top && self.way == Way::Along);
            for place in own.map(|slot| slot.place) {
                if let Some(callback) = stubs::of_slot(point, place) {
                    stubs::remove_stub(self.registry, *address, callback, goes, plan)?;
                }
            }
            if let Some(Renderer::Callback(callback)) = point.renderer {
                stubs::remove_stub(self.registry, *address, callback, goes, plan)?;
            }
        }
        Ok(())
    }
}

/// Can what hangs on one point hang on another?
fn fits(registry: &Registry, from: Address, to: Address) -> Result<(), EditError> {
    if from == to {
        return Err(EditError::new(format!("{from} can't move to itself")));
    }
    if registry.point(to).is_none_or(|point| point.declared.is_empty()) {
        let near = nearest(&to.name, registry.names(to.kind)).map(|name| Address::new(to.kind, name).to_string());
        return Err(EditError::new(format!("no layer declares `{to}`{}", hint(&near))));
    }
    let holds = |kind: Kind| matches!(kind, Kind::Region | Kind::Area);
    let inner = from.inner().is_some() || to.inner().is_some();
    let alike = from.kind == to.kind
        || holds(from.kind) && holds(to.kind)
        || from.kind.is_component() && to.kind.is_component() && !inner;
    match alike {
        true => Ok(()),
        false => Err(EditError::new(format!(
            "{to} is {}, and what hangs on {from}, {}, can't hang there",
            to.kind.one(),
            from.kind.one()
        ))),
    }
}

/// A span that holds a place.
fn holds(start: usize, end: usize, span: Span) -> bool {
    start <= span.start as usize && (span.start as usize) < end
}
