//! `emit`: what other programs need of a theme.

use std::io::Write;

use anyhow::Result;
use camino::Utf8Path;

use crate::Outcome;
use crate::args::{EmitArgs, Emitted};
use crate::output::pot;
use crate::workshop;

pub fn run(theme: Option<&Utf8Path>, args: &EmitArgs) -> Result<Outcome> {
    match args.what {
        Emitted::Messages => messages(theme),
    }
}

/// The theme's own texts, for translators.
fn messages(theme: Option<&Utf8Path>) -> Result<Outcome> {
    let registry = workshop::open(&workshop::find_theme(theme)?)?;
    let mut out = std::io::stdout().lock();
    out.write_all(pot::of(&registry)?.as_bytes())?;
    out.flush()?;
    Ok(workshop::outcome(&registry, true))
}
