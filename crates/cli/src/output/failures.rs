//! What went wrong while something was rendered.

use std::io::Write;

use anyhow::Result;
use serde::Serialize;
use truehook_stage::Failure;

use super::{narrow, style};

/// A failure, as JSON shows it.
#[derive(Serialize, schemars::JsonSchema)]
pub struct FailureView {
    point: Option<String>,
    source: Option<String>,
    file: Option<String>,
    line: Option<usize>,
    column: Option<usize>,
    message: String,
}

/// The failures of one page or point.
pub fn views(failures: Vec<Failure>) -> Vec<FailureView> {
    let view = |failure: Failure| {
        let (file, line, column) = match failure.place {
            Some((file, line, column)) => (Some(file), Some(line), Some(column)),
            None => (None, None, None),
        };
        FailureView { point: failure.point, source: failure.source, file, line, column, message: failure.message }
    };
    failures.into_iter().map(view).collect()
}

/// Tells them on standard error, so that a page on standard output stays a page.
pub fn write(path: &str, failures: &[Failure]) -> Result<()> {
    let mut out = crate::output::stream::stderr();
    for failure in failures {
        let place =
            failure.place.as_ref().map(|(file, line, column)| format!("{file}:{line}:{column}: ")).unwrap_or_default();
        let source = failure.source.as_ref().map(|source| format!("{source}: ")).unwrap_or_default();
        let point = match &failure.point {
            Some(point) => format!("  ({point} on {path})"),
            None => format!("  (on {path})"),
        };
        let (on, off) = (style::ERROR.render(), style::ERROR.render_reset());
        let line = format!("{on}failed{off}: {place}{source}{}{point}", failure.message);
        writeln!(out, "{}", narrow::line(&line, 8))?;
    }
    Ok(())
}
