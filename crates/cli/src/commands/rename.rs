//! `rename`: another name for a point, callback, input or template, everywhere in this theme.

use anyhow::Result;
use camino::Utf8Path;
use truehook_core::edit::rename;

use crate::Outcome;
use crate::args::RenameArgs;
use crate::writing::{self, Work};

pub fn run(theme: Option<&Utf8Path>, args: &RenameArgs) -> Result<Outcome> {
    writing::edit(theme, &args.edit, |registry| {
        let renaming = rename::rename(registry, &args.from, &args.to)?;
        let told = renaming.told;
        Ok(Work { told, renamed: renaming.names, ..Work::new(renaming.plan, renaming.points) })
    })
}
