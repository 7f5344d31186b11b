//! `desk`: what site editors get.

use std::io::Write;
use std::sync::Arc;

use anyhow::{Result, bail};
use camino::Utf8Path;
use serde::Serialize;
use truehook_core::link::body_region;
use truehook_core::view::{ChoiceView, Control, DeskView, FormFieldView, PointView, VERSION};
use truehook_sheets::{DeskSheet, Shown, Staged, markup};
use truehook_stage::{Manner, Stage, map};

use crate::Outcome;
use crate::args::{DeskArgs, Format};
use crate::output::{self, count, style, table};
use crate::sheets;
use crate::workshop;

/// What `desk --format json` prints.
#[derive(Serialize, schemars::JsonSchema)]
struct View {
    version: u32,
    #[serde(flatten)]
    desk: DeskView,
}

/// The form of what `--format json` prints.
pub fn form() -> schemars::Schema {
    output::form::<View>()
}

pub fn run(theme: Option<&Utf8Path>, args: &DeskArgs) -> Result<Outcome> {
    let folder = workshop::find_theme(theme)?;
    let rendered = args.html.is_some() || args.format == Format::Json;
    let files = workshop::files(&folder)?;
    let workers = rendered.then(|| workshop::workers(&folder, &files, None, None)).transpose()?;
    let registry = Arc::new(workshop::open_files(&folder, &files)?);
    let mut view = DeskView::new(&registry);
    let stage = Stage::new(registry.clone());
    let Some(workers) = workers else {
        let mut out = crate::output::stream::stdout();
        write(&mut out, &view)?;
        out.flush()?;
        return Ok(workshop::outcome(&registry, true));
    };
    let workers = workers.over(registry.clone());
    let staged = Staged::all(&registry, &stage, &workers, &view)?;
    for one in &staged {
        let (component, offer) = one.position();
        view.components[component].offers[offer].html = markup(&one.shown());
    }
    match &args.html {
        None => {
            let mut out = crate::output::stream::stdout();
            output::json(&mut out, &View { version: VERSION, desk: view })?;
            out.flush()?;
        }
        Some(file) => {
            let path = workshop::first_page(&stage)?;
            let Some(page) = workers.page(&path, &Manner::watched())? else { bail!("there is no page {path}") };
            let root = map::map(&registry, &page);
            let shown: Vec<Shown<'_>> = staged.iter().map(Staged::shown).collect();
            sheets::write(file, &DeskSheet::new(&registry, &view, (&path, &page, &root), &shown).html()?)?;
        }
    }
    Ok(workshop::outcome(&registry, true))
}

