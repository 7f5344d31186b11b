//! `list`: points in a table, or callbacks by role.

use std::io::Write;
use std::sync::Arc;

use anyhow::{Result, bail};
use camino::Utf8Path;
use truehook_core::address::{Address, Kind, Role};
use truehook_core::link::Registry;
use truehook_core::names::{hint, nearest};
use truehook_core::view::{PlacementView, PointView, PointsView, SlotState, SlotView};
use truehook_stage::map::{self, Node};
use truehook_stage::{Manner, Rendered};

use crate::Outcome;
use crate::args::{Format, ListArgs};
use crate::output::{self, table};
use crate::workshop;

/// What `list` was asked for.
#[derive(Clone, Copy)]
enum Wanted {
    All,
    Kind(Kind),
    Role(Role),
}

pub fn run(theme: Option<&Utf8Path>, args: &ListArgs) -> Result<Outcome> {
    let wanted = wanted(args.word.as_deref())?;
    let folder = workshop::find_theme(theme)?;
    let files = workshop::files(&folder)?;
    let workers = args.page.as_ref().map(|_| workshop::workers(&folder, &files, None, Some(1))).transpose()?;
    let registry = Arc::new(workshop::open_files(&folder, &files)?);
    let filter = Filter::new(&registry, args)?;
    let mut view = PointsView::new(&registry, |point| filter.lets_through(point, wanted));
    if let (Some(path), Some(workers)) = (&args.page, workers)
        && let Some(page) = workers.over(registry.clone()).page(path, &Manner::watched())?
    {
        view.points.retain(|point| is_on(&page, point));
        let order = names(&map::map(&registry, &page));
        let place = |point: &PointView| order.iter().position(|name| *name == point.address).unwrap_or(usize::MAX);
        // What has no place on it comes last, in its own order.
        view.points.sort_by_key(place);
    }
    let mut out = crate::output::stream::stdout();
    match (args.format, wanted) {
        (Format::Json, _) => output::json(&mut out, &view)?,
        (Format::Text, Wanted::Role(role)) => write_callbacks(&mut out, &view, role)?,
        (Format::Text, _) => {
            let (own, rest) = apart(&registry, view, args, wanted);
            write_points(&mut out, &registry, &own)?;
            if rest > 0 {
                let theme = registry.project().layer(registry.project().top()).name;
                let more = format!("{rest} more that {theme} neither adds to nor uses; --all lists them, too");
                table::note(&mut out, &more)?;
            }
        }
    }
    out.flush()?;
    Ok(workshop::outcome(&registry, true))
}

/// Is something on a page, as it was rendered? Spots and hooks are, also where nothing comes of them.
fn is_on(page: &Rendered, point: &PointView) -> bool {
    let Ok(address) = point.address.parse::<Address>() else { return true };
    match address.kind {
        Kind::Style | Kind::Script => page.assets.contains(&address),
        kind if kind.is_component() => page.trace.points.contains(&address),
        _ => true,
    }
}

/// The names of all nodes of a map, in the order of the document.
fn names(node: &Node) -> Vec<String> {
    let inner = node.children.iter().flat_map(names);
    [node.name.clone()].into_iter().chain(inner).collect()
}

/// The points that the theme itself adds, adds to or uses, and the number of the others. Where anything in particular
/// was asked for, or there are none of its own, all of them.
fn apart(registry: &Registry, view: PointsView, args: &ListArgs, wanted: Wanted) -> (PointsView, usize) {
    let words = [&args.matching, &args.template, &args.page, &args.layer];
    if args.all
        || !matches!(wanted, Wanted::All)
        || args.unplaced
        || args.empty
        || words.iter().any(|word| word.is_some())
    {
        return (view, 0);
    }
    let top = registry.project().layer(registry.project().top()).name;
    let is_top = |layer: &String| *layer == top.as_str();
    let own = |point: &PointView| {
        let by = |slot: &SlotView| slot.by.as_ref().is_some_and(|by| is_top(&by.layer));
        is_top(&point.layer)
            || point.slots.iter().any(|slot| is_top(&slot.layer) || by(slot))
            || point.fills.iter().any(|fill| is_top(&fill.place.layer))
            || point.placements.iter().any(|placed| is_top(&placed.place.layer))
            || point.held_by.iter().any(|holder| is_top(&holder.place.layer))
            || point.feature.as_ref().is_some_and(|feature| feature.given.iter().any(|place| is_top(&place.layer)))
    };
    let number = view.points.len();
    if !view.points.iter().any(own) {
        return (view, 0);
    }
    let points: Vec<PointView> = view.points.into_iter().filter(own).collect();
    let rest = number - points.len();
    (PointsView { points, ..view }, rest)
}

