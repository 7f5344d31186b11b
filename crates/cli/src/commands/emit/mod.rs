//! `emit`: what other programs need of a theme, or of the program itself.

mod host;
mod man;
mod schema;
mod types;

use anyhow::Result;
use camino::Utf8Path;

use crate::Outcome;
use crate::args::{EmitArgs, Emitted};
use crate::completing;
use crate::output::pot;
use crate::workshop;

pub fn run(theme: Option<&Utf8Path>, args: &EmitArgs) -> Result<Outcome> {
    match &args.what {
        Emitted::Messages => messages(theme),
        Emitted::Schema(args) => schema::run(args),
        Emitted::Types => types::run(theme),
        Emitted::Completions { shell } => {
            print(&completing::script(*shell)?)?;
            Ok(Outcome::Clean)
        }
        Emitted::Man { into } => man::run(into.as_deref()),
        Emitted::Host { into } => host::run(into.as_deref()),
    }
}

/// The theme's own texts, for translators.
fn messages(theme: Option<&Utf8Path>) -> Result<Outcome> {
    let registry = workshop::open(&workshop::find_theme(theme)?)?;
    print(pot::of(&registry)?.as_bytes())?;
    Ok(workshop::outcome(&registry, true))
}

fn print(bytes: &[u8]) -> Result<()> {
    Ok(crate::output::stream::write_whole(bytes)?)
}
