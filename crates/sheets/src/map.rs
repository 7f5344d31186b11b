//! The map of a page: the page as it is, its points outlined on it, and beside it what is known of each.

use std::collections::{BTreeMap, HashMap, HashSet};

use serde::Serialize;
use truehook_core::address::{Address, Kind};
use truehook_core::edit::fill::offered;
use truehook_core::link::Registry;
use truehook_core::view::{DetailView, PlaceView};
use truehook_stage::map::{Node, State, What};
use truehook_stage::{Failure, Rendered, SegmentId};

use crate::SheetError;
use crate::embed::Embedding;
use crate::framed::framed;
use crate::marks;
use crate::pages;
use crate::signs::{Group, group_of, kind_of};

/// Sample content for what is empty: items that fill regions and areas.
pub struct Samples;

impl Samples {
    /// For each region and area of a map which nothing fills, the first thing that site editors could put there.
    pub fn of(registry: &Registry, root: &Node) -> Vec<(Address, serde_json::Value)> {
        let mut found: Vec<(Address, serde_json::Value)> = Vec::new();
        let mut open = vec![root];
        while let Some(node) = open.pop() {
            open.extend(&node.children);
            let Ok(address) = node.name.parse::<Address>() else { continue };
            let fits = matches!(address.kind, Kind::Region | Kind::Area) && node.state == State::Empty;
            if fits && !found.iter().any(|(known, _)| *known == address) {
                found.extend(sample(registry, address).map(|item| (address, item)));
            }
        }
        found.sort_by_key(|(address, _)| *address);
        found
    }
}

fn sample(registry: &Registry, holder: Address) -> Option<serde_json::Value> {
    let (component, label) = truehook_core::view::offers(registry, holder).into_iter().next()?;
    let offers = registry.point(component)?.offers.as_deref()?;
    let (_, offer) = offers.iter().find(|(_, offer)| offer.label.is_some_and(|known| *known == *label))?;
    Some(offered(&offer.item))
}

/// A page's map, ready to be written.
#[derive(Serialize)]
pub struct MapSheet {
    /// The page's path.
    page: String,
    /// The theme, by what people call it.
    theme: String,
    /// The page, with its marks.
    frame: String,
    /// The same with sample content in what is empty, where anything is.
    filled: Option<String>,
    root: Vec<Entry>,
    details: Vec<Detail>,
    /// The kinds that are there, and how many points of each.
    kinds: Vec<(String, usize)>,
    /// The layers, the checked theme first.
    layers: Vec<String>,
    points: usize,
    failures: Vec<Failed>,
}

/// A node, as the sheet shows it.
#[derive(Serialize)]
struct Entry {
    number: usize,
    what: What,
    /// The kind of point.
    kind: Option<&'static str>,
    group: Group,
    name: String,
    label: Option<String>,
    state: State,
    reason: Option<String>,
    /// Where it is said, as one line.
    place: String,
    layer: String,
    /// Is it marked on the page, with its number?
    marked: bool,
    /// Why it is not to be seen on the page's face.
    unseen: Option<&'static str>,
    /// What opens when it is chosen.
    detail: Option<String>,
    children: Vec<Entry>,
}

/// Something that failed.
#[derive(Serialize)]
struct Failed {
    message: String,
    /// The point that it happened at, and the line.
    about: Vec<String>,
}

fn told(failure: &Failure) -> Failed {
    let place = failure.place.as_ref().map(|(file, line, _)| format!("{file}:{line}"));
    let about = [failure.point.clone(), failure.source.clone(), place].into_iter().flatten().collect();
    Failed { message: failure.message.clone(), about }
}

#[derive(Serialize)]
struct Detail {
    anchor: String,
    kind: &'static str,
    group: Group,
    #[serde(flatten)]
    view: DetailView,
}

impl MapSheet {
    /// The map of a page that was rendered with its tree, and of the same page with sample content.
    pub fn new(
        registry: &Registry,
        path: &str,
        (page, root): (&Rendered, &Node),
        filled: Option<(&Rendered, &Node)>,
    ) -> MapSheet {
        let top = registry.project().top();
        let own = registry.project().layer(top).name.to_string();
        let mut numbers = HashMap::new();
        number(root, &mut 0, &mut numbers);
        let mut embedding =
            Embedding::new(registry.project(), [Some(page), filled.map(|(page, _)| page)].into_iter().flatten());
        let marked = marks::marked(page, &numbers);
        let frame = framed(&embedding.page(&marked.html, path));
        let filled = filled.map(|(filled, its_root)| {
            let mut its = HashMap::new();
            pair(root, its_root, &numbers, &mut its);
            framed(&embedding.page(&marks::marked(filled, &its).html, path))
        });
        let mut making = Making { registry, own: &own, marks: &marked.marked, next: 0, details: BTreeMap::new() };
        let entry = making.entry(root, None, false);
        let details = making.details.into_values().collect();
        let mut kinds: Vec<(String, usize)> = Vec::new();
        count(&entry, &mut kinds);
        let points = kinds.iter().map(|(_, number)| number).sum();
        let mut layers: Vec<String> = registry.project().layers.iter().map(|layer| layer.name.to_string()).collect();
        layers.reverse();
        MapSheet {
            page: path.to_string(),
            theme: own.clone(),
            frame,
            filled,
            root: vec![entry],
            details,
            kinds,
            layers,
            points,
            failures: page.failures.iter().map(told).collect(),
        }
    }