fn write(out: &mut impl Write, view: &DeskView) -> Result<()> {
    title(out, "where", "regions, areas and menus that site editors fill")?;
    let rows = view.spots.iter().map(|spot| {
        vec![spot.address.clone(), spot.label.clone().unwrap_or_default(), held(spot), spot.presence.pages("")]
    });
    table::write(out, &["spot", "label", "now", "on"], 1, rows)?;
    writeln!(out)?;
    title(out, "what", "components that they can pick, with what a form asks for")?;
    for component in &view.components {
        let label = component.label.as_deref().or(component.about.as_deref()).unwrap_or_default();
        line(out, 2, &component.address, label)?;
        for offer in &component.offers {
            line(out, 4, "offer", &offer.label)?;
        }
        for input in &component.inputs {
            let label = input.label.as_ref().filter(|label| **label != input.name);
            let label = label.map_or(String::new(), |label| format!("{label}: "));
            line(out, 4, &input.name, &format!("{label}{}", field(input)))?;
        }
    }
    if !view.options.is_empty() {
        writeln!(out)?;
        title(out, "options", "what they choose for the whole site")?;
    }
    for option in &view.options {
        let label = option.label.clone().unwrap_or_default();
        line(out, 2, &option.address, &format!("{label}: {}", field(&option.field)))?;
    }
    let pictures = view.pictures.iter().map(|picture| (picture.label.clone(), picture.about.clone()));
    let widths = view.widths.iter().map(|(name, width)| (name.clone(), format!("{width} pixels")));
    let named = |all: &[ChoiceView]| {
        all.iter().map(|one| (one.label.clone(), one.value.clone().unwrap_or_default())).collect::<Vec<_>>()
    };
    let groups = [
        ("colours", named(&view.palette)),
        ("letters", named(&view.sizes)),
        ("extents", named(&view.extents)),
        ("pictures", pictures.chain(widths).collect()),
    ];
    for (word, all) in groups.iter().filter(|(_, all)| !all.is_empty()) {
        writeln!(out)?;
        title(out, word, "")?;
        for (name, value) in all {
            line(out, 2, name, value)?;
        }
    }
    if let Some(file) = &view.writing_view {
        writeln!(out)?;
        title(out, "writing", file)?;
    }
    if !view.hidden.is_empty() {
        writeln!(out)?;
        title(out, "not offered", "")?;
    }
    for (reason, addresses) in view.hidden_by_reason() {
        line(out, 2, &format!("{reason}:"), &addresses.join(", "))?;
    }
    let offers = view.components.iter().map(|component| component.offers.len()).sum();
    table::note(out, &format!("\n{}; --html FILE shows how they look", count(offers, "offer")))
}

fn title(out: &mut impl Write, word: &str, about: &str) -> Result<()> {
    let (on, off) = (style::POINT.render(), style::POINT.render_reset());
    let (quiet, plain) = (style::QUIET.render(), style::QUIET.render_reset());
    let width = usize::from(table::width()).max(24);
    match about {
        "" => writeln!(out, "{on}{word}{off}")?,
        about if word.len() + 2 + about.chars().count() <= width => {
            writeln!(out, "{on}{word}{off}  {quiet}{about}{plain}")?
        }
        about => {
            let options = textwrap::Options::new(width).initial_indent("  ").subsequent_indent("  ");
            writeln!(out, "{on}{word}{off}\n{quiet}{}{plain}", textwrap::fill(about, options))?;
        }
    }
    Ok(())
}

/// A name and what is said of it, folded to the window.
fn line(out: &mut impl Write, indent: usize, name: &str, said: &str) -> Result<()> {
    let width = usize::from(table::width()).max(24);
    let lead = format!("{}{name:<20}  ", " ".repeat(indent));
    let rest = " ".repeat(indent + 4);
    let folded = textwrap::fill(&format!("{lead}{said}"), textwrap::Options::new(width).subsequent_indent(&rest));
    writeln!(out, "{}", folded.trim_end())?;
    Ok(())
}

fn held(spot: &PointView) -> String {
    let mut fills: Vec<&str> = spot.fills.iter().map(|fill| fill.what()).collect();
    if spot.address == body_region().to_string() {
        fills.insert(0, "the page's text");
    }
    if fills.is_empty() { "empty".into() } else { fills.join("\n") }
}

/// How a form shows a field, in words.
fn field(field: &FormFieldView) -> String {
    let control = match field.control {
        Control::Line => "a line of text",
        Control::Markup => "text",
        Control::Number => "a number",
        Control::Switch => "yes or no",
        Control::Choice => "one of",
        Control::Colour => "a colour:",
        Control::List => "a list",
        Control::File => "a file",
        Control::Page => "a page",
        Control::Date => "a day",
        _ => "a value",
    };
    let choices: Vec<&str> = field.choices.iter().map(|choice| choice.label.as_str()).collect();
    let default = match &field.default {
        None => ", needed".to_string(),
        Some(value) if value.as_str() == Some("") => String::new(),
        Some(value) => format!(", else {value}"),
    };
    let choices = if choices.is_empty() { String::new() } else { format!(" {}", choices.join(", ")) };
    format!("{control}{choices}{default}")
}
