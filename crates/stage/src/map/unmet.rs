//! Points that the page's templates place and that are not on it: a condition around them isn't met. They come into the
//! map where they would stand.

use truehook_core::address::{Address, Kind};
use truehook_core::link::{Point, Registry, Remaining, Renderer, UseId};
use truehook_core::scan::{Verb, html_alone};
use truehook_core::source::{FileId, LineIndex};
use truehook_core::view::PlaceView;

use super::{Node, State, Tag, What, tags};
use crate::stage::Rendered;

/// Adds them to a map.
pub(super) fn add(registry: &Registry, page: &Rendered, root: &mut Node, why_empty: impl Fn(&Point) -> String) {
    let Some(at) = registry.types().iter().position(|known| known.name == *page.page_type) else { return };
    let mut lacking: Vec<(UseId, Node)> = Vec::new();
    for point in registry.points().filter(|point| is_shown_alone(point)) {
        if names(root, point.address) {
            continue;
        }
        let is_placed = |id: &&UseId| {
            registry.template(id.file).is_some()
                && registry.use_of(**id).verb == Verb::Place
                && registry.use_reached(**id).has(at)
        };
        let Some(id) = point.uses.iter().find(is_placed) else { continue };
        let conditions = registry.use_conditions(*id).into_iter().filter(|group| group.types.has(at));
        let conditions: Vec<Remaining> =
            conditions.flat_map(|group| group.all().copied().collect::<Vec<_>>()).collect();
        let met = |condition: &Remaining| {
            page.met.iter().find(|(text, _)| *text == condition.text.as_str()).map(|(_, met)| *met)
        };
        let unmet = conditions.iter().find(|condition| met(condition) == Some(false));
        let unmet = unmet.or_else(|| conditions.iter().find(|condition| met(condition).is_none()));
        let (state, reason) = match unmet {
            Some(condition) => (State::Off, condition.denied()),
            None => (State::Empty, why_empty(point)),
        };
        let mut node = Node::new(What::Point, point.address.to_string());
        node.label = point.label.or(point.about).map(|text| text.to_string());
        node.place = Some(PlaceView::new(registry, id.file, registry.span(registry.use_place(*id))));
        (node.state, node.reason) = (state, Some(reason));
        lacking.push((*id, node));
    }
    // In the order of the templates, so that each finds those before it.
    lacking.sort_by_key(|(id, _)| (id.file, registry.span(registry.use_place(*id)).start));
    for (id, node) in lacking {
        insert(registry, root, id, node);
    }
}

/// Is it placed by itself, and no part of something else?
fn is_shown_alone(point: &Point) -> bool {
    let kind = matches!(point.address.kind, Kind::Hook | Kind::Region | Kind::Area | Kind::Menu);
    kind && !point.moment && point.dropped.is_none() && !point.declared.is_empty()
}

fn names(node: &Node, address: Address) -> bool {
    let own = node.what != What::Step && node.name == address.to_string();
    own || node.children.iter().any(|child| names(child, address))
}

/// Puts a node where it would stand: behind what its template places before it, in the elements that are around it there.
fn insert(registry: &Registry, root: &mut Node, id: UseId, node: Node) {
    let Some(mut path) = container(registry, root, id.file) else { return };
    let text = registry.project().file(id.file).text();
    let tags = html_alone(text).map_or(Vec::new(), |html| tags(&html));
    let own = registry.span(registry.use_place(id)).start as usize;
    let around = elements_at(&tags, own);
    let lines = LineIndex::new(text);
    let mut before: Vec<(usize, Vec<usize>)> = Vec::new();
    placed_in(at(root, &path), &node, &path, &mut |place, path| {
        let start = lines.lines(place.line, place.line).start;
        let letters = text[start..].chars().take(place.column - 1);
        before.push((start + letters.map(char::len_utf8).sum::<usize>(), path));
    });
    let mut position = 0;
    let nearest = before.into_iter().filter(|(offset, _)| *offset < own).max_by_key(|(offset, _)| *offset);
    let mut shared = 0;
    if let Some((offset, mut near)) = nearest {
        let others = elements_at(&tags, offset);
        shared = around.iter().zip(&others).take_while(|((one, _), (other, _))| one == other).count();
        // Out of the elements in which that stands and this one does not.
        let mut known = 0;
        for depth in path.len()..near.len() - 1 {
            let element = at(root, &near[..=depth]);
            if element.what != What::Element {
                continue;
            }
            let same = others.iter().skip(known).position(|(_, name)| *name == element.name);
            known += same.map_or(0, |same| same + 1);
            if same.is_none() || known > shared {
                near.truncate(depth + 1);
                break;
            }
        }
        position = near.pop().map_or(0, |last| last + 1);
        path = near;
    }
    // Into those in which this one stands alone; those that are not on the page come into the map, too.
    for (start, name) in &around[shared..] {
        let children = &mut at_mut(root, &path).children;
        let is_it = |child: &Node| child.what == What::Element && child.name == *name;
        let found = children.iter().skip(position).position(is_it).map(|found| position + found);
        let found = found.unwrap_or_else(|| {
            let label = tags.iter().find(|tag| tag.at == *start).and_then(|tag| tag.label.clone());
            let position = position.min(children.len());
            children.insert(position, Node { label, state: State::Off, ..Node::new(What::Element, *name) });
            position
        });
        path.push(found);
        position = 0;
    }
    let children = &mut at_mut(root, &path).children;
    children.insert(position.min(children.len()), node);
}

/// The node in which what a template places comes to stand: the component that it renders, or the whole page.
fn container(registry: &Registry, root: &Node, file: FileId) -> Option<Vec<usize>> {
    let is_rendered =
        |point: &&Point| point.address.kind.is_component() && point.renderer == Some(Renderer::Template(file));
    match registry.points().find(is_rendered) {
        None => Some(Vec::new()),
        Some(component) => find(root, &component.address.to_string()),
    }
}

fn find(node: &Node, name: &str) -> Option<Vec<usize>> {
    if node.name == name {
        return Some(Vec::new());
    }
    node.children.iter().enumerate().find_map(|(at, child)| {
        let mut path = find(child, name)?;
        path.insert(0, at);
        Some(path)
    })
}

fn at<'n>(root: &'n Node, path: &[usize]) -> &'n Node {
    path.iter().fold(root, |node, at| &node.children[*at])
}

fn at_mut<'n>(root: &'n mut Node, path: &[usize]) -> &'n mut Node {
    path.iter().fold(root, |node, at| &mut node.children[*at])
}

/// Goes through the nodes that the template of `like` places, with the way to each.
fn placed_in(node: &Node, like: &Node, path: &[usize], seen: &mut impl FnMut(&PlaceView, Vec<usize>)) {
    let Some(own) = &like.place else { return };
    for (at, child) in node.children.iter().enumerate() {
        let way: Vec<usize> = path.iter().copied().chain([at]).collect();
        let here = child.place.as_ref().filter(|place| place.file == own.file && place.layer == own.layer);
        if let (What::Point, Some(place)) = (child.what, here) {
            seen(place, way.clone());
        }
        placed_in(child, like, &way, seen);
    }
}

/// The elements that are open at an offset of a template, the outermost first: where each begins, and its name.
fn elements_at(tags: &[Tag], offset: usize) -> Vec<(usize, &str)> {
    let mut open: Vec<(usize, &str)> = Vec::new();
    for tag in tags.iter().take_while(|tag| tag.at < offset) {
        if tag.opens {
            open.push((tag.at, &tag.name));
        } else if let Some(level) = open.iter().rposition(|(_, name)| *name == tag.name) {
            open.truncate(level);
        }
    }
    open
}
