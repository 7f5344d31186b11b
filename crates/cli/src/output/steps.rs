//! What ran, in order: for `trace` and `fire`.

use std::io::Write;
use std::time::Duration;

use anyhow::Result;
use serde::Serialize;
use truehook_core::address::Address;
use truehook_core::link::Registry;
use truehook_core::view::PlaceView;
use truehook_stage::{Note, Step, StepState, StepValues, Trace};

use super::style;

/// A step, as JSON shows it.
#[derive(Serialize, schemars::JsonSchema)]
pub struct StepView {
    point: String,
    callback: String,
    /// Where it is attached; nothing for what renders a component.
    place: Option<PlaceView>,
    state: &'static str,
    /// Where times are told: they differ from run to run.
    #[serde(skip_serializing_if = "Option::is_none")]
    milliseconds: Option<f64>,
    before: Option<String>,
    after: Option<String>,
}

/// A note, as JSON shows it.
#[derive(Serialize, schemars::JsonSchema)]
pub struct NoteView {
    /// How many steps came before it.
    after: usize,
    value: String,
}

/// What ran, as JSON shows it; only at one point, if one is named, and with the times, if they are told.
pub fn views(registry: &Registry, trace: &Trace, only: Option<Address>, timed: bool) -> (Vec<StepView>, Vec<NoteView>) {
    let steps = chosen(trace, only).into_iter().map(|(_, step)| StepView {
        point: step.point.to_string(),
        callback: step.name.to_string(),
        place: step.slot.map(|slot| PlaceView::new(registry, slot.file, registry.span(slot))),
        state: step.state.word(),
        milliseconds: timed.then(|| milliseconds(step.time)),
        before: step.values.as_ref().map(|values| values.before.clone()).filter(|text| !text.is_empty()),
        after: step.values.as_ref().map(|values| values.after.clone()),
    });
    let notes = trace.notes.iter().map(|note| NoteView { after: note.after, value: note.text.clone() });
    (steps.collect(), notes.collect())
}

fn chosen(trace: &Trace, only: Option<Address>) -> Vec<(usize, &Step)> {
    trace.steps.iter().enumerate().filter(|(_, step)| only.is_none_or(|only| only == step.point)).collect()
}

fn milliseconds(time: Duration) -> f64 {
    (time.as_secs_f64() * 100_000.0).round() / 100.0
}

/// Writes what ran as records: a number, the point, the callback, its place, the state, the milliseconds, what it was
/// given, and what it gave. A note is a record without a number.
pub fn write_records(out: &mut impl Write, registry: &Registry, trace: &Trace, only: Option<Address>) -> Result<()> {
    let mut rows = Vec::new();
    let note = |note: &Note| [vec!["".into(), "note".into()], vec![String::new(); 5], vec![note.text.clone()]].concat();
    let mut notes = trace.notes.iter().peekable();
    for (at, step) in chosen(trace, only) {
        while let Some(told) = notes.next_if(|told| told.after <= at) {
            rows.push(note(told));
        }
        let place = step.slot.map(|slot| PlaceView::new(registry, slot.file, registry.span(slot)));
        let mut row = vec![
            (at + 1).to_string(),
            step.point.to_string(),
            step.name.to_string(),
            place.map_or(String::new(), |place| format!("{}:{}", place.file, place.line)),
            step.state.word().to_string(),
            milliseconds(step.time).to_string(),
        ];
        row.extend(
            step.values.as_ref().map_or([String::new(), String::new()], |StepValues { before, after, .. }| {
                [before.clone(), after.clone()]
            }),
        );
        rows.push(row);
    }
    rows.extend(notes.map(note));
    super::table::write_records(out, &rows)
}