    /// The sheet, as HTML.
    ///
    /// # Errors
    /// Where a template of ours can't be filled.
    pub fn html(&self) -> Result<String, SheetError> {
        pages::fill("map.html", self)
    }
}

/// The numbers of nodes, in the order of the document, by what came out of them on the page.
fn number(node: &Node, next: &mut usize, numbers: &mut HashMap<SegmentId, usize>) {
    if let Some(segment) = node.segment.filter(|_| !matches!(node.what, What::Template | What::Element)) {
        numbers.insert(segment, *next);
    }
    *next += 1;
    node.children.iter().for_each(|child| number(child, next, numbers));
}

/// The numbers of the same nodes on another rendering of the page, in which there may be more.
fn pair(node: &Node, other: &Node, numbers: &HashMap<SegmentId, usize>, found: &mut HashMap<SegmentId, usize>) {
    if let (Some(segment), Some(its)) = (node.segment, other.segment) {
        found.extend(numbers.get(&segment).map(|number| (its, *number)));
    }
    let mut rest = other.children.iter();
    for child in &node.children {
        if let Some(its) = rest.find(|its| its.what == child.what && its.name == child.name) {
            pair(child, its, numbers, found);
        }
    }
}

fn count(entry: &Entry, kinds: &mut Vec<(String, usize)>) {
    if let Some(kind) = entry.kind {
        match kinds.iter_mut().find(|(known, _)| known == kind) {
            Some((_, number)) => *number += 1,
            None => kinds.push((kind.to_string(), 1)),
        }
    }
    entry.children.iter().for_each(|child| count(child, kinds));
}

struct Making<'m> {
    registry: &'m Registry,
    own: &'m str,
    marks: &'m HashSet<usize>,
    next: usize,
    /// By their anchors.
    details: BTreeMap<String, Detail>,
}

impl Making<'_> {
    /// `around` is what opens with the point around it.
    fn entry(&mut self, node: &Node, around: Option<&str>, in_head: bool) -> Entry {
        let number = self.next;
        self.next += 1;
        let kind = match node.what {
            What::Template | What::Element => None,
            _ => kind_of(&node.name),
        };
        let in_head = in_head || node.what == What::Element && node.name == "head";
        let marked = self.marks.contains(&number);
        let is_filter = kind == Some("filter");
        let unseen = match (kind, marked) {
            (None, _) => None,
            _ if is_filter => Some("a value on its way"),
            _ if in_head => Some("in the head"),
            (Some(_), false) if node.segment.is_some() => Some("in an attribute or a title"),
            _ => None,
        };
        let detail = match kind.and_then(|_| self.detail(&node.name)) {
            Some(own) => Some(own),
            None if node.what == What::Step => around.map(str::to_string),
            None => None,
        };
        let place = node.place.as_ref().map(|place| self.shown(place)).unwrap_or_default();
        let layer = match (node.what, &node.label) {
            (What::Step, Some(label)) if kind.is_none() => label.split(' ').nth(1).unwrap_or_default().to_string(),
            _ => node.place.as_ref().map(|place| place.layer.clone()).unwrap_or_default(),
        };
        Entry {
            number,
            what: node.what,
            kind,
            group: kind.map_or(Group::Rest, group_of),
            name: node.name.clone(),
            label: node.label.clone(),
            state: node.state,
            reason: node.reason.clone(),
            place,
            layer: layer.trim_end_matches(',').to_string(),
            marked: marked && !in_head,
            unseen,
            children: node
                .children
                .iter()
                .map(|child| self.entry(child, detail.as_deref().or(around), in_head))
                .collect(),
            detail,
        }
    }

    /// The anchor of what is known of a point.
    fn detail(&mut self, name: &str) -> Option<String> {
        let anchor = name.replace(':', ".").replace('/', "_");
        let address = name.parse::<Address>().ok()?;
        let point = self.registry.point(address)?;
        self.details.entry(anchor.clone()).or_insert_with(|| {
            let kind = address.kind.word();
            Detail { anchor: anchor.clone(), kind, group: group_of(kind), view: DetailView::new(self.registry, point) }
        });
        Some(anchor)
    }

    /// Where something is: people know where templates lie.
    fn shown(&self, place: &PlaceView) -> String {
        place.shown(self.own).replacen("markup/", "", 1)
    }
}
