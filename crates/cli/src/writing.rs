//! What every command that changes files does: it opens the theme, makes a plan, writes it or shows what it would
//! write, and says what is still lacking.

use std::io::Write;
use std::ops::Range;

use anyhow::{Result, bail};
use camino::{Utf8Path, Utf8PathBuf};
use truehook_core::address::Address;
use truehook_core::edit::{self, Plan};
use truehook_core::link::Registry;
use truehook_core::read::Project;
use truehook_core::rules::{self, Finding, FoundPlace, Level, is_command};
use truehook_core::view::ChangesView;

use crate::args::{EditArgs, Format};
use crate::{Outcome, output, workshop};

/// What a command is about to do.
#[derive(Debug, Default)]
pub struct Work {
    /// The changes.
    pub plan: Plan,
    /// The points that it is about: what their chains lack is told.
    pub points: Vec<Address>,
    /// What people are to know beside the changes, a line each.
    pub told: Vec<String>,
    /// What may be done next, beside what is lacking.
    pub next: Vec<String>,
    /// Does it write what people have to look at before it will do?
    pub unsolved: bool,
    /// Names that were exchanged for others: findings that differ in nothing else are the same.
    pub renamed: Vec<(String, String)>,
}

impl Work {
    /// Changes that are about some points.
    pub fn new(plan: Plan, points: Vec<Address>) -> Work {
        Work { plan, points, ..Work::default() }
    }
}

/// Opens a theme, makes a plan for it and carries that out. Nobody else writes there in the meantime.
pub fn edit(
    theme: Option<&Utf8Path>,
    args: &EditArgs,
    plan: impl FnOnce(&Registry) -> Result<Work>,
) -> Result<Outcome> {
    let folder = workshop::find_theme(theme)?;
    // Where it is only to be looked at what would be written, that needs no lock.
    let mut lock = if args.dry_run { None } else { Some(workshop::lock(&folder)?) };
    let files = workshop::files_of(&folder, lock.as_ref())?;
    let registry = workshop::open_files(&folder, &files)?;
    if workshop::is_blind(&registry) {
        return Ok(Outcome::Findings);
    }
    let work = plan(&registry)?;
    let project = registry.project();
    let changes: Vec<_> =
        work.plan.changes(project)?.into_iter().filter(|change| change.before != change.after).collect();
    let after = Registry::new(edit::preview(&files, project, &changes)?);
    let before: Vec<Finding> = rules::check(&registry).findings;
    let known: Vec<(&str, String)> = before.iter().map(|known| (known.rule, renamed(&known.message, &work))).collect();
    let is_new = |finding: &Finding| {
        let message = renamed(&finding.message, &work);
        !known.iter().any(|(rule, text)| *rule == finding.rule && *text == message)
    };
    let checked = rules::check(&after).findings;
    let written = written(project, &work.plan);
    if let Some(bad) = checked
        .iter()
        .filter(|_| !work.unsolved)
        .find(|finding| spoils(after.project(), finding, &written) && is_new(finding))
    {
        let label = bad.places.first().map(|place| place.label.as_str()).filter(|label| !label.is_empty());
        let label = label.map(|label| format!(" ({label})")).unwrap_or_default();
        bail!("{}{label}; nothing was written", bad.message);
    }
    let mut out = crate::output::stream::stdout();
    let text = args.format == Format::Text;
    if let Some(lock) = &mut lock {
        edit::write_all(lock, &changes)?;
    }
    let mut steps = next_steps(&checked, &is_new, &work.points);
    steps.extend(work.next.iter().cloned());
    let (next, advice): (Vec<String>, Vec<String>) = steps.into_iter().partition(|step| is_command(step));
    if !text {
        output::json(&mut out, &ChangesView { advice, ..ChangesView::new(project, &work.plan, work.told, next) })?;
        return Ok(Outcome::Clean);
    }
    for line in &work.told {
        writeln!(out, "{line}")?;
    }
    match lock {
        None => output::diff::write(&mut out, &changes)?,
        Some(_) => output::diff::write_added(&mut out, &changes)?,
    }
    if changes.is_empty() {
        writeln!(out, "nothing is to be changed")?;
    }
    for (word, text) in next.iter().map(|text| ("next", text)).chain(advice.iter().map(|text| ("advice", text))) {
        writeln!(out, "{}{word}:{} {text}", output::style::NEXT.render(), output::style::NEXT.render_reset())?;
    }
    Ok(Outcome::Clean)
}

/// A text in which all that was renamed has the same name, old or new.
fn renamed(text: &str, work: &Work) -> String {
    work.renamed.iter().fold(text.to_string(), |text, (old, new)| text.replace(new.as_str(), old))
}

/// What the chain of some points still lacks, and what has become wrong elsewhere.
fn next_steps(findings: &[Finding], is_new: &dyn Fn(&Finding) -> bool, points: &[Address]) -> Vec<String> {
    let about = |finding: &&Finding| {
        let named = points.iter().any(|point| finding.point.as_deref() == Some(&point.to_string()));
        named || is_new(finding)
    };
    let serious = findings.iter().filter(|finding| finding.level > Level::Note).filter(about);
    let mut steps: Vec<String> = Vec::new();
    for finding in serious {
        let step = finding.mend.as_ref().map_or_else(|| finding.message.clone(), |mend| mend.printed().1);
        if !steps.contains(&step) {
            steps.push(step);
        }
    }
    steps
}

/// The bytes that a plan writes, in the files as they are then.
fn written(project: &Project, plan: &Plan) -> Vec<(Utf8PathBuf, Range<usize>)> {
    let mut edits: Vec<_> = plan.edits.iter().filter(|edit| !plan.removed.contains(&edit.file)).collect();
    edits.sort_by_key(|edit| (edit.file, edit.span));
    let mut found: Vec<(Utf8PathBuf, Range<usize>)> = Vec::new();
    // How much longer the file has become so far.
    let mut longer = 0isize;
    let mut last = None;
    for edit in edits {
        if last.replace(edit.file) != Some(edit.file) {
            longer = 0;
        }
        let start = edit.span.range().start.saturating_add_signed(longer);
        found.push((project.path_of(edit.file), start..start + edit.new.len()));
        longer += edit.new.len() as isize - edit.span.range().len() as isize;
    }
    let root = &project.layer(project.top()).root;
    found.extend(plan.created.iter().map(|(path, _)| (root.join(path), 0..usize::MAX)));
    found
}

/// Is this finding a fault of what was just written, rather than something that is still to come, or that only
/// comes to light by it?
fn spoils(after: &Project, finding: &Finding, written: &[(Utf8PathBuf, Range<usize>)]) -> bool {
    let is_written = |place: &FoundPlace| {
        let (span, path) = (place.span.range(), after.path_of(place.file));
        written.iter().any(|(file, range)| *file == path && span.start < range.end && range.start < span.end.max(1))
    };
    let here = match finding.rule.ends_with("-cycle") || finding.rule == "repeated-placement" {
        true => finding.places.iter().any(is_written),
        false => finding.places.first().is_none_or(is_written),
    };
    here && finding.level > Level::Note && rules::rule(finding.rule).is_none_or(|rule| !rule.awaited)
}
