//! What site editors get, as a sheet that can be sent to them.

use std::collections::HashMap;

use minijinja::Value;
use serde::Serialize;
use truehook_core::address::Address;
use truehook_core::link::Registry;
use truehook_core::view::{DeskView, PointView, ThemeView};
use truehook_stage::map::{Node, State, What};
use truehook_stage::{Origin, Rendered, SegmentId};

use crate::SheetError;
use crate::embed::Embedding;
use crate::framed::framed;
use crate::marks;
use crate::pages;
use crate::signs::{Group, group_of};

/// A page on which an offer is the only item of what holds it.
pub struct Shown<'s> {
    /// Which component, and which of its offers.
    pub offer: (usize, usize),
    /// The component.
    pub component: Address,
    /// What holds it.
    pub holder: Address,
    /// The page's path.
    pub path: &'s str,
    /// The page.
    pub page: &'s Rendered,
}

/// The markup of an offer on its page; nothing where it is not there.
pub fn markup(shown: &Shown<'_>) -> Option<String> {
    let (start, end) = range(shown)?;
    Some(shown.page.html[start..end].to_string())
}

fn range(shown: &Shown<'_>) -> Option<(usize, usize)> {
    let tree = &shown.page.tree;
    let at = tree.segments.iter().enumerate().find_map(|(at, segment)| {
        let own = segment.origin == Origin::Point(shown.component);
        let held = segment.parent.is_some_and(|parent| tree.is_inside(parent, shown.holder));
        (own && held).then_some(at)
    })?;
    let range = tree.ranges().get(at)?.clone()?;
    (!shown.page.html[range.clone()].trim().is_empty()).then_some((range.start, range.end))
}

/// The desk, ready to be written.
#[derive(Serialize)]
pub struct DeskSheet<'d> {
    theme: String,
    label: String,
    view: &'d DeskView,
    spots: Vec<Spot>,
    /// What is not offered, by the reason.
    hidden: Vec<(&'d str, Vec<&'d str>)>,
    /// The pages that are shown, as JSON that may stand in a script.
    frames: String,
    page: String,
}

/// A spot on the plan.
#[derive(Serialize)]
struct Spot {
    number: usize,
    address: String,
    kind: &'static str,
    group: Group,
    label: String,
    about: Option<String>,
    /// What is in it on this page.
    holds: Vec<String>,
    /// Is it on the page that is shown?
    here: bool,
    /// The types of pages that have it.
    types: Vec<String>,
    /// What has to be met on them.
    conditions: Vec<String>,
    levels: Option<u64>,
}

/// What the script of the sheet shows.
#[derive(Serialize)]
struct Frames {
    assets: Vec<String>,
    /// Pages with a gap.
    pages: Vec<String>,
    /// What fills the gap: the page, and the markup.
    offers: Vec<(usize, String)>,
    plan: String,
    writing: Option<String>,
}

/// Where the offer goes in a page with a gap.
const GAP: &str = "<!--truehook gap-->";

impl DeskSheet<'_> {
    /// The desk of a theme: with a page as the plan of its spots, and the pages of its offers.
    pub fn new<'d>(
        registry: &Registry,
        view: &'d DeskView,
        (path, page, root): (&str, &Rendered, &Node),
        shown: &[Shown<'_>],
    ) -> DeskSheet<'d> {
        let all = shown.iter().map(|shown| shown.page).chain([page]);
        let mut embedding = Embedding::new(registry.project(), all).shared();
        let mut in_order: Vec<&PointView> = view.spots.iter().collect();
        in_order.sort_by_key(|spot| turn(root, &spot.address));
        let spots: Vec<Spot> = in_order.into_iter().enumerate().map(|(at, spot)| spot_of(at, spot, root)).collect();
        let mut numbers = HashMap::new();
        for spot in &spots {
            mark(root, spot, &mut numbers);
        }
        let plan = framed(&embedding.page(&marks::marked(page, &numbers).html, path));
        let mut pages: Vec<String> = Vec::new();
        let mut offers = Vec::new();
        for shown in shown {
            let Some((start, end)) = range(shown) else {
                offers.push((usize::MAX, String::new()));
                continue;
            };
            let html = &shown.page.html;
            let whole = format!("{}{}{GAP}{}{}", &html[..start], marks::begin(0), marks::end(0), &html[end..]);
            let page = framed(&embedding.page(&whole, shown.path));
            let at = pages.iter().position(|known| *known == page).unwrap_or_else(|| {
                pages.push(page);
                pages.len() - 1
            });
            offers.push((at, embedding.page(&html[start..end], shown.path)));
        }
        let writing = view.writing_view.as_deref().and_then(|file| writing(registry, page, &mut embedding, file));
        let frames = Frames { plan, pages, offers, writing, assets: embedding.assets() };
        let top = registry.project().layer(registry.project().top());
        // In a script, a `<` might end it.
        let frames = serde_json::to_string(&frames).unwrap_or_default().replace('<', "\\u003c");
        DeskSheet {
            theme: top.name.to_string(),
            label: ThemeView::new(registry, None).title().to_string(),
            view,
            hidden: view.hidden_by_reason(),
            spots,
            frames,
            page: path.to_string(),
        }
    }

    /// The sheet, as HTML.
    ///
    /// # Errors
    /// Where a template of ours can't be filled.
    pub fn html(&self) -> Result<String, SheetError> {
        pages::fill("desk.html", self)
    }
}

