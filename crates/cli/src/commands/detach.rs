//! `detach`: takes an attachment away, one of this theme's own or one of a layer below.

use anyhow::{Result, bail};
use camino::Utf8Path;
use truehook_core::address::Address;
use truehook_core::edit::{Plan, manifest, stubs};
use truehook_core::link::{By, Registry, Slot};
use truehook_core::names::{hint, nearest};
use truehook_core::source::{Edit, Place};

use crate::Outcome;
use crate::args::DetachArgs;
use crate::workshop;
use crate::writing::{self, Work};

pub fn run(theme: Option<&Utf8Path>, args: &DetachArgs) -> Result<Outcome> {
    writing::edit(theme, &args.edit, |registry| plan(registry, args))
}

fn plan(registry: &Registry, args: &DetachArgs) -> Result<Work> {
    let address = workshop::declared(registry, &args.address)?;
    let top = registry.project().top();
    if let Some(replaced) = replaced_here(registry, address, &args.callback) {
        let mut plan = Plan::of(vec![taken_away(registry, replaced)?]);
        stubs::remove_of_replacement(registry, address, replaced, &mut plan)?;
        return Ok(Work::new(plan, vec![address]));
    }
    let slot = attached(registry, address, &args.callback)?;
    let mut plan = Plan::default();
    let own = slot.layer == top;
    plan.edits.push(match own {
        true => taken_away(registry, slot.place)?,
        false if slot.sealed => bail!(
            "{} seals {} ({}), so that layers above leave it alone",
            registry.project().layer(slot.layer).name,
            args.callback,
            shown(registry, slot.place)
        ),
        false => manifest::detach(registry.project(), &address.to_string(), &registry.first_name(slot))?,
    });
    // What this theme put in its place has no place any more.
    if let Some(replaced) =
        slot.replaced.filter(|replaced| replaced.by.layer == top && is_alone(registry, replaced.by.place))
    {
        plan.edits.push(taken_away(registry, replaced.by.place)?);
        stubs::remove_of_replacement(registry, address, replaced.by.place, &mut plan)?;
    }
    if own {
        stubs::remove_of_slot(registry, address, slot.place, &mut plan)?;
    }
    Ok(Work::new(plan, vec![address]))
}

/// The edit that takes away the table that begins there.
fn taken_away(registry: &Registry, place: Place) -> Result<Edit> {
    Ok(manifest::take_away(registry.project(), place.file, registry.span(place))?)
}

/// The replacement by which this theme has put that callback there.
fn replaced_here(registry: &Registry, address: Address, name: &str) -> Option<Place> {
    let top = registry.project().top();
    let mut slots = registry.point(address)?.slots.iter();
    let slot = slots
        .find(|slot| slot.layer != top && registry.slot_name(slot) == name && registry.first_name(slot) != name)?;
    slot.replaced.filter(|replaced| replaced.by.layer == top).map(|replaced| replaced.by.place)
}

/// Does a replacement concern one attachment alone?
fn is_alone(registry: &Registry, replacement: Place) -> bool {
    let slots = registry.points().flat_map(|point| point.slots.iter());
    slots.filter(|slot| slot.replaced.is_some_and(|replaced| replaced.by.place == replacement)).count() == 1
}

/// The attachment of that name, as it is called in this theme.
fn attached<'r>(registry: &'r Registry, address: Address, name: &str) -> Result<&'r Slot> {
    let Some(point) = registry.point(address) else { bail!("no layer declares `{address}`") };
    if let Some((slot, By { layer, place })) = point
        .detached
        .iter()
        .filter(|slot| registry.first_name(slot) == name)
        .find_map(|slot| Some((slot, slot.detached?)))
    {
        let by = registry.project().layer(layer).name;
        let attached = registry.project().layer(slot.layer).name;
        bail!("{by} has detached {name} of {attached} already ({})", shown(registry, place));
    }
    if let Some(slot) = point.slots.iter().find(|slot| registry.first_name(slot) == name) {
        return Ok(slot);
    }
    let replaced = point.slots.iter().find(|slot| slot.replaced.is_some() && registry.slot_name(slot) == name);
    if let Some((slot, replaced)) = replaced.and_then(|slot| Some((slot, slot.replaced?))) {
        bail!(
            "{name} stands in the place of {} ({}); detach that, or take the replacement away",
            registry.first_name(slot),
            shown(registry, replaced.by.place)
        );
    }
    let known: Vec<String> = point.slots.iter().map(|slot| registry.first_name(slot)).collect();
    let near = nearest(name, known.iter().map(String::as_str)).map(str::to_string);
    let there = match known.as_slice() {
        [] => "nothing is".to_string(),
        all => format!("there are {}", all.join(", ")),
    };
    bail!("{name} is not attached to {address}{}; {there}", hint(&near))
}

fn shown(registry: &Registry, place: truehook_core::source::Place) -> String {
    let line = registry.lines(place.file).position(registry.span(place).start).0;
    format!("{}:{line}", registry.project().shown(place.file))
}
