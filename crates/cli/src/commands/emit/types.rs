//! `emit types`: declarations for TypeScript.

use anyhow::Result;
use camino::Utf8Path;
use truehook_core::typings;

use super::print;
use crate::Outcome;
use crate::workshop;

pub fn run(theme: Option<&Utf8Path>) -> Result<Outcome> {
    let registry = workshop::open(&workshop::find_theme(theme)?)?;
    print(typings::declarations(&registry).as_bytes())?;
    Ok(workshop::outcome(&registry, true))
}
