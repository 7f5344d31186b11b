//! `show`: one point, with all that the layers say about it.

use std::io::Write;

use anyhow::{Result, bail};
use camino::Utf8Path;
use serde::Serialize;
use truehook_core::link::Registry;
use truehook_core::names::{hint, nearest};
use truehook_core::read::FileKind;
use truehook_core::rules;
use truehook_core::view::{
    AssetView, FeatureView, FieldView, FillView, PlaceView, PointView, PointsView, SlotState, SlotView, SourcesView,
    ThemeView, VERSION, VariableView,
};

use crate::Outcome;
use crate::args::{Format, ShowArgs};
use crate::output::{self, count, style, table};
use crate::workshop;

/// The forms of what `--format json` prints: of points, of the theme itself, of sources.
pub fn forms() -> [schemars::Schema; 3] {
    [output::form::<PointsView>(), output::form::<ThemeItself>(), output::form::<SourcesView>()]
}

pub fn run(theme: Option<&Utf8Path>, args: &ShowArgs) -> Result<Outcome> {
    let registry = workshop::open(&workshop::find_theme(theme)?)?;
    let Some(address) = &args.address else { return theme_itself(&registry, args) };
    if args.source {
        return sources(&registry, address, args);
    }
    let address = workshop::declared(&registry, address)?;
    let Some(point) = registry.point(address) else { bail!("no layer declares `{address}`") };
    let view = PointView::whole(&registry, point);
    let mut out = crate::output::stream::stdout();
    match args.format {
        Format::Json => output::json(&mut out, &PointsView { version: VERSION, points: vec![view] })?,
        Format::Text => write(&mut out, &view)?,
    }
    out.flush()?;
    Ok(workshop::outcome(&registry, true))
}

/// What `show --format json` prints of the theme itself.
#[derive(Serialize, schemars::JsonSchema)]
struct ThemeItself {
    version: u32,
    theme: ThemeView,
}

/// The theme: what it is, what it builds on, and what it has.
fn theme_itself(registry: &Registry, args: &ShowArgs) -> Result<Outcome> {
    let checked = rules::check(registry);
    let theme = ThemeView::new(registry, Some(&checked));
    let mut out = crate::output::stream::stdout();
    match args.format {
        Format::Json => output::json(&mut out, &ThemeItself { version: VERSION, theme })?,
        Format::Text => write_theme(&mut out, &theme)?,
    }
    out.flush()?;
    Ok(workshop::outcome(registry, true))
}

fn write_theme(out: &mut impl Write, theme: &ThemeView) -> Result<()> {
    let version = theme.version.as_deref().unwrap_or_default();
    let (on, off) = (style::POINT.render(), style::POINT.render_reset());
    writeln!(out, "{on}{}{off} {version}   {}", theme.title(), theme.about.as_deref().unwrap_or_default())?;
    for layer in &theme.layers {
        let version = layer.version.as_deref().unwrap_or("–");
        let wanted = layer.wanted.as_ref().map(|wanted| format!("wants {wanted}")).unwrap_or_default();
        let label = layer.label.as_ref().filter(|label| **label != layer.name).map(|label| format!(", {label}"));
        let name = format!("{} {version}{}", layer.name, label.unwrap_or_default());
        line(out, &layer.role, "", &name, &wanted)?;
    }
    for (at, count) in theme.counts.iter().enumerate() {
        let word = if at == 0 { "points" } else { "" };
        let own = if count.own == 0 { "none its own".to_string() } else { format!("{} its own", count.own) };
        line(out, word, &count.kind, &format!("{:>3}", count.all), &own)?;
    }
    let [made, replaced, detached] = theme.attachments;
    let attached = format!("{}, {replaced} in the place of others, {detached} taken away", count(made, "attachment"));
    line(out, "attaches", "", &attached, "")?;
    line(out, "templates", "", &theme.templates.to_string(), "")?;
    line(out, "pages", "", &theme.types.join(", "), "")?;
    if let Some([errors, warnings, notes]) = theme.findings {
        let all = [count(errors, "error"), count(warnings, "warning"), count(notes, "note")].join(", ");
        line(out, "check", "", &all, "")?;
    }
    Ok(())
}

