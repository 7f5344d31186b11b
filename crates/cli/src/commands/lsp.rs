//! `lsp`: the Language Server Protocol over standard input and output.

use anyhow::{Result, bail};
use camino::Utf8Path;
use truehook_lsp::Ended;

use crate::Outcome;

pub fn run(theme: Option<&Utf8Path>) -> Result<Outcome> {
    if let Some(theme) = theme.filter(|theme| !theme.join("truehook.toml").exists()) {
        bail!("there is no truehook.toml in {theme}");
    }
    // An editor that goes without a word is no reason to say that all went well.
    Ok(match truehook_lsp::serve(theme)? {
        Ended::Shut => Outcome::Clean,
        Ended::Gone => Outcome::Findings,
    })
}
