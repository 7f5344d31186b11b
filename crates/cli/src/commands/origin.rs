//! `origin`: where a piece of a page came from.

use std::io::Write;
use std::ops::Range;
use std::sync::Arc;
use truehook_core::command_line;

use anyhow::{Result, bail};
use camino::Utf8Path;
use serde::Serialize;
use truehook_core::edit::{Selector, find_in_page};
use truehook_core::link::Registry;
use truehook_core::source::Span;
use truehook_core::view::{ExcerptView, PlaceView, VERSION};
use truehook_stage::origin::{self, Chain, LinkKind, Traced};
use truehook_stage::{Manner, Rendered, Stage, map};

use crate::Outcome;
use crate::args::{Format, OriginArgs};
use crate::output::{self, count, cut, failures, style, table};
use crate::workshop;

/// What `origin --format json` prints.
#[derive(Serialize, schemars::JsonSchema)]
struct OriginView {
    version: u32,
    page: String,
    /// How often that is on the page; told of is the first.
    times: usize,
    #[serde(flatten)]
    first: ChainView,
    /// Where what else belongs to it came from.
    rest: Vec<ChainView>,
}

#[derive(Serialize, schemars::JsonSchema)]
struct ChainView {
    text: String,
    chain: Vec<origin::Link>,
    #[serde(rename = "override")]
    ways: Vec<String>,
}

impl From<Chain> for ChainView {
    fn from(chain: Chain) -> ChainView {
        let ways = chain.ways.into_iter().map(|way| way.command).collect();
        ChainView { text: chain.text, chain: chain.chain, ways }
    }
}

/// The form of what `--format json` prints.
pub fn form() -> schemars::Schema {
    output::form::<OriginView>()
}

pub fn run(theme: Option<&Utf8Path>, args: &OriginArgs) -> Result<Outcome> {
    let folder = workshop::find_theme(theme)?;
    let files = workshop::files(&folder)?;
    let workers = workshop::workers(&folder, &files, None, Some(1))?;
    let registry = Arc::new(workshop::open_files(&folder, &files)?);
    let stage = Stage::new(registry.clone());
    let path = workshop::page(&stage, &args.page)?;
    let page = workers.over(registry.clone()).page(&path, &Manner::sourced())?;
    let Some(page) = page else { bail!("there is no page {path}") };
    let root = map::map(&registry, &page);
    let found = asked(&page, &path, args)?;
    let traced = Traced { registry: &registry, path: &path, page: &page, root: &root };
    let chains = origin::chains(traced, &found[0]);
    let mut out = crate::output::stream::stdout();
    match args.format {
        Format::Json => {
            let mut views = chains.into_iter().map(ChainView::from);
            let Some(first) = views.next() else { bail!("nothing on {path} printed that") };
            let view =
                OriginView { version: VERSION, page: path.clone(), times: found.len(), first, rest: views.collect() };
            output::json(&mut out, &view)?;
        }
        Format::Text => {
            for (at, chain) in chains.iter().enumerate() {
                if at > 0 {
                    writeln!(out)?;
                }
                write(&mut out, &registry, chain)?;
            }
            if found.len() > 1 {
                let more = match found.len() - 1 {
                    1 => "once".to_string(),
                    more => count(more, "time"),
                };
                let text = format!(
                    "It is on {path} {more} more; this is the first. --select names the element that is meant."
                );
                writeln!(out, "\n{}", textwrap::fill(&text, usize::from(table::width()).max(24)))?;
            }
        }
    }
    out.flush()?;
    failures::write(&path, &page.failures)?;
    Ok(workshop::outcome(&registry, true))
}

/// The bytes of the page that were asked for: each time that they are there.
fn asked(page: &Rendered, path: &str, args: &OriginArgs) -> Result<Vec<Range<usize>>> {
    let elements = match &args.select {
        None => None,
        Some(selector) => {
            let parsed: Selector = selector.parse()?;
            let found = find_in_page(&page.html, &parsed);
            if found.is_empty() {
                bail!("no element of {path} fits `{selector}`; {} shows the page", command_line!["render", path]);
            }
            Some(found)
        }
    };
    let Some(text) = &args.text else {
        // An element that holds nothing but words is asked about for these, any other for its tag.
        let words = |(open, whole): (Span, Span)| {
            let end = page.html[whole.range()].rfind("</").map_or(open.end as usize, |end| whole.start as usize + end);
            let inside = open.end as usize..end.max(open.end as usize);
            let text = &page.html[inside.clone()];
            if text.trim().is_empty() || text.contains('<') { open.range() } else { inside }
        };
        return Ok(elements.unwrap_or_default().into_iter().map(words).collect());
    };
    let mut found = origin::search(&page.html, text);
    if let Some(elements) = &elements {
        found.retain(|range| {
            elements.iter().any(|(_, whole)| whole.range().start <= range.start && range.end <= whole.range().end)
        });
    }
    if found.is_empty() {
        let inside = args.select.as_ref().map(|selector| format!(" in `{selector}`")).unwrap_or_default();
        bail!("“{text}” is not on {path}{inside}; {} shows the page", command_line!["render", path]);
    }
    Ok(found)
}