/// The texts behind a point, or of a template.
fn sources(registry: &Registry, asked: &str, args: &ShowArgs) -> Result<Outcome> {
    let view = match asked.ends_with(".html") {
        true => SourcesView::of_template(registry, asked),
        false => {
            let address = workshop::declared(registry, asked)?;
            let Some(point) = registry.point(address) else { bail!("no layer declares `{address}`") };
            SourcesView::of_point(registry, point)
        }
    };
    if view.sources.is_empty() && asked.ends_with(".html") {
        let known = registry.project().files.iter().filter(|file| file.kind == FileKind::Template);
        let near = nearest(asked, known.map(|file| file.name())).map(str::to_string);
        bail!("no layer has a template {}{}", asked, hint(&near));
    }
    let mut out = crate::output::stream::stdout();
    if args.format == Format::Json {
        output::json(&mut out, &view)?;
        return Ok(workshop::outcome(registry, true));
    }
    if view.sources.is_empty() {
        writeln!(out, "no template renders {}, and no callback runs there", asked)?;
    }
    for (at, source) in view.sources.iter().enumerate() {
        let (on, off) = (style::POINT.render(), style::POINT.render_reset());
        let between = if at > 0 { "\n" } else { "" };
        writeln!(out, "{between}{on}{}{off}  {}", source.layer, source.file)?;
        writeln!(out, "{}", source.text.trim_end())?;
    }
    out.flush()?;
    Ok(workshop::outcome(registry, true))
}

/// A line of the picture: a word, the layer, the place, and what to say. What doesn't fit in the window goes below.
fn line(out: &mut impl Write, word: &str, layer: &str, place: &str, rest: &str) -> Result<()> {
    let (on, off) = (style::QUIET.render(), style::QUIET.render_reset());
    let width = usize::from(table::width()).max(30);
    let indent = 12;
    write!(out, "  {on}{word:<9}{off} ")?;
    let (layer_wide, place_wide) = (11.max(layer.chars().count()), 31.max(place.chars().count()));
    let whole = indent + layer_wide + 1 + place_wide + 1 + rest.chars().count();
    match (place, rest) {
        ("", "") => writeln!(out, "{}", folded(layer, indent, width))?,
        (place, "") if indent + layer_wide + 1 + place.chars().count() <= width => {
            writeln!(out, "{layer:<11} {place}")?
        }
        (place, "") => writeln!(out, "{}", folded(format!("{layer} {place}").trim(), indent, width))?,
        (place, rest) if whole <= width => writeln!(out, "{layer:<11} {place:<31} {on}{rest}{off}")?,
        (place, rest) => {
            writeln!(out, "{}", folded(format!("{layer} {place}").trim(), indent, width))?;
            let indent = indent + 2;
            writeln!(out, "{}{on}{}{off}", " ".repeat(indent), folded(rest, indent, width))?;
        }
    }
    Ok(())
}

/// A text that begins behind some blanks, in as many lines as it takes.
fn folded(text: &str, indent: usize, width: usize) -> String {
    let lead = " ".repeat(indent);
    let options = textwrap::Options::new(width).initial_indent(&lead).subsequent_indent(&lead);
    let options = options.word_splitter(textwrap::WordSplitter::NoHyphenation);
    textwrap::fill(text, options).trim_start().to_string()
}

fn write(out: &mut impl Write, point: &PointView) -> Result<()> {
    let title = point.about.as_ref().or(point.label.as_ref()).cloned().unwrap_or_default();
    let (on, off) = (style::POINT.render(), style::POINT.render_reset());
    let width = usize::from(table::width()).max(30);
    match point.address.chars().count() + 3 + title.chars().count() <= width {
        _ if title.is_empty() => writeln!(out, "{on}{}{off}", point.address)?,
        true => writeln!(out, "{on}{}{off}   {title}", point.address)?,
        false => writeln!(out, "{on}{}{off}\n  {}", point.address, folded(&title, 2, width))?,
    }
    let said = said(point);
    line(out, "declared", &point.layer, &at(&point.declared), &said.first().cloned().unwrap_or_default())?;
    for more in said.iter().skip(1) {
        line(out, "", "", "", more)?;
    }
    match point.renderers.as_slice() {
        [] => {}
        [one] => line(out, "rendered", &one.layer, &one.name, "")?,
        [first, covered @ ..] => {
            line(out, "rendered", &first.layer, &first.name, "in force")?;
            for below in covered {
                line(out, "", &below.layer, &below.name, "covered")?;
            }
        }
    }
    for (word, wrap) in [("wrap", &point.wrap), ("its title", &point.wrap_title)] {
        if let Some(wrap) = wrap {
            line(out, word, "", wrap, "")?;
        }
    }
    if !point.holds.is_empty() {
        line(out, "holds", "", &point.holds.join(", "), "")?;
    }
    for offer in &point.offers {
        line(out, "offered", "", if offer.is_empty() { "without a label" } else { offer }, "")?;
    }
    if !point.needs.is_empty() {
        line(out, "needs", "", &point.needs.join(", "), "")?;
    }
    match (&point.asset, &point.feature) {
        (Some(asset), _) => write_asset(out, point, asset)?,
        (_, Some(feature)) => write_feature(out, feature)?,
        _ => write_places(out, point)?,
    }
    for fill in &point.fills {
        write_fill(out, "filled", fill, 0)?;
    }
    if !point.slots.is_empty() {
        writeln!(out, "  {}runs{}", style::QUIET.render(), style::QUIET.render_reset())?;
    }
    for slot in point.slots.iter() {
        let number = if slot.state == SlotState::Detached { "off".to_string() } else { slot.priority.to_string() };
        line(out, &format!("{number:>5}"), &slot.layer, &slot.callback, &terms(slot))?;
    }
    for (at, group) in point.variables.chunk_by(|a, b| root(&a.name) == root(&b.name)).enumerate() {
        let names: Vec<String> = group.iter().map(variable).collect();
        for (line_at, names) in names.chunks(4).enumerate() {
            let word = if at == 0 && line_at == 0 { "sees" } else { "" };
            line(out, word, if line_at == 0 { root(&group[0].name) } else { "" }, &names.join(", "), "")?;
        }
    }
    Ok(())
}

