//! `check`: every finding of one theme or several.

use std::io::Write;
use std::time::Instant;

use anyhow::Result;
use camino::{Utf8Path, Utf8PathBuf};
use truehook_core::rules::{self, Level};
use truehook_core::view::{CheckView, FindingView, Summary, VERSION};

use crate::Outcome;
use crate::args::{CheckArgs, Format};
use crate::output::{self, findings};
use crate::workshop;

pub fn run(theme: Option<&Utf8Path>, args: &CheckArgs) -> Result<Outcome> {
    let folders: Vec<Utf8PathBuf> = match args.themes.is_empty() {
        true => vec![workshop::find_theme(theme)?],
        false => args.themes.clone(),
    };
    let mut all = CheckView { version: VERSION, findings: Vec::new(), summary: Summary::default() };
    let mut fails = false;
    let mut out = anstream::stdout().lock();
    for folder in &folders {
        let begun = Instant::now();
        let registry = workshop::open(folder)?;
        let checked = rules::check(&registry);
        fails |= checked.fails();
        let listed = checked.findings.iter().filter(|finding| args.notes || finding.level > Level::Note);
        let summary = Summary::new(&registry, &checked);
        match args.format {
            Format::Text => {
                let near = if folders.len() > 1 { folder.as_path() } else { Utf8Path::new("") };
                findings::write(&mut out, &registry, listed, near)?;
                findings::write_summary(&mut out, &registry, &summary, &checked.below_in, args.notes, begun.elapsed())?;
            }
            Format::Json => {
                let name = registry.project.layer(registry.project.top()).name.to_string();
                let theme = (folders.len() > 1).then_some(name);
                all.findings.extend(
                    listed.map(|finding| FindingView { theme: theme.clone(), ..FindingView::new(&registry, finding) }),
                );
                all.summary.add(summary);
            }
        }
        // The program ends soon; taking a large registry apart first would only take time.
        std::mem::forget(registry);
    }
    if args.format == Format::Json {
        output::json(&mut out, &all)?;
    }
    out.flush()?;
    Ok(if fails { Outcome::Findings } else { Outcome::Clean })
}
