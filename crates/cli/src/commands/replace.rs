//! `replace`: another callback in the place of a lower layer's.

use anyhow::Result;
use camino::Utf8Path;
use truehook_core::edit::replace::{self, Replacing};

use crate::Outcome;
use crate::args::ReplaceArgs;
use crate::workshop;
use crate::writing::{self, Work};

pub fn run(theme: Option<&Utf8Path>, args: &ReplaceArgs) -> Result<Outcome> {
    writing::edit(theme, &args.edit, |registry| {
        let within = args.point.as_deref().map(|point| workshop::declared(registry, point)).transpose()?;
        let new = Replacing { call: &args.callback, with: &args.with, within, copy: args.copy };
        let (plan, points) = replace::replace(registry, &new)?;
        Ok(Work::new(plan, points))
    })
}