fn spot_of(number: usize, spot: &PointView, root: &Node) -> Spot {
    let kind = spot.address.parse::<Address>().map_or("region", |address| address.kind.word());
    let found = nodes(root, &spot.address);
    let label_of = |node: &Node| node.label.clone().unwrap_or_else(|| node.name.clone());
    let items = found.iter().flat_map(|node| items(node));
    let menus = spot.fills.iter().filter_map(|fill| fill.menu.as_ref()).map(|menu| format!("the menu {menu}"));
    Spot {
        number,
        address: spot.address.clone(),
        kind,
        group: group_of(kind),
        label: spot.label.clone().unwrap_or_else(|| spot.address.clone()),
        about: spot.about.clone().filter(|about| spot.label.as_ref() != Some(about)),
        holds: items.map(label_of).chain(menus).collect(),
        here: found.iter().any(|node| node.state != State::Off),
        types: if spot.presence.everywhere { Vec::new() } else { spot.presence.reached_by.clone() },
        conditions: spot.presence.conditions.iter().map(|condition| condition.said.clone()).collect(),
        levels: spot.levels,
    }
}

/// The items of a spot, also where its own elements are around them.
fn items(node: &Node) -> Vec<&Node> {
    let mut found = Vec::new();
    for child in &node.children {
        match child.what {
            What::Item => found.push(child),
            What::Element => found.extend(items(child)),
            _ => {}
        }
    }
    found
}

/// Where a spot comes on a page, for the order of the document; last, where it is not there.
fn turn(root: &Node, name: &str) -> usize {
    fn walk(node: &Node, name: &str, next: &mut usize) -> bool {
        *next += 1;
        node.name == name || node.children.iter().any(|child| walk(child, name, next))
    }
    let mut turn = 0;
    if walk(root, name, &mut turn) { turn } else { usize::MAX }
}

fn nodes<'n>(node: &'n Node, name: &str) -> Vec<&'n Node> {
    let mut found: Vec<&Node> = Vec::new();
    if node.name == name {
        found.push(node);
    }
    node.children.iter().for_each(|child| found.extend(nodes(child, name)));
    found
}

fn mark(root: &Node, spot: &Spot, numbers: &mut HashMap<SegmentId, usize>) {
    numbers.extend(nodes(root, &spot.address).into_iter().filter_map(|node| Some((node.segment?, spot.number))));
}

/// The page in which people write: sample text under the theme's style sheet for the editor, with its colours.
fn writing(registry: &Registry, page: &Rendered, embedding: &mut Embedding<'_>, file: &str) -> Option<String> {
    let (layer, path) = registry.find_media_file(file, registry.project().top())?;
    let text = String::from_utf8(registry.project().media(layer, &path).ok()?).ok()?;
    let values = page.html.find("<style>:root").and_then(|at| {
        let end = page.html[at..].find("</style>")?;
        Some(&page.html[at..at + end + "</style>".len()])
    });
    let folder = path.rsplit_once('/').map_or("", |(folder, _)| folder);
    let folder = format!("{}/{folder}", registry.project().layer(layer).name);
    let text = embedding.style(&text, &folder).replace("</", "<\\/");
    let values = Value::from_safe_string(values.unwrap_or_default().to_string());
    let data = Value::from_pairs([("values", values), ("style", Value::from_safe_string(text))]);
    pages::fill_with("writing.html", data).ok()
}
