//! The reference of a theme, as Markdown that can be kept beside it, or as a page with search.

use serde::Serialize;
use truehook_core::address::{Address, Kind};
use truehook_core::view::{AtlasPointView, AtlasView};
use truehook_stage::map::{Node, What};

use crate::SheetError;
use crate::pages;
use crate::signs::{Group, group_of, kind_of};

/// A page of some type, as it was mapped.
pub struct PlannedPage<'p> {
    /// The type.
    pub page_type: String,
    /// Its map.
    pub root: &'p Node,
}

/// The atlas, ready to be written.
#[derive(Serialize)]
pub struct AtlasSheet<'a> {
    view: &'a AtlasView,
    title: String,
    kinds: Vec<OfKind<'a>>,
    plans: Vec<Plan>,
}

/// The points of a kind.
#[derive(Serialize)]
struct OfKind<'a> {
    kind: &'static str,
    several: String,
    group: Group,
    points: Vec<Entry<'a>>,
}

/// A point, and where it stands.
#[derive(Serialize)]
struct Entry<'a> {
    anchor: String,
    #[serde(flatten)]
    point: &'a AtlasPointView,
    /// The types of pages on whose plans it is.
    on: Vec<String>,
}

/// The plan of some types of pages: their elements, and the points in them.
#[derive(Serialize)]
struct Plan {
    page_types: Vec<String>,
    root: Vec<PlanNode>,
    /// The same as lines of text.
    lines: Vec<String>,
}

#[derive(Serialize)]
struct PlanNode {
    name: String,
    label: Option<String>,
    kind: Option<&'static str>,
    group: Group,
    anchor: Option<String>,
    children: Vec<PlanNode>,
}

impl AtlasSheet<'_> {
    /// The atlas of a theme, with a page of each type for its plans.
    pub fn new<'a>(view: &'a AtlasView, pages: &[PlannedPage<'_>]) -> AtlasSheet<'a> {
        let known: Vec<String> = view.points.iter().map(|point| point.point.address.clone()).collect();
        // Types of pages that look the same have one plan.
        let mut plans: Vec<Plan> = Vec::new();
        for page in pages {
            let new = plan(page, &known);
            match plans.iter_mut().find(|known| known.lines == new.lines) {
                Some(known) => known.page_types.extend(new.page_types),
                None => plans.push(new),
            }
        }
        let on = |address: &str| {
            let pages = pages.iter().filter(|page| holds(page.root, address));
            pages.map(|page| page.page_type.clone()).collect::<Vec<_>>()
        };
        let of_kind = |kind: Kind| {
            let points: Vec<Entry<'a>> = view
                .points
                .iter()
                .filter(|point| point.kind == kind.word())
                .map(|point| Entry { anchor: anchor(&point.point.address), on: on(&point.point.address), point })
                .collect();
            let word = kind.word();
            (!points.is_empty()).then(|| OfKind { kind: word, several: several(word), group: group_of(word), points })
        };
        AtlasSheet {
            view,
            title: view.theme.title().to_string(),
            kinds: Kind::ALL.into_iter().filter_map(of_kind).collect(),
            plans,
        }
    }

    /// The atlas as HTML.
    ///
    /// # Errors
    /// Where a template of ours can't be filled.
    pub fn html(&self) -> Result<String, SheetError> {
        pages::fill("atlas.html", self)
    }

    /// The atlas as Markdown (CommonMark 0.31).
    ///
    /// # Errors
    /// Where a template of ours can't be filled.
    pub fn markdown(&self) -> Result<String, SheetError> {
        let text = pages::fill("atlas.md", self)?;
        // Where something is left out, its empty lines are, too.
        let mut lines: Vec<&str> = Vec::new();
        for line in text.lines().map(str::trim_end) {
            if !(line.is_empty() && lines.last().is_none_or(|last| last.is_empty())) {
                lines.push(line);
            }
        }
        Ok(format!("{}\n", lines.join("\n").trim_end()))
    }
}

fn several(word: &str) -> String {
    match word {
        "area" => "Widget areas".into(),
        "menu" => "Menu spots".into(),
        word => format!("{}{}s", word[..1].to_uppercase(), &word[1..]),
    }
}

fn anchor(address: &str) -> String {
    address.replace([':', '/'], "-")
}

fn holds(node: &Node, address: &str) -> bool {
    node.name == address || node.children.iter().any(|child| holds(child, address))
}

fn plan(page: &PlannedPage<'_>, known: &[String]) -> Plan {
    let root = pruned(page.root, known);
    let mut lines = Vec::new();
    for node in &root {
        write(node, 0, &mut lines);
    }
    Plan { page_types: vec![page.page_type.clone()], root, lines }
}

/// A node without what fills it and what runs there: only what stands in templates.
fn pruned(node: &Node, known: &[String]) -> Vec<PlanNode> {
    let children = || -> Vec<PlanNode> { node.children.iter().flat_map(|child| pruned(child, known)).collect() };
    let kind = kind_of(&node.name);
    match node.what {
        What::Template => children(),
        What::Element => {
            let inside = children();
            let named = PlanNode {
                name: node.name.clone(),
                label: node.label.clone(),
                kind: None,
                group: Group::Rest,
                anchor: None,
                children: inside,
            };
            if named.children.is_empty() { Vec::new() } else { vec![named] }
        }
        What::Point if kind.is_some_and(|kind| kind != "filter") => {
            let is_spot = node.name == "sections"
                || node.name.parse::<Address>().is_ok_and(|address| !address.kind.is_component());
            // What a spot holds is the site's; a part of a template may hold spots of its own.
            let children = if is_spot { Vec::new() } else { children() };
            vec![PlanNode {
                name: node.name.clone(),
                label: node.label.clone(),
                kind,
                group: kind.map_or(Group::Rest, group_of),
                anchor: known.contains(&node.name).then(|| anchor(&node.name)),
                children,
            }]
        }
        _ => Vec::new(),
    }
}

fn write(node: &PlanNode, depth: usize, lines: &mut Vec<String>) {
    let label = node.label.as_ref().map(|label| format!("  {label}")).unwrap_or_default();
    let label = if node.kind.is_some() {
        label
    } else {
        node.label.as_ref().map(|label| format!(" {label}")).unwrap_or_default()
    };
    lines.push(format!("{}{}{label}", "  ".repeat(depth), node.name));
    node.children.iter().for_each(|child| write(child, depth + 1, lines));
}