fn write(out: &mut impl Write, registry: &Registry, chain: &Chain) -> Result<()> {
    let width = usize::from(table::width()).max(24);
    let (on, off) = (style::POINT.render(), style::POINT.render_reset());
    let (quiet, plain) = (style::QUIET.render(), style::QUIET.render_reset());
    writeln!(out, "{on}{}{off}", cut(&chain.text, width))?;
    for (at, link) in chain.chain.iter().enumerate() {
        let place = link.place.as_ref().map(|place| shown(registry, place)).unwrap_or_default();
        let name = match link.what {
            LinkKind::Expression => format!("{{{{ {} }}}}", link.name.trim()),
            LinkKind::Text | LinkKind::Value => String::new(),
            _ => link.name.clone(),
        };
        let head = format!("  {:<11}", link.what.word());
        let rest = [name, place].into_iter().filter(|text| !text.is_empty()).collect::<Vec<_>>().join("  ");
        let indent = " ".repeat(13);
        let folded =
            textwrap::fill(&rest, textwrap::Options::new(width).initial_indent(&indent).subsequent_indent(&indent));
        writeln!(out, "{quiet}{head}{plain}{}", folded.trim_start())?;
        for (word, value) in [("before", &link.before), ("after", &link.after)] {
            if let Some(value) = value {
                writeln!(out, "{indent}{quiet}{word:<7}{plain}{}", cut(value, width.saturating_sub(20)))?;
            }
        }
        if let (0, Some(place)) = (at, &link.place) {
            excerpt(out, registry, place, width)?;
        }
    }
    if !chain.ways.is_empty() {
        writeln!(out, "{quiet}  to change it{plain}")?;
    }
    for way in &chain.ways {
        writeln!(out, "    {quiet}# {}{plain}", cut(&way.what, width.saturating_sub(6)))?;
        writeln!(out, "{}", output::command(&way.command, 4, width))?;
    }
    Ok(())
}

/// The line of a place, cut around what is meant where it is too long.
fn excerpt(out: &mut impl Write, registry: &Registry, place: &PlaceView, width: usize) -> Result<()> {
    let Some(found) = ExcerptView::around(registry, place, 0) else { return Ok(()) };
    let Some(line) = found.lines.first() else { return Ok(()) };
    let number = place.line.to_string();
    let room = width.saturating_sub(18 + number.len()).max(16);
    let letters: Vec<char> = line.chars().map(|c| if c == '\t' { ' ' } else { c }).collect();
    let begin = place.column - 1;
    let end = if place.end_line == place.line { place.end_column - 1 } else { letters.len() };
    let lead = letters.iter().take_while(|c| c.is_whitespace()).count().min(begin);
    let start = if end - lead <= room { lead } else { begin.saturating_sub(8).max(lead) };
    let stop = letters.len().min(start + room);
    let dots = |is: bool| if is { "…" } else { "" };
    let text: String = letters[start..stop].iter().collect();
    let (quiet, plain) = (style::QUIET.render(), style::QUIET.render_reset());
    let lines = format!("{}{text}{}", dots(start > lead), dots(stop < letters.len()));
    writeln!(out, "{}{quiet}{number} │{plain} {lines}", " ".repeat(13))?;
    let marks = "^".repeat(end.min(stop).saturating_sub(begin).max(1));
    let before = " ".repeat(13 + number.len() + 3 + begin - start + usize::from(start > lead));
    writeln!(out, "{before}{}{marks}{}", style::POINT.render(), style::POINT.render_reset())?;
    Ok(())
}

fn shown(registry: &Registry, place: &PlaceView) -> String {
    let own = registry.project().layer(registry.project().top()).name;
    format!("{}:{}", place.shown(own.as_str()), place.column)
}
