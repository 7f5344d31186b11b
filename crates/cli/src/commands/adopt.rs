//! `adopt`: takes a lower layer's template over, or brings a copy of it up to date.

use anyhow::{Result, bail};
use camino::Utf8Path;
use truehook_core::edit::adopt::{self, Manner};
use truehook_core::read::DiskFiles;

use crate::Outcome;
use crate::args::AdoptArgs;
use crate::writing::{self, Work};

pub fn run(theme: Option<&Utf8Path>, args: &AdoptArgs) -> Result<Outcome> {
    let manner = match (args.extend, args.copy, &args.block) {
        _ if args.undo => Manner::Undo,
        (_, true, Some(_)) => bail!("a copy has all blocks; --block goes with --extend"),
        (_, true, None) => Manner::Copy,
        (true, false, block) => Manner::Extend(block.clone()),
        (false, false, _) => bail!(
            "say how: --extend builds on it and leaves every page as it is, --copy takes a copy that can be brought up to date, --undo gives back what says nothing of its own"
        ),
    };
    writing::edit(theme, &args.edit, |registry| {
        let taken = adopt::adopt(registry, &DiskFiles, &args.template, &manner)?;
        // A copy is what was asked for, whatever comes to light by it.
        let unsolved = taken.conflicts > 0 || manner == Manner::Copy;
        Ok(Work { told: taken.told, unsolved, ..Work::new(taken.plan, Vec::new()) })
    })
}