/// A kind or a role; where a word is both, the kind, whose table shows the callbacks too.
fn wanted(word: Option<&str>) -> Result<Wanted> {
    let Some(word) = word else { return Ok(Wanted::All) };
    if let Some(kind) = Kind::from_word(word) {
        return Ok(Wanted::Kind(kind));
    }
    if let Some(role) = Role::ALL.into_iter().find(|role| role.word() == word) {
        return Ok(Wanted::Role(role));
    }
    let mut words: Vec<&str> = Kind::ALL.map(Kind::word).to_vec();
    words.extend(Role::ALL.map(Role::word).into_iter().filter(|word| Kind::from_word(word).is_none()));
    let near = nearest(word, words.iter().copied());
    bail!("`{word}` is neither a kind nor a role{}; there are {}", hint(&near), words.join(", "))
}

/// What the options leave.
struct Filter<'a> {
    args: &'a ListArgs,
    /// The type of the page that was named.
    page_type: Option<String>,
    /// The template that was named, as files show it.
    template: Option<String>,
}

impl<'a> Filter<'a> {
    fn new(registry: &Registry, args: &'a ListArgs) -> Result<Filter<'a>> {
        let page_type = match &args.page {
            None => None,
            Some(path) => {
                let page = registry.pages().find(|(_, page)| page.path.is_some_and(|known| known.name == *path));
                let Some(page_type) = page.and_then(|(_, page)| page.page_type) else {
                    bail!("the preview has no page {path}");
                };
                Some(page_type.name.to_string())
            }
        };
        if let Some(layer) = &args.layer
            && registry.project().layer_named(layer).is_none()
        {
            let names: Vec<&str> = registry.project().layers.iter().map(|layer| layer.name.as_str()).collect();
            bail!("there is no layer {layer}; there are {}", names.join(", "));
        }
        let template = args.template.as_ref().map(|name| format!("markup/{}", name.trim_start_matches("markup/")));
        Ok(Filter { args, page_type, template })
    }

    fn lets_through(&self, point: &PointView, wanted: Wanted) -> bool {
        let kind = point.address.split(':').next().unwrap_or_default();
        let asked = match wanted {
            Wanted::All => kind != Kind::Template.word() || !point.slots.is_empty(),
            Wanted::Kind(wanted) => kind == wanted.word(),
            Wanted::Role(role) => point.slots.iter().any(|slot| slot.is(role)),
        };
        let args = self.args;
        asked
            && args.matching.as_ref().is_none_or(|word| holds(point, &word.to_lowercase()))
            && args
                .layer
                .as_ref()
                .is_none_or(|layer| point.layer == *layer || point.slots.iter().any(|slot| slot.layer == *layer))
            && self.template.as_ref().is_none_or(|file| point.placements.iter().any(|at| at.place.file == *file))
            && self.page_type.as_ref().is_none_or(|page_type| point.presence.reached_by.contains(page_type))
            && (!args.unplaced
                || point.placements.is_empty()
                    && point.held_by.is_empty()
                    && host_runs(point).is_none()
                    && point.asset.is_none()
                    && point.feature.is_none()
                    && ![Kind::Template, Kind::Option].map(Kind::word).contains(&kind))
            && (!args.empty || point.slots.is_empty() && point.fills.is_empty())
    }
}

fn holds(point: &PointView, word: &str) -> bool {
    let texts = [Some(&point.address), point.label.as_ref(), point.about.as_ref()];
    let callbacks = point.slots.iter().map(|slot| &slot.callback);
    texts.into_iter().flatten().chain(callbacks).any(|text| text.to_lowercase().contains(word))
}

fn write_points(out: &mut impl Write, registry: &Registry, view: &PointsView) -> Result<()> {
    if view.points.is_empty() {
        return table::note(out, "no points fit");
    }
    let rows = view.points.iter().map(|point| {
        let callbacks: Vec<String> = point
            .slots
            .iter()
            .filter(|slot| slot.state != SlotState::Detached)
            .map(callback)
            .chain(point.fills.iter().map(|fill| format!("     {}", fill.what())))
            .collect();
        let name = point.label.as_ref().or(point.about.as_ref()).cloned().unwrap_or_default();
        let pages = if point.presence.is_nowhere() { "–".to_string() } else { point.presence.pages("") };
        let pages = if table::is_piped() { pages } else { textwrap::fill(&pages, PAGES_WIDTH) };
        let states = point.states().join("\n");
        vec![point.address.clone(), name, point.layer.clone(), states, placed(point), callbacks.join("\n"), pages]
    });
    let titles = ["point", "what it is", "layer", "state", "placed", "runs or holds", "reached by"];
    table::write(out, &titles, 1, rows)?;
    let theme = registry.project().layer(registry.project().top()).name;
    table::note(out, &format!("{} in {theme}", count(view.points.len(), "point")))
}

/// How wide the column of pages may be.
const PAGES_WIDTH: usize = 18;

/// How the host itself runs a point that no template needs to place; `None` where it doesn't.
fn host_runs(point: &PointView) -> Option<&'static str> {
    let sent = point.address.starts_with("filter:") && point.layer == "host" && !point.presence.is_nowhere();
    match point.moment {
        true => Some("fired by the host"),
        false => sent.then_some("sent by the host"),
    }
}

