//! `check`: every finding of one theme or several; what can be mended is, where that was asked for.

use std::io::Write;
use std::time::Instant;

use anyhow::{Context, Result, bail};
use camino::{Utf8Path, Utf8PathBuf};
use truehook_core::edit::{self, Lock};
use truehook_core::link::Registry;
use truehook_core::mending::{self, Refused};
use truehook_core::read::{LARGEST, OverlayFiles, read_plain};
use truehook_core::rules::{self, Checked};
use truehook_core::view::{Baseline, VERSION};

use crate::Outcome;
use crate::args::{CheckArgs, Report};
use crate::output::told::Told;
use crate::output::{self, count};
use crate::pages_compared::Pages;
use crate::{progress, watch, workshop};

pub fn run(theme: Option<&Utf8Path>, args: &CheckArgs) -> Result<Outcome> {
    let folders: Vec<Utf8PathBuf> = match args.themes.is_empty() {
        true => vec![workshop::find_theme(theme)?],
        false => args.themes.clone(),
    };
    if theme.is_some() && !args.themes.is_empty() {
        bail!("say which themes either with -C or behind check, not both");
    }
    if args.baseline.is_some() && folders.len() > 1 {
        bail!("a baseline belongs to one theme; check {} by themselves", folders.len());
    }
    if args.watch {
        return watch::run(&folders, args);
    }
    let mut report = Told::new(args, folders.len() > 1);
    let mut out = crate::output::stream::stdout();
    let progress = match folders.as_slice() {
        [one] => progress::after_a_second(&format!("checking {one}")),
        several => progress::of("checking", several.len()),
    };
    for folder in &folders {
        let begun = Instant::now();
        let lock = if args.fix && !args.dry_run { Some(workshop::lock(folder)?) } else { None };
        // The command that holds the lock has already finished or undone the journal.
        let files = workshop::files_of(folder, lock.as_ref())?;
        let mut registry = workshop::open_to_check(folder, &files)?;
        let mut refused = Vec::new();
        if args.fix {
            (registry, refused) = fix(&mut out, registry, folder, &files, args, lock)?;
        }
        let mut checked = rules::check(&registry);
        // What was left undone is advice from here on.
        for mend in checked.findings.iter_mut().filter_map(|finding| finding.mend.as_mut()) {
            mend.safe &= !refused.iter().any(|refused| refused.edits == mend.edits);
        }
        if let Some(file) = &args.baseline {
            accept(&mut out, &registry, &mut checked, file, args)?;
        }
        progress.step();
        progress.aside(|| report.tell(&mut out, &registry, &checked, folder, begun.elapsed()))?;
        // The program ends soon; taking a large registry apart first would only take time.
        std::mem::forget(registry);
    }
    report.end(&mut out)
}

/// Makes the safe mends, or shows them.
fn fix(
    out: &mut impl Write,
    registry: Registry,
    folder: &Utf8Path,
    files: &OverlayFiles<'_>,
    args: &CheckArgs,
    lock: Option<Lock>,
) -> Result<(Registry, Vec<Refused>)> {
    let mut pages = Pages::of(folder, files);
    let mended = mending::mend(files, registry, &mut |changes, after| pages.loss(changes, after))?;
    let text = args.format == Report::Text;
    match lock {
        Some(mut lock) => {
            edit::write_all(&mut lock, &mended.changes)?;
            if text {
                output::diff::write_added(out, &mended.changes)?;
            }
        }
        None if text => output::diff::write(out, &mended.changes)?,
        None => {}
    }
    if text {
        let (found, files) = (mended.count, mended.changes.len());
        let verb = if args.dry_run { "can be mended" } else { "mended" };
        match found {
            0 => writeln!(out, "nothing that can be mended without asking\n")?,
            _ => writeln!(out, "{} {verb} in {}\n", count(found, "finding"), count(files, "file"))?,
        }
        for refused in &mended.refused {
            writeln!(out, "left as it is: {}; {}\n", refused.text, refused.why)?;
        }
    }
    Ok((mended.registry, mended.refused))
}

/// Accepts the findings of today where the baseline isn't there yet, else takes away what it accepts.
fn accept(
    out: &mut impl Write,
    registry: &Registry,
    checked: &mut Checked,
    file: &Utf8Path,
    args: &CheckArgs,
) -> Result<()> {
    let text = args.format == Report::Text;
    if !file.exists() {
        let baseline = Baseline::of(registry, &checked.findings);
        let bytes = serde_json::to_vec_pretty(&baseline)?;
        edit::save(file, &bytes)?;
        if text {
            let are = if checked.findings.len() == 1 { "is" } else { "are" };
            writeln!(out, "{} of today {are} accepted in {file}", count(checked.findings.len(), "finding"))?;
        }
        checked.findings.clear();
        return Ok(());
    }
    let bytes = read_plain(file, LARGEST).with_context(|| format!("{file} can't be read"))?;
    let baseline: Baseline = serde_json::from_slice(&bytes)
        .with_context(|| format!("{file} is no baseline; name another file, or take it away and one is written"))?;
    if baseline.version != VERSION {
        bail!("{file} is a baseline of version {}, and this program writes {VERSION}", baseline.version);
    }
    let gone = baseline.filter(registry, &mut checked.findings);
    if gone > 0 && text {
        writeln!(
            out,
            "{} can no longer be found; take {file} away to accept those of today",
            count(gone, "accepted finding")
        )?;
    }
    Ok(())
}
