//! `trace`: what ran on a page, in order.

use std::io::Write;
use std::sync::Arc;

use anyhow::{Result, bail};
use camino::Utf8Path;
use serde::Serialize;
use truehook_core::view::VERSION;
use truehook_stage::{Manner, Stage};

use crate::Outcome;
use crate::args::{Format, TraceArgs};
use crate::output::{self, count, failures, steps, style, table};
use crate::workshop;

/// What `trace --format json` prints.
#[derive(Serialize, schemars::JsonSchema)]
struct TraceView {
    version: u32,
    page: String,
    steps: Vec<steps::StepView>,
    notes: Vec<steps::NoteView>,
    failures: Vec<failures::FailureView>,
}

/// The form of what `--format json` prints.
pub fn form() -> schemars::Schema {
    output::form::<TraceView>()
}

pub fn run(theme: Option<&Utf8Path>, args: &TraceArgs) -> Result<Outcome> {
    let folder = workshop::find_theme(theme)?;
    let files = workshop::files(&folder)?;
    let workers = workshop::workers(&folder, &files, None, Some(1))?;
    let registry = Arc::new(workshop::open_files(&folder, &files)?);
    let only = args.point.as_ref().map(|point| workshop::declared(&registry, point)).transpose()?;
    let stage = Stage::new(registry.clone());
    let path = workshop::page(&stage, &args.page)?;
    let page = workers.over(registry.clone()).page(&path, &Manner::watched())?;
    let Some(page) = page else { bail!("there is no page {path}") };
    let failed = !page.failures.is_empty();
    let mut out = crate::output::stream::stdout();
    if args.format == Format::Json {
        let (steps, notes) = steps::views(&registry, &page.trace, only, true);
        let failures = failures::views(page.failures);
        output::json(&mut out, &TraceView { version: VERSION, page: path, steps, notes, failures })?;
    } else {
        let number = page.trace.steps.iter().filter(|step| only.is_none_or(|only| only == step.point)).count();
        let at = only.map(|only| format!(" at {only}")).unwrap_or_default();
        if table::is_piped() {
            steps::write_records(&mut out, &registry, &page.trace, only)?;
        } else {
            writeln!(
                out,
                "{}{path}{}   {}{at}",
                style::POINT.render(),
                style::POINT.render_reset(),
                count(number, "step")
            )?;
            steps::write(&mut out, &page.trace, only)?;
        }
        out.flush()?;
        if table::is_piped() {
            table::note(&mut out, &format!("{path}   {}{at}", count(number, "step")))?;
        }
        failures::write(&path, &page.failures)?;
    }
    out.flush()?;
    Ok(workshop::outcome(&registry, !failed))
}