/// Prints what ran, with what each step was given and what came of it.
pub fn write(out: &mut impl Write, trace: &Trace, only: Option<Address>) -> Result<()> {
    let steps = chosen(trace, only);
    let widest = |of: fn(&Step) -> usize| steps.iter().map(|(_, step)| of(step)).max().unwrap_or(0);
    let points = widest(|step| step.point.to_string().chars().count());
    let names = widest(|step| step.name.chars().count());
    let (on, off) = (style::QUIET.render(), style::QUIET.render_reset());
    let mut notes: Vec<&Note> = trace.notes.iter().collect();
    for (at, step) in steps {
        write_notes(out, &mut notes, at)?;
        let state = match step.state {
            StepState::Off => "off, its condition does not hold".to_string(),
            StepState::Failed => format!(
                "{}failed{}   {:>7.2} ms",
                style::ERROR.render(),
                style::ERROR.render_reset(),
                milliseconds(step.time)
            ),
            state => format!("{:<8} {:>7.2} ms", state.word(), milliseconds(step.time)),
        };
        let point = step.point.to_string();
        let (hot, cold) = (style::POINT.render(), style::POINT.render_reset());
        // The longest state, which says why, and the blanks between.
        match 6 + points + 2 + names + 2 + 34 <= usize::from(super::table::width()) {
            true => writeln!(out, "{:>4}  {hot}{point:<points$}{cold}  {:<names$}  {state}", at + 1, step.name)?,
            false => {
                writeln!(out, "{:>4}  {hot}{point}{cold}", at + 1)?;
                writeln!(out, "      {}", step.name)?;
                writeln!(out, "        {state}")?;
            }
        }
        if let Some(StepValues { before, after, .. }) = &step.values {
            let width = usize::from(super::table::width()).saturating_sub(16);
            if let Some(changes) = super::changed::lines(before, after, width).filter(|all| !all.is_empty()) {
                for (at, change) in changes.iter().enumerate() {
                    writeln!(out, "        {on}{:<5}{off}  {change}", if at == 0 { "did" } else { "" })?;
                }
                continue;
            }
            let (given, gave) = pair(before, after);
            if !before.is_empty() {
                writeln!(out, "        {on}given{off}  {given}")?;
            }
            match (step.state, before == after, after.is_empty()) {
                // A listener is given no value that it could leave as it is.
                (StepState::Ran, true, empty) if !empty || !before.is_empty() => {
                    writeln!(out, "        {on}gave   the same{off}")?
                }
                (StepState::Ran, _, true) => writeln!(out, "        {on}gave{off}   nothing")?,
                (StepState::Ran, ..) => writeln!(out, "        {on}gave{off}   {gave}")?,
                _ => {}
            }
        }
    }
    write_notes(out, &mut notes, usize::MAX)
}

fn write_notes(out: &mut impl Write, notes: &mut Vec<&Note>, before: usize) -> Result<()> {
    while let Some(note) = notes.first().filter(|note| note.after <= before) {
        writeln!(out, "      {}note{}  {}", style::NEXT.render(), style::NEXT.render_reset(), short(&note.text))?;
        notes.remove(0);
    }
    Ok(())
}

/// Two values on a line each. Where they are long, what they have in common at their beginning is cut
/// short, so that the difference shows.
fn pair(before: &str, after: &str) -> (String, String) {
    const LEAD: usize = 24;
    let line = |text: &str| text.split_whitespace().collect::<Vec<_>>().join(" ");
    let (before, after) = (line(before), line(after));
    let room = usize::from(super::table::width()).saturating_sub(16);
    let same = before.chars().zip(after.chars()).take_while(|(a, b)| a == b).count();
    let skip = same.saturating_sub(LEAD);
    let long = before.chars().count() > room || after.chars().count() > room;
    if before == after || same + LEAD < room || !long {
        return (short(&before), short(&after));
    }
    let rest = |text: &str| short(&format!("…{}", text.chars().skip(skip).collect::<String>()));
    (rest(&before), rest(&after))
}

/// A value on one line, cut where it is long.
fn short(text: &str) -> String {
    let line: Vec<&str> = text.split_whitespace().collect();
    let line = line.join(" ");
    let room = usize::from(super::table::width()).saturating_sub(16);
    if line.chars().count() <= room {
        return line;
    }
    format!("{}…", line.chars().take(room).collect::<String>())
}
