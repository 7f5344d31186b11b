//! `preview`: a theme's site on localhost, which follows every edit.

use std::io::Write;

use anyhow::{Result, bail};
use camino::Utf8Path;
use truehook_preview::{Options, start};

use crate::args::PreviewArgs;
use crate::output::style;
use crate::{Outcome, huge_pages, output, workshop};

pub fn run(theme: Option<&Utf8Path>, args: &PreviewArgs) -> Result<Outcome> {
    let folder = workshop::find_theme(theme)?;
    // One that is broken can be looked at; where there is none, somebody has named another folder.
    if !folder.join("truehook.toml").exists() {
        bail!("{folder} holds no truehook.toml, so it is not a theme");
    }
    workshop::tell_left_over(&folder)?;
    let program = workshop::worker()?;
    let started = start(Options { folder, port: args.port, language: args.language.clone(), program })?;
    if let Some(wanted) = started.instead_of {
        output::hint(&format!("port {wanted} is in use; this is the next one that is free"));
    }
    let mut out = crate::output::stream::stdout();
    let (on, off) = (style::POINT.render(), style::POINT.render_reset());
    writeln!(out, "{on}{}{off}  Ctrl-C ends it; pages by themselves: {}", started.address, started.site)?;
    out.flush()?;
    drop(out);
    if args.open {
        // What is so for this program is so for those that it starts, and browsers know better.
        huge_pages(true);
        if let Err(error) = open::that_detached(&started.address) {
            output::hint(&format!("no browser can be opened: {error}"));
        }
        huge_pages(false);
    }
    started.run()?;
    Ok(Outcome::Clean)
}