/// An asset: its file, who asks for it, and the pages that it is on.
fn write_asset(out: &mut impl Write, point: &PointView, asset: &AssetView) -> Result<()> {
    if let Some(file) = &asset.file {
        let at = asset.at.as_ref().map(|at| if at == "head" { "in the head" } else { "at the page's end" });
        let media = asset.media.as_ref().map(|media| format!("for {media}"));
        line(out, "file", "", file, &media.or(at.map(str::to_string)).unwrap_or_default())?;
    }
    if !asset.gives.is_empty() {
        line(out, "gives", "", &asset.gives.join(", "), "")?;
    }
    for asked in &asset.asked_by {
        let by = if asked.by == "theme" { "the theme itself" } else { &asked.by };
        line(out, "asked by", &asked.place.layer, &at(&asked.place), by)?;
    }
    if asset.asked_by.is_empty() {
        line(out, "asked by", "–", "", "nobody")?;
    }
    let when = asset.when.as_ref().map(|when| format!(", when {when}")).unwrap_or_default();
    let found = point.presence.pages("pages of type ");
    line(out, "on", "", &format!("{found}{when}"), "")
}

/// A feature: is it on, with what, and what feeds on it?
fn write_feature(out: &mut impl Write, feature: &FeatureView) -> Result<()> {
    line(out, "switched", "", if feature.on { "on" } else { "off" }, "")?;
    for (at, (name, layer)) in feature.set_by.iter().enumerate() {
        let value = name.split('.').try_fold(&feature.arguments, |value, key| value.get(key));
        let text = format!("{name} = {}", value.unwrap_or_default());
        line(out, if at == 0 { "takes" } else { "" }, layer, &text, "")?;
    }
    if !feature.feeds.is_empty() {
        line(out, "feeds", "", &feature.feeds.join(", "), "")?;
    }
    for (nth, place) in feature.given.iter().enumerate() {
        line(out, if nth == 0 { "given" } else { "" }, &place.layer, &at(place), "")?;
    }
    for (nth, place) in feature.used.iter().enumerate() {
        line(out, if nth == 0 { "used" } else { "" }, &place.layer, &at(place), "")?;
    }
    Ok(())
}

fn write_places(out: &mut impl Write, point: &PointView) -> Result<()> {
    let kind = point.address.split(':').next().unwrap_or_default();
    let verb = if kind == "filter" { "through" } else { "placed" };
    for holder in &point.held_by {
        line(out, "held by", &holder.place.layer, &at(&holder.place), &holder.point)?;
    }
    for (nth, place) in point.read.iter().enumerate() {
        line(out, if nth == 0 { "read" } else { "" }, &place.layer, &at(place), "")?;
    }
    let none = match kind {
        "template" => Some("the page's type chooses it"),
        "option" if point.read.is_empty() => Some("nothing reads it"),
        "option" => None,
        _ if point.moment => Some("the host fires it"),
        "filter" if point.declared.layer == "host" && !point.presence.is_nowhere() => Some("the host sends it"),
        _ if !point.held_by.is_empty() => None,
        _ if point.dropped => Some("dropped: nothing places it"),
        _ => Some("nothing places it"),
    };
    if let (true, Some(none)) = (point.placements.is_empty(), none) {
        line(out, if kind == "option" { "read" } else { verb }, "–", "", none)?;
    }
    for placement in &point.placements {
        let pages = format!("reached by {}", placement.presence.pages("pages of type "));
        line(out, verb, &placement.place.layer, &at(&placement.place), &pages)?;
    }
    Ok(())
}

