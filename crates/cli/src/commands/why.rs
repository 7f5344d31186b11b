//! `why`: why a point or callback does, or does not, show up; the chain link by link.

use std::io::Write;
use std::sync::Arc;

use anyhow::{Result, bail};
use camino::Utf8Path;
use truehook_core::link::{Callback, Registry};
use truehook_core::names::{hint, nearest};
use truehook_core::rules::is_command;
use truehook_core::source::Place;
use truehook_core::view::PlaceView;
use truehook_core::why::{self, Asked, CallbackState, LinkState, Why, WhyLink};
use truehook_stage::Stage;
use truehook_stage::workers::Workers;

use crate::Outcome;
use crate::args::{Format, WhyArgs};
use crate::output::{self, narrow, style, table};
use crate::workshop;

pub fn run(theme: Option<&Utf8Path>, args: &WhyArgs) -> Result<Outcome> {
    let folder = workshop::find_theme(theme)?;
    let files = workshop::files(&folder)?;
    let workers = args.page.as_ref().map(|_| workshop::workers(&folder, &files, None, Some(1))).transpose()?;
    let registry = Arc::new(workshop::open_files(&folder, &files)?);
    let workers = workers.map(|workers| workers.over(registry.clone()));
    let asked = |groups: &[Vec<Place>]| match (&args.page, &workers) {
        (Some(path), Some(workers)) => asked(&registry, workers, path, groups).map(Some),
        _ => Ok(None),
    };
    let why = match args.what.contains('#') {
        true => match why::unparsed_callback(&registry, &args.what) {
            Some(why) => why,
            None => {
                let callback = callback(&registry, &args.what)?;
                let all = [why::attachments(&registry, callback)];
                let asked = asked(&all)?;
                why::callback(&registry, callback, asked.as_ref())
            }
        },
        false => {
            let address = workshop::address(&args.what)?;
            let slots = registry.point(address).map_or(&[][..], |point| &point.slots);
            let each: Vec<Vec<Place>> = slots.iter().map(|slot| vec![slot.place]).collect();
            let asked = asked(&each)?;
            why::point(&registry, address, asked.as_ref())
        }
    };
    let mut out = crate::output::stream::stdout();
    match args.format {
        Format::Json => output::json(&mut out, &why)?,
        Format::Text => write(&mut out, &why)?,
    }
    out.flush()?;
    Ok(workshop::outcome(&registry, why.shows))
}

/// A callback that somebody typed.
fn callback(registry: &Registry, name: &str) -> Result<Callback> {
    if let Some(found) = registry.callback_named(name, registry.project().top()) {
        return Ok(found);
    }
    let all: Vec<String> = (0..registry.project().files.len())
        .map(|at| truehook_core::source::FileId(at as u32))
        .filter_map(|file| Some((file, registry.module(file)?)))
        .flat_map(|(file, module)| module.exports.iter().map(move |export| Callback { file, export: export.name }))
        .map(|callback| registry.callback_name(callback))
        .collect();
    let near = nearest(name, all.iter().map(String::as_str)).map(str::to_string);
    bail!("no module exports `{name}`{}", hint(&near));
}

/// A page, rendered to see what comes of it.
fn asked(registry: &Arc<Registry>, workers: &Workers, path: &str, groups: &[Vec<Place>]) -> Result<Asked> {
    let stage = Stage::new(registry.clone());
    let path = workshop::page(&stage, path)?;
    let asked = stage.asked_by(&path, groups, |manner| workers.page(&path, &manner))?;
    let Some(asked) = asked else { bail!("there is no page {path}") };
    Ok(asked)
}

