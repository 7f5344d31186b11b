//! `fire`: one hook, filter or component on its own.

use std::io::Write;
use std::sync::Arc;
use truehook_core::command_line;

use anyhow::{Result, bail};
use camino::Utf8Path;
use serde::Serialize;
use serde_json::Value;
use truehook_core::address::Kind;
use truehook_core::link::{MENU_ARGUMENTS, Point};
use truehook_core::view::VERSION;
use truehook_stage::{Output, Stage};

use crate::Outcome;
use crate::args::{FireArgs, Format};
use crate::given;
use crate::output::{self, failures, steps};
use crate::workshop;

/// What `fire --format json` prints.
#[derive(Serialize, schemars::JsonSchema)]
struct FireView {
    version: u32,
    address: String,
    page: String,
    /// `markup`, `value` or `stored`.
    kind: &'static str,
    output: String,
    steps: Vec<steps::StepView>,
    notes: Vec<steps::NoteView>,
    failures: Vec<failures::FailureView>,
}

/// The form of what `--format json` prints.
pub fn form() -> schemars::Schema {
    output::form::<FireView>()
}

pub fn run(theme: Option<&Utf8Path>, args: &FireArgs) -> Result<Outcome> {
    let folder = workshop::find_theme(theme)?;
    let files = workshop::files(&folder)?;
    let workers = workshop::workers(&folder, &files, None, Some(1))?;
    let registry = Arc::new(workshop::open_files(&folder, &files)?);
    let address = workshop::declared(&registry, &args.address)?;
    let Some(point) = registry.point(address) else { bail!("no layer declares `{address}`") };
    if !address.kind.is_placed() && address.kind != Kind::Filter {
        bail!("{} can't be fired; render a page instead: truehook render", address.kind.one());
    }
    let given = arguments(point, &args.arguments)?;
    let stage = Stage::new(registry.clone());
    let path = match &args.page {
        Some(path) => workshop::page(&stage, path)?,
        None => workshop::first_page(&stage)?,
    };
    let Some(fired) = workers.over(registry.clone()).fire(address, &path, &given)? else {
        bail!("there is no page {path}")
    };
    let failed = !fired.failures.is_empty();
    let (kind, text) = (fired.output.word(), fired.output.text());
    let mut out = crate::output::stream::stdout();
    if args.format == Format::Json {
        let (steps, notes) = steps::views(&registry, &fired.trace, None, false);
        let (address, output) = (address.to_string(), text.to_string());
        let failures = failures::views(fired.failures);
        let view = FireView { version: VERSION, address, page: path, kind, output, steps, notes, failures };
        output::json(&mut out, &view)?;
    } else {
        let lead = if matches!(fired.output, Output::Stored(_)) { "in the site's store: " } else { "" };
        writeln!(out, "{lead}{}", text.trim())?;
        if args.steps {
            steps::write(&mut out, &fired.trace, None)?;
        }
        out.flush()?;
        failures::write(&path, &fired.failures)?;
    }
    out.flush()?;
    Ok(workshop::outcome(&registry, !failed))
}

/// The arguments as they were typed, each as what it is declared to be.
fn arguments(point: &Point, typed: &[String]) -> Result<Vec<(String, Value)>> {
    let address = point.address;
    let mut also: Vec<(&str, Option<&Value>)> = Vec::new();
    match address.kind {
        Kind::Filter => also.push(("value", point.schema())),
        Kind::Menu => also.extend(MENU_ARGUMENTS.iter().map(|name| (*name, None))),
        _ => {}
    }
    let typed: Vec<&str> = typed.iter().map(String::as_str).collect();
    let given = given::to_point(point, &typed, &also)?;
    if address.kind == Kind::Filter && !given.iter().any(|(name, _)| name == "value") {
        bail!("a filter needs something to filter: {}", command_line!["fire", address, "value=…"]);
    }
    let lacks = |input: &&truehook_core::link::Input| {
        input.field.default().is_none() && !given.iter().any(|(name, _)| input.field.name == *name)
    };
    if let Some(input) = point.passed().iter().find(lacks) {
        bail!(
            "{address} needs `{}`: {}",
            input.field.name,
            command_line!["fire", address, format!("{}=…", input.field.name)]
        );
    }
    Ok(given)
}
