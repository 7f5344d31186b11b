//! What `check` tells, in the form that was asked for: of one theme, or of several together.

use std::io::Write;
use std::time::Duration;

use anyhow::Result;
use camino::Utf8Path;
use truehook_core::link::Registry;
use truehook_core::rules::{Checked, Finding, Level};
use truehook_core::view::{CheckView, FindingView, Summary, VERSION};

use super::{findings, junit, sarif};
use crate::Outcome;
use crate::args::{CheckArgs, Report};

/// What is told of all themes.
pub struct Told<'a> {
    args: &'a CheckArgs,
    several: bool,
    coloured: bool,
    json: CheckView,
    sarif: Vec<sarif::Run>,
    junit: Vec<junit::Suite>,
    fails: bool,
}

impl<'a> Told<'a> {
    pub fn new(args: &'a CheckArgs, several: bool) -> Told<'a> {
        let json = CheckView { version: VERSION, findings: Vec::new(), summary: Summary::default() };
        let coloured = super::coloured(&std::io::stdout());
        Told { args, several, coloured, json, sarif: Vec::new(), junit: Vec::new(), fails: false }
    }

    /// Tells of one theme.
    pub fn tell(
        &mut self,
        out: &mut impl Write,
        registry: &Registry,
        checked: &Checked,
        folder: &Utf8Path,
        time: Duration,
    ) -> Result<()> {
        self.fails |= checked.fails();
        let notes = self.args.notes;
        let listed = checked.findings.iter().filter(|finding: &&Finding| notes || finding.level > Level::Note);
        let summary = Summary::new(registry, checked);
        match self.args.format {
            Report::Text => {
                let near = if self.several { folder } else { Utf8Path::new("") };
                findings::write(out, self.coloured, registry, listed, near)?;
                findings::write_summary(out, registry, &summary, &checked.below_in, notes, time)?;
            }
            Report::Json => {
                let name = registry.project().layer(registry.project().top()).name.to_string();
                let theme = self.several.then_some(name);
                let views =
                    listed.map(|finding| FindingView { theme: theme.clone(), ..FindingView::new(registry, finding) });
                self.json.findings.extend(views);
                self.json.summary.add(summary);
            }
            Report::Sarif => self.sarif.push(sarif::run(registry, listed)),
            Report::Junit => self.junit.push(junit::Suite::new(registry, listed, checked.fail_on, time)),
        }
        Ok(())
    }

    /// Prints what is told of all themes together.
    pub fn end(self, out: &mut impl Write) -> Result<Outcome> {
        match self.args.format {
            Report::Text => {}
            Report::Json => super::json(out, &self.json)?,
            Report::Sarif => super::json(out, &sarif::log(self.sarif))?,
            Report::Junit => out.write_all(junit::document(&self.junit)?.as_bytes())?,
        }
        out.flush()?;
        Ok(if self.fails { Outcome::Findings } else { Outcome::Clean })
    }
}