fn write(out: &mut impl Write, why: &Why) -> Result<()> {
    let (on, off) = match why.shows {
        true => (style::NEXT.render(), style::NEXT.render_reset()),
        false => (style::ERROR.render(), style::ERROR.render_reset()),
    };
    writeln!(out, "{}\n", narrow::line(&format!("{on}{}{off}", why.answer), 2))?;
    let widest = |width: fn(&PlaceView) -> usize, least: usize| {
        let places = why.chain.iter().flat_map(|link| &link.lines).filter_map(|line| line.place.as_ref());
        output::column(places.map(width).max().unwrap_or(0).max(least))
    };
    let widths = Widths {
        name: why.chain.iter().map(|link| link.name.word().len()).max().unwrap_or(0).max(8),
        place: widest(|place| at_place(place).chars().count(), 28),
        layer: widest(|place| place.layer.chars().count(), 11),
    };
    for (at, link) in why.chain.iter().enumerate() {
        write_link(out, link, &widths, why.broken == Some(at))?;
    }
    let told: Vec<_> = why.callbacks.iter().filter(|callback| callback.state != CallbackState::Attached).collect();
    if !told.is_empty() {
        writeln!(out)?;
    }
    let longest = output::column(told.iter().map(|callback| callback.callback.chars().count()).max().unwrap_or(0));
    for callback in told {
        let (dim, end) = (style::QUIET.render(), style::QUIET.render_reset());
        let place = at_place(&callback.place);
        let line =
            format!("  {:<longest$}  {}  {dim}{} {place}{end}", callback.callback, callback.text, callback.place.layer);
        writeln!(out, "{}", narrow::line(&line, 4))?;
    }
    let mut before = "";
    for mend in &why.mends {
        let (dim, end) = (style::QUIET.render(), style::QUIET.render_reset());
        let word = if is_command(mend) { "mend" } else { "advice" };
        let lead = if word == before { "    or: ".to_string() } else { format!("\n  {word}: ") };
        let mend = match word {
            "mend" => output::command(mend, 8, table::window().unwrap_or(usize::MAX >> 1)).trim_start().to_string(),
            _ => mend.clone(),
        };
        writeln!(out, "{}", narrow::line(&format!("{dim}{lead}{end}{mend}"), 10))?;
        before = word;
    }
    Ok(())
}

/// The columns of the chain.
struct Widths {
    name: usize,
    place: usize,
    layer: usize,
}

fn write_link(out: &mut impl Write, link: &WhyLink, widths: &Widths, here: bool) -> Result<()> {
    let Widths { name: width, place: longest, layer: wide } = *widths;
    let (dim, end) = (style::QUIET.render(), style::QUIET.render_reset());
    if link.state == LinkState::Unknown {
        return Ok(writeln!(out, "  {dim}{:<width$}{end}   –", link.name.word())?);
    }
    for (at, line) in link.lines.iter().enumerate() {
        let name = if at == 0 { link.name.word() } else { "" };
        let (text, is_last) = (&line.text, at + 1 == link.lines.len());
        // What is broken beside the first has its own reason; that of the first is the answer.
        let reason = link.reason.as_deref().filter(|_| !here && is_last);
        let text = reason.map_or(text.clone(), |reason| format!("{}  {reason}", text.trim_end()));
        // The mark stands at the last line of its link, behind all that is said of it.
        let mark = match here && is_last {
            true => format!("   {}← here{}", style::ERROR.render(), style::ERROR.render_reset()),
            false => String::new(),
        };
        let head = format!("  {dim}{name:<width$}{end}   ");
        let place = line
            .place
            .as_ref()
            .map_or(String::new(), |place| format!("{:<longest$}  {:<wide$} ", at_place(place), place.layer));
        let whole = format!("{head}{}{mark}", format!("{place}{text}").trim_end());
        if narrow::fits(&whole) {
            writeln!(out, "{whole}")?;
            continue;
        }
        // A narrow window has no columns: what is said of a place stands below it.
        if line.place.is_some() {
            writeln!(out, "{head}{}", place.trim_end())?;
        }
        let head = if line.place.is_some() { " ".repeat(width + 5) } else { head };
        writeln!(out, "{}", narrow::line(&format!("{head}{}{mark}", text.trim_end()), width + 5))?;
    }
    Ok(())
}

fn at_place(place: &PlaceView) -> String {
    format!("{}:{}", place.file, place.line)
}