fn placed(point: &PointView) -> String {
    let kind = point.address.split(':').next().unwrap_or_default();
    if let Some(feature) = &point.feature {
        return if feature.on { "on".into() } else { "off".into() };
    }
    if let Some(asset) = &point.asset {
        let named = |by: &str| if by == "theme" { "by itself".to_string() } else { format!("with {by}") };
        return match asset.asked_by.as_slice() {
            [] => "–".into(),
            [one] => named(&one.by),
            all if table::is_piped() => all.iter().map(|one| named(&one.by)).collect::<Vec<_>>().join("; "),
            [first, ..] => format!("{} …", named(&first.by)),
        };
    }
    let at = |one: &PlacementView| format!("{}:{}", one.place.file.trim_start_matches("markup/"), one.place.line);
    match (point.placements.as_slice(), point.held_by.as_slice()) {
        ([], []) if kind == "template" => "by the page's type".into(),
        ([], []) => host_runs(point).unwrap_or("–").into(),
        ([], [holder, rest @ ..]) => {
            let mut points: Vec<&str> = vec![&holder.point];
            points.extend(rest.iter().map(|other| other.point.as_str()));
            points.dedup();
            let others = points.len() > 1;
            if table::is_piped() {
                return points.iter().map(|point| format!("in {point}")).collect::<Vec<_>>().join("; ");
            }
            format!("in {}{}", holder.point, if others { " …" } else { "" })
        }
        ([one], _) => at(one),
        (several, _) if table::is_piped() => several.iter().map(at).collect::<Vec<_>>().join("; "),
        (several, _) => format!("{} times", several.len()),
    }
}

fn callback(slot: &SlotView) -> String {
    let broken = if slot.state == SlotState::Broken { "  (broken)" } else { "" };
    format!("{:>3}  {}{broken}", slot.priority, slot.running())
}

fn write_callbacks(out: &mut impl Write, view: &PointsView, role: Role) -> Result<()> {
    let mut rows = Vec::new();
    for point in &view.points {
        for slot in point.slots.iter().filter(|slot| slot.is(role)) {
            let place = format!("{}:{}", slot.place.file, slot.place.line);
            let when = match (&slot.by, slot.state) {
                (Some(by), SlotState::Detached) => format!("detached by {}", by.layer),
                (Some(_), SlotState::Replaced) => format!("in place of {}", slot.callback),
                _ => slot.when.clone().unwrap_or_default(),
            };
            rows.push(vec![
                slot.running().to_string(),
                point.address.clone(),
                slot.priority.to_string(),
                slot.layer.clone(),
                place,
                when,
            ]);
        }
    }
    if rows.is_empty() {
        return table::note(out, "no callback of that role is attached");
    }
    let number = rows.len();
    table::write(out, &["callback", "attached to", "priority", "layer", "attached in", "when"], 5, rows)?;
    table::note(out, &count(number, role.word()))
}

fn count(number: usize, word: &str) -> String {
    let plural = match (number, word) {
        (1, _) => "",
        (_, "preparer") => "s",
        _ => "s",
    };
    format!("{number} {word}{plural}")
}
