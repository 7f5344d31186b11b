//! `show`: one point, with all that the layers say about it.

use std::io::Write;

use anyhow::{Result, bail};
use camino::Utf8Path;
use truehook_core::link::Registry;
use truehook_core::view::{PlaceView, PointView, PointsView, SlotView, VERSION};

use crate::Outcome;
use crate::args::{Format, ShowArgs};
use crate::output::{self, style};
use crate::workshop;

pub fn run(theme: Option<&Utf8Path>, args: &ShowArgs) -> Result<Outcome> {
    let registry = workshop::open(&workshop::find_theme(theme)?)?;
    let address = workshop::declared(&registry, &args.address)?;
    let Some(point) = registry.point(address) else { bail!("no layer declares `{address}`") };
    let view = PointView::new(&registry, point);
    let mut out = anstream::stdout().lock();
    match args.format {
        Format::Json => output::json(&mut out, &PointsView { version: VERSION, points: vec![view] })?,
        Format::Text => write(&mut out, &registry, &view)?,
    }
    out.flush()?;
    Ok(Outcome::Clean)
}

/// A line of the picture: a word, the layer, the place, and what to say.
fn line(out: &mut impl Write, word: &str, layer: &str, place: &str, rest: &str) -> Result<()> {
    let (on, off) = (style::QUIET.render(), style::QUIET.render_reset());
    write!(out, "  {on}{word:<9}{off} ")?;
    match (place, rest) {
        ("", "") => writeln!(out, "{layer}")?,
        (place, "") => writeln!(out, "{layer:<11} {place}")?,
        (place, rest) => writeln!(out, "{layer:<11} {place:<31} {on}{rest}{off}")?,
    }
    Ok(())
}

fn write(out: &mut impl Write, registry: &Registry, point: &PointView) -> Result<()> {
    let title = point.about.as_ref().or(point.label.as_ref()).cloned().unwrap_or_default();
    writeln!(out, "{}{}{}   {title}", style::POINT.render(), point.address, style::POINT.render_reset())?;
    let inputs = inputs(point);
    line(out, "declared", &point.layer, &at(&point.declared), &inputs.first().cloned().unwrap_or_default())?;
    for input in inputs.iter().skip(1) {
        line(out, "", "", "", input)?;
    }
    if let Some(renderer) = &point.renderer {
        line(out, "rendered", "", renderer, "")?;
    }
    let verb = if point.address.starts_with("filter:") { "through" } else { "placed" };
    for holder in &point.held_by {
        line(out, "held by", &holder.place.layer, &at(&holder.place), &holder.point)?;
    }
    let needs_none = point.address.starts_with("template:") || !point.held_by.is_empty();
    if point.placements.is_empty() && !needs_none {
        line(out, verb, "–", "", "nothing places it")?;
    }
    for placement in &point.placements {
        let pages = pages(registry, &placement.reached_by);
        line(out, verb, &placement.place.layer, &at(&placement.place), &pages)?;
    }
    for fill in &point.fills {
        let when = fill.when.as_ref().map(|when| format!("when {when}")).unwrap_or_default();
        line(out, "filled", &fill.place.layer, &at(&fill.place), format!("{}  {when}", fill.what()).trim_end())?;
    }
    if !point.slots.is_empty() {
        writeln!(out, "  {}runs{}", style::QUIET.render(), style::QUIET.render_reset())?;
    }
    for slot in &point.slots {
        let text = format!("  {:>5}     {:<11} {:<31} {}", slot.priority, slot.layer, slot.callback, terms(slot));
        writeln!(out, "{}", text.trim_end())?;
    }
    Ok(())
}

/// Under which terms an attachment runs: its constraints and its condition.
fn terms(slot: &SlotView) -> String {
    let mut terms: Vec<String> = slot.before.iter().map(|name| format!("before {name}")).collect();
    terms.extend(slot.after.iter().map(|name| format!("after {name}")));
    terms.extend(slot.when.iter().map(|when| format!("when {when}")));
    if slot.state != "on" {
        terms.push("never runs: its callback or condition is broken (truehook check)".into());
    }
    terms.join(", ")
}

fn at(place: &PlaceView) -> String {
    format!("{}:{}", place.file, place.line)
}

/// The variables that it has, each with its type and default.
fn inputs(point: &PointView) -> Vec<String> {
    let component = point.renderer.is_some();
    let named = |at: usize| match (at, component) {
        (0, true) => "inputs: ",
        (0, false) => "args: ",
        _ => "        ",
    };
    let one = |(at, input): (usize, &truehook_core::view::FieldView)| {
        let type_word = input.type_word.as_deref().unwrap_or("anything");
        let default = match &input.default {
            Some(default) => format!(" = {default}"),
            None => ", needed".to_string(),
        };
        format!("{}{} ({type_word}{default})", named(at), input.name)
    };
    point.inputs.iter().enumerate().map(one).collect()
}

fn pages(registry: &Registry, types: &[String]) -> String {
    let all = registry.type_names(registry.templated_types());
    match types {
        [] => "reached by no page".into(),
        types if types.len() == all.len() => "reached by every page".into(),
        types => format!("reached by pages of type {}", types.join(", ")),
    }
}
