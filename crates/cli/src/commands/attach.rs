//! `attach`: ties a callback or a partial to a point.

use anyhow::{Result, bail};
use camino::Utf8Path;
use truehook_core::edit::manifest::NewAttachment;
use truehook_core::edit::{Plan, manifest, module};
use truehook_core::link::Runs;
use truehook_core::scan::{CallRef, Prefix};
use truehook_core::source::At;

use crate::Outcome;
use crate::args::AttachArgs;
use crate::workshop;

pub fn run(theme: Option<&Utf8Path>, args: &AttachArgs) -> Result<Outcome> {
    let (registry, lock) = workshop::open_to_edit(theme, &args.edit)?;
    if workshop::is_blind(&registry) {
        return Ok(Outcome::Findings);
    }
    let address = workshop::declared(&registry, &args.address)?;
    let priority = match args.priority {
        None => None,
        Some(number @ 0..=100) => Some(number as u8),
        Some(number) => bail!("the priority {number} is not between 0 and 100"),
    };
    let mut plan = Plan::default();
    let mut points = vec![address];
    match CallRef::parse(&args.what, At::default()) {
        Some(call) if call.prefix == Prefix::None => {
            module::add_stub(&registry, address, &call, &mut plan)?;
        }
        Some(_) => {}
        None if args.what.starts_with("partial:") => points.push(workshop::declared(&registry, &args.what)?),
        None => bail!("`{}` is neither a callback, as in notes.js#today, nor a partial, as in partial:note", args.what),
    }
    let top = registry.project().top();
    let slots = registry.point(address).map(|point| point.slots.as_slice()).unwrap_or_default();
    let again = slots.iter().find(|slot| slot.layer == top && written(&slot.runs) == args.what);
    if again.is_some() {
        bail!("{} is attached to {address} already; truehook show {address}", args.what);
    }
    let new = NewAttachment {
        to: address.to_string(),
        what: args.what.clone(),
        priority,
        when: args.when.clone(),
        before: args.before.clone(),
        after: args.after.clone(),
    };
    plan.edits.push(manifest::attach(registry.project(), &new)?);
    workshop::carry_out(&registry, &plan, &points, lock)?;
    Ok(Outcome::Clean)
}

fn written(runs: &Runs) -> String {
    match runs {
        Runs::Callback(call, _) => call.raw.to_string(),
        Runs::Partial(address, _) => address.to_string(),
    }
}
