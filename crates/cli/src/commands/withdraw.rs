//! `withdraw`: takes a declaration away, with what hangs on it or once that hangs elsewhere.

use anyhow::Result;
use camino::Utf8Path;
use truehook_core::edit::withdraw::{self, Way};

use crate::Outcome;
use crate::args::WithdrawArgs;
use crate::workshop;
use crate::writing::{self, Work};

pub fn run(theme: Option<&Utf8Path>, args: &WithdrawArgs) -> Result<Outcome> {
    let address = workshop::address(&args.address)?;
    let to = args.to.as_deref().map(workshop::address).transpose()?;
    let way = match to {
        Some(to) => Way::To(to),
        None if args.along => Way::Along,
        None => Way::Alone,
    };
    writing::edit(theme, &args.edit, |registry| {
        let withdrawn = withdraw::withdraw(registry, address, way)?;
        Ok(Work { told: withdrawn.told, ..Work::new(withdrawn.plan, to.into_iter().collect()) })
    })
}
