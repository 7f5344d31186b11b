//! `lsp`: the Language Server Protocol over standard input and output.

use anyhow::Result;
use truehook_lsp::Ended;

use crate::Outcome;

pub fn run() -> Result<Outcome> {
    // An editor that goes without a word is no reason to say that all went well.
    Ok(match truehook_lsp::serve()? {
        Ended::Shut => Outcome::Clean,
        Ended::Gone => Outcome::Findings,
    })
}