fn write_fill(out: &mut impl Write, word: &str, fill: &FillView, depth: usize) -> Result<()> {
    let when = fill.when.as_ref().map(|when| format!("  when {when}")).unwrap_or_default();
    let text = format!("{}{}{when}", "  ".repeat(depth), fill.what());
    line(out, word, &fill.place.layer, &at(&fill.place), &text)?;
    fill.holds.iter().try_for_each(|held| write_fill(out, "", held, depth + 1))
}

fn root(name: &str) -> &str {
    name.split_once('.').map_or("inputs", |(root, _)| root)
}

/// A variable without its root, and its type.
fn variable(variable: &VariableView) -> String {
    let name = variable.name.split_once('.').map_or(variable.name.as_str(), |(_, name)| name);
    match &variable.type_word {
        Some(word) => format!("{name} ({word})"),
        None => name.to_string(),
    }
}

/// Under which terms an attachment runs: its constraints, its condition, and what higher layers did.
fn terms(slot: &SlotView) -> String {
    let mut terms: Vec<String> = slot.before.iter().map(|name| format!("before {name}")).collect();
    terms.extend(slot.after.iter().map(|name| format!("after {name}")));
    terms.extend(slot.when.iter().map(|when| format!("when {when}")));
    terms.extend(slot.sealed.then(|| "sealed".to_string()));
    match (&slot.by, slot.state) {
        (Some(by), SlotState::Replaced) => {
            terms.push(format!("replaced by {} {}", by.layer, by.callback.as_deref().unwrap_or_default()));
        }
        (Some(by), _) => terms.push(format!("detached by {} ({})", by.layer, at(&by.place))),
        (None, SlotState::Broken) => {
            terms.push("never runs: its callback or condition is broken (truehook check)".into())
        }
        (None, _) => {}
    }
    terms.join(", ")
}

fn at(place: &PlaceView) -> String {
    format!("{}:{}", place.file, place.line)
}

/// What a declaration says: what is passed on, and how the point is special.
fn said(point: &PointView) -> Vec<String> {
    let mut said = Vec::new();
    let word = if point.renderer.is_some() { "inputs" } else { "args" };
    for (at, input) in point.inputs.iter().enumerate() {
        let type_word = input.type_word.as_deref().unwrap_or("anything");
        let default = match &input.default {
            Some(default) => format!(" = {default}"),
            None => ", needed".to_string(),
        };
        let lead = if at == 0 { format!("{word}: ") } else { " ".repeat(word.len() + 2) };
        let choices = match input.choices.is_empty() {
            true => String::new(),
            false => {
                format!(", one of {}", input.choices.iter().map(ToString::to_string).collect::<Vec<_>>().join(", "))
            }
        };
        said.push(format!("{lead}{} ({type_word}{choices}{default})", input.name));
        fields(&input.fields, word.len() + 4, &mut said);
    }
    if let Some(value) = &point.value {
        said.push(format!("value: {}", described(value)));
    }
    if let Some(levels) = point.levels {
        said.push(count(levels as usize, "level"));
    }
    said.extend(point.moment.then(|| "a moment: the host fires it".to_string()));
    said.extend(point.reserved.then(|| "reserved: site editors are not offered it".to_string()));
    said.extend(point.dropped.then(|| "dropped: it emits nothing".to_string()));
    said.extend(point.since.as_ref().map(|since| format!("since {since}")));
    let instead = point.instead.as_ref().map(|instead| format!(", use {instead}")).unwrap_or_default();
    said.extend(point.retired.as_ref().map(|retired| format!("retired with {retired}{instead}")));
    said
}

/// What is in a table, one line each, further in than what it belongs to.
fn fields(all: &[FieldView], indent: usize, said: &mut Vec<String>) {
    for field in all {
        let type_word = field.type_word.as_deref().unwrap_or("anything");
        let about = field.about.as_ref().map(|about| format!(": {about}")).unwrap_or_default();
        said.push(format!("{}.{} ({type_word}){about}", " ".repeat(indent), field.name));
        fields(&field.fields, indent + 2, said);
    }
}

/// A type in a few words.
fn described(schema: &serde_json::Value) -> String {
    let mut words = schema.get("type").and_then(|word| word.as_str()).unwrap_or("anything").to_string();
    if let Some(all) = schema.get("enum").and_then(|all| all.as_array()) {
        let all: Vec<String> = all.iter().map(|value| value.to_string()).collect();
        words.push_str(&format!(", one of {}", all.join(", ")));
    }
    if let Some(default) = schema.get("default") {
        words.push_str(&format!(" = {default}"));
    }
    words
}
