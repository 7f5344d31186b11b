//! Another callback in the place of a lower layer's: a stub with its parameters, or a copy with all that it needs.

mod copy;

use super::module::{self, Shaped};
use super::{EditError, Plan, manifest};
use crate::address::Address;
use crate::command_line;
use crate::link::{Callback, Registry, Renderer, Runs};
use crate::names::{hint, nearest};
use crate::scan::{CallRef, Prefix};
use crate::source::{At, Span};

/// The parameters of a callback, as they are written.
pub(super) fn params(registry: &Registry, callback: Callback) -> Option<String> {
    copy::params(registry, callback)
}

/// The bytes of a callback in its module, with the comment before it; nothing where it is not declared there by name.
pub fn extent(registry: &Registry, callback: Callback) -> Option<Span> {
    copy::extent(registry, callback)
}

/// What is to be replaced, and by what.
#[derive(Clone, Debug)]
pub struct Replacing<'a> {
    /// The lower layer's callback, as `show` calls it: `foreshore:masthead.js#welcome`.
    pub call: &'a str,
    /// The one of the checked theme: `masthead.js#welcome`.
    pub with: &'a str,
    /// Only at this point.
    pub within: Option<Address>,
    /// With the original's text, and not only its parameters.
    pub copy: bool,
}

/// Puts a callback in the place of a lower layer's. The answer has the points that it is about.
///
/// # Errors
/// Where no lower layer runs such a callback, it is sealed or replaced already, or the new one can't be written.
pub fn replace(registry: &Registry, new: &Replacing<'_>) -> Result<(Plan, Vec<Address>), EditError> {
    let top = registry.project().top();
    let (callback, points) = replaced(registry, new)?;
    if points.len() > 1 && new.within.is_none() {
        let ways = points
            .iter()
            .map(|point| format!("\n  {}", command_line!["replace", new.call, new.with, "--point", point]));
        return Err(EditError::new(format!(
            "{} is attached to several points; say at which{}",
            new.call,
            ways.collect::<String>()
        )));
    }
    let wrong = || EditError::new(format!("`{}` is no callback of this theme, as in notes.js#today", new.with));
    let with = CallRef::parse(new.with, At::default()).filter(|call| call.prefix == Prefix::None).ok_or_else(wrong)?;
    let mut plan = Plan::default();
    let is_there = registry.callback_named(new.with, top).is_some();
    if new.copy && is_there {
        return Err(EditError::new(format!("{} is there already; leave out --copy, or choose another name", new.with)));
    }
    if !is_there {
        match new.copy {
            true => copy::copy(registry, callback, &with, &mut plan)?,
            false => {
                let shaped = Shaped { params: copy::params(registry, callback), like: Some(new.call.to_string()) };
                module::add_shaped(registry, points[0], &with, &shaped, &mut plan)?;
            }
        }
    }
    plan.edits.push(manifest::replace(registry.project(), new.call, new.with, new.within)?);
    Ok((plan, points))
}

/// The callback that is to be replaced, and where it runs.
fn replaced(registry: &Registry, new: &Replacing<'_>) -> Result<(Callback, Vec<Address>), EditError> {
    let top = registry.project().top();
    let mut known: Vec<String> = Vec::new();
    let mut found: Option<Callback> = None;
    let mut points: Vec<Address> = Vec::new();
    for point in registry.points().filter(|point| new.within.is_none_or(|within| within == point.address)) {
        for slot in point.slots.iter().filter(|slot| slot.layer != top) {
            let name = registry.first_name(slot);
            if name == new.call {
                if slot.sealed {
                    let layer = registry.project().layer(slot.layer).name;
                    return Err(EditError::new(format!("{layer} seals {name}, so that layers above leave it alone")));
                }
                if let Some(replaced) = slot.replaced.as_ref().filter(|replaced| replaced.by.layer == top) {
                    let line =
                        registry.lines(replaced.by.place.file).position(registry.span(replaced.by.place).start).0;
                    let shown = registry.project().shown(replaced.by.place.file);
                    return Err(EditError::new(format!("this theme replaces {name} already ({shown}:{line})")));
                }
                if let Runs::Callback(_, Some(callback)) =
                    slot.replaced.as_ref().map_or(slot.runs, |replaced| replaced.first)
                {
                    found = Some(callback);
                    points.push(point.address);
                }
            }
            known.push(name);
        }
        if let Some(Renderer::Callback(callback)) = point.renderer {
            let name = registry.callback_name(callback);
            if registry.project().file(callback.file).layer != top {
                if name == new.call {
                    found = Some(callback);
                    points.push(point.address);
                }
                known.push(name);
            }
        }
    }
    known.sort();
    known.dedup();
    match found {
        Some(callback) => Ok((callback, points)),
        None => {
            let near = nearest(new.call, known.iter().map(String::as_str)).map(str::to_string);
            let there =
                if known.is_empty() { "none runs".to_string() } else { format!("there run {}", known.join(", ")) };
            let at = new.within.map(|point| format!(" at {point}")).unwrap_or_default();
            Err(EditError::new(format!("no lower layer runs {}{at}{}; {there}", new.call, hint(&near))))
        }
    }
}
