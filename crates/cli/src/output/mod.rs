//! How things are printed: one file for each form.

pub mod diff;
pub mod failures;
pub mod findings;
pub mod junit;
pub mod pot;
pub mod sarif;
pub mod steps;
pub mod style;
pub mod table;
pub mod told;

use std::io::Write;

use anyhow::Result;
use serde::Serialize;

/// Prints a view as JSON.
pub fn json(out: &mut impl Write, view: &impl Serialize) -> Result<()> {
    serde_json::to_writer_pretty(&mut *out, view)?;
    writeln!(out)?;
    Ok(())
}

/// A number of things: 1 finding, 2 findings.
pub fn count(number: usize, word: &str) -> String {
    format!("{number} {word}{}", if number == 1 { "" } else { "s" })
}

/// Tells something beside what was asked for.
pub fn hint(text: &str) {
    drop(writeln!(anstream::stderr().lock(), "truehook: {text}"));
}

/// Tells why a command could not be carried out.
pub fn error(error: &anyhow::Error) {
    refusal(&format!("{error:#}"));
}

/// Says that something could not be done, and why.
pub fn refusal(text: &str) {
    let (on, off) = (style::ERROR.render(), style::ERROR.render_reset());
    // Where standard error is closed, nobody can be told.
    let _ = writeln!(anstream::stderr(), "{on}truehook{off}: {text}");
}
