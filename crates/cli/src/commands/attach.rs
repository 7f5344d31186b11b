//! `attach`: ties a callback or a partial to a point.

use anyhow::{Result, bail};
use camino::Utf8Path;
use truehook_core::command_line;
use truehook_core::edit::manifest::NewAttachment;
use truehook_core::edit::{Plan, manifest, module};
use truehook_core::link::{Registry, Runs};
use truehook_core::names::{hint, nearest};
use truehook_core::scan::{CallRef, Prefix};
use truehook_core::source::{At, FileId};

use crate::Outcome;
use crate::args::AttachArgs;
use crate::workshop;
use crate::writing::{self, Work};

pub fn run(theme: Option<&Utf8Path>, args: &AttachArgs) -> Result<Outcome> {
    let priority = match args.priority {
        None => None,
        Some(number @ 0..=100) => Some(number as u8),
        Some(number) => bail!("the priority {number} is not between 0 and 100"),
    };
    writing::edit(theme, &args.edit, |registry| {
        let address = workshop::declared(registry, &args.address)?;
        let mut plan = Plan::default();
        let mut points = vec![address];
        match CallRef::parse(&args.what, At::default()) {
            Some(call) if call.prefix == Prefix::None => {
                module::add_stub(registry, address, &call, &mut plan)?;
            }
            Some(call) => prefixed(registry, &call)?,
            None if args.what.starts_with("partial:") => points.push(workshop::declared(registry, &args.what)?),
            None => {
                bail!("`{}` is neither a callback, as in notes.js#today, nor a partial, as in partial:note", args.what)
            }
        }
        let top = registry.project().top();
        let slots = registry.point(address).map(|point| &*point.slots).unwrap_or_default();
        if slots.iter().any(|slot| slot.layer == top && written(&slot.runs) == args.what) {
            bail!("{} is attached to {address} already; {}", args.what, command_line!["show", address]);
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
        Ok(Work::new(plan, points))
    })
}

/// A callback of another layer has to be there.
fn prefixed(registry: &Registry, call: &CallRef) -> Result<()> {
    if registry.callback_named(call.raw.as_str(), registry.project().top()).is_some() {
        return Ok(());
    }
    let layers: Vec<&str> = registry.project().layers.iter().map(|layer| layer.name.as_str()).collect();
    let written = call.raw.as_str();
    let (prefix, rest) = written.split_once(':').unwrap_or(("", written));
    if !layers.contains(&prefix) {
        let near = nearest(prefix, layers.iter().copied());
        bail!("there is no layer {prefix}{}; there are {}", hint(&near), layers.join(", "));
    }
    let exports = registry.project().files.iter().enumerate().filter_map(|(at, file)| {
        let module = registry.module(FileId(at as u32))?;
        let own = registry.project().layer(file.layer).name.as_str() == prefix;
        own.then(|| module.exports.iter().map(move |export| format!("{}#{}", file.name(), export.name)))
    });
    let exports: Vec<String> = exports.flatten().collect();
    let near = nearest(rest, exports.iter().map(String::as_str)).map(|near| format!("{prefix}:{near}"));
    let there = match exports.is_empty() {
        true => "it exports nothing".to_string(),
        false => format!("it exports {}", exports.join(", ")),
    };
    bail!("{prefix} has no callback {rest}{}; {there}", hint(&near))
}

fn written(runs: &Runs) -> String {
    match runs {
        Runs::Callback(call, _) => call.raw.to_string(),
        Runs::Partial(address, _) => address.to_string(),
    }
}
