//! A page as people hold it against what they see: its templates, the elements that matter, the points at their places,
//! what fills them, and what runs there, in the order of the document.

mod node;
mod unmet;

use std::collections::{HashMap, HashSet};

use html5gum::emitters::default::DefaultEmitter;
use html5gum::{Token, Tokenizer};
use truehook_core::address::{Address, Kind};
use truehook_core::link::{Point, Registry, Renderer, Slot, UseId};
use truehook_core::read::FileKind;
use truehook_core::scan::Verb;
use truehook_core::source::{FileId, Place, Span};
use truehook_core::view::PlaceView;

pub use node::{Node, State, What};

use crate::record::trace::{Failure, Step, StepState};
use crate::record::tree::{Origin, OutletName, Part, SegmentId, Source, Tree};
use crate::stage::Rendered;

/// Elements that divide a page (HTML, 3.2.5.2.3 "Sectioning content", and those around it).
const ELEMENTS: [&str; 11] =
    ["head", "body", "header", "nav", "main", "aside", "footer", "article", "section", "form", "dialog"];

/// A tag of such an element.
struct Tag {
    at: usize,
    name: String,
    label: Option<String>,
    opens: bool,
}

/// The map of a page that was rendered with its tree.
pub fn map(registry: &Registry, page: &Rendered) -> Node {
    let tags = tags(&page.html);
    let mut failures: HashMap<&str, &Failure> = HashMap::new();
    for failure in &page.failures {
        if let Some(point) = &failure.point {
            failures.entry(point).or_insert(failure);
        }
    }
    let mut steps: HashMap<(Address, Place), &Step> = HashMap::new();
    for step in &page.trace.steps {
        if let Some(slot) = step.slot {
            steps.entry((step.point, slot)).or_insert(step);
        }
    }
    let mut mapping = Mapping { registry, page, failures, steps, tags, at: 0, next: 0 };
    let mut root = match page.tree.segments.is_empty() {
        true => Node::new(What::Template, "–"),
        false => mapping
            .segment(SegmentId(0), By::default())
            .into_iter()
            .next()
            .unwrap_or_else(|| Node::new(What::Template, "–")),
    };
    unmet::add(registry, page, &mut root, |point| mapping.why_empty(point));
    root.children.extend(mapping.filters());
    root
}

fn tags(html: &str) -> Vec<Tag> {
    let mut emitter = DefaultEmitter::<usize>::new_with_span();
    emitter.naively_switch_states(true);
    let mut found = Vec::new();
    for token in Tokenizer::new_with_emitter(html, emitter) {
        let Ok(token) = token;
        let (name, at, label, opens) = match token {
            Token::StartTag(tag) => {
                let value = |key: &[u8]| {
                    tag.attributes.get(key).map(|value| String::from_utf8_lossy(&value.value).into_owned())
                };
                let id = value(b"id").filter(|id| !id.is_empty()).map(|id| format!("#{id}"));
                let class = value(b"class").and_then(|class| Some(format!(".{}", class.split_whitespace().next()?)));
                (tag.name, tag.span.start, value(b"aria-label").or(id).or(class), true)
            }
            Token::EndTag(tag) => (tag.name, tag.span.start, None, false),
            _ => continue,
        };
        let name = String::from_utf8_lossy(&name).into_owned();
        if ELEMENTS.contains(&name.as_str()) {
            found.push(Tag { at, name, label, opens });
        }
    }
    found
}

/// What printed a segment: the template at hand, and its expression where that is known.
#[derive(Clone, Copy, Default)]
struct By {
    template: Option<FileId>,
    source: Option<Source>,
}

struct Mapping<'m> {
    registry: &'m Registry,
    page: &'m Rendered,
    /// The first failure at each point.
    failures: HashMap<&'m str, &'m Failure>,
    /// The first time that each attachment had its turn.
    steps: HashMap<(Address, Place), &'m Step>,
    tags: Vec<Tag>,
    /// How much of the page's text was passed.
    at: usize,
    /// The next of its tags.
    next: usize,
}

impl Mapping<'_> {
    fn tree(&self) -> &Tree {
        &self.page.tree
    }

    /// The nodes of a segment: one, or where it has no name of its own, those in it.
    fn segment(&mut self, id: SegmentId, By { template, source }: By) -> Vec<Node> {
        let segment = self.tree().get(id).clone();
        let file = match &segment.origin {
            Origin::Template(name) => self.template(name).or(template),
            // What a component places stands in its own template.
            Origin::Point(point) => match self.registry.point(*point).and_then(|point| point.renderer) {
                Some(Renderer::Template(file)) => Some(file),
                _ => template,
            },
            _ => template,
        };
        // Elements that are open, the innermost last; what comes belongs into it.
        let mut open: Vec<Node> = vec![Node::new(What::Element, "")];
        let begun = self.at;
        for (at, part) in segment.parts.iter().enumerate() {
            match part {
                Part::Text(text) => {
                    self.at += text.len();
                    self.elements(&mut open);
                }
                Part::Segment(inner) => {
                    let source = segment.sources.get(at).copied().flatten();
                    let nodes = self.segment(*inner, By { template: file, source });
                    if let Some(node) = open.last_mut() {
                        node.children.extend(nodes);
                    }
                }
                Part::Hole(_) => {}
            }
        }
        while open.len() > 1 {
            close(&mut open);
        }
        let children = open.pop().map(|node| node.children).unwrap_or_default();
        let shows = self.page.html.get(begun..self.at).is_some_and(|text| !text.trim().is_empty());
        let parent = segment.parent;
        let mut nodes = self.named(&segment.origin, parent, children, shows, By { template, source });
        if let ([node], false) =
            (&mut nodes[..], matches!(segment.origin, Origin::Outlet(OutletName::Held | OutletName::Host)))
        {
            node.segment = Some(id);
        }
        nodes
    }

    /// Opens and closes the elements whose tags were passed.
    fn elements(&mut self, open: &mut Vec<Node>) {
        while let Some(tag) = self.tags.get(self.next).filter(|tag| tag.at < self.at) {
            if tag.opens {
                let label = tag.label.clone();
                open.push(Node { label, ..Node::new(What::Element, tag.name.clone()) });
            } else if let Some(level) = open.iter().skip(1).rposition(|node| node.name == tag.name) {
                while open.len() > level + 1 {
                    close(open);
                }
            }
            self.next += 1;
        }
    }

    fn named(&self, origin: &Origin, parent: Option<SegmentId>, children: Vec<Node>, shows: bool, by: By) -> Vec<Node> {
        match origin {
            Origin::Template(name) => {
                let place = self.template(name).map(|file| PlaceView::new(self.registry, file, Span::new(0, 0)));
                vec![Node { place, children, ..Node::new(What::Template, name.to_string()) }]
            }
            Origin::Callback(name) => {
                vec![Node {
                    children,
                    state: if shows { State::Shows } else { State::Empty },
                    ..Node::new(What::Step, name.to_string())
                }]
            }
            Origin::Outlet(OutletName::Sections) => vec![Node { children, ..Node::new(What::Point, "sections") }],
            Origin::Outlet(_) => children,
            Origin::Point(address) => {
                let above = parent.map(|parent| self.tree().get(parent).origin.clone());
                let around = parent.and_then(|parent| self.component_around(parent));
                vec![self.point(*address, (above.as_ref(), around), children, shows, by)]
            }
        }
    }

    /// The component in whose template something stands.
    fn component_around(&self, mut id: SegmentId) -> Option<Address> {
        loop {
            let segment = self.tree().get(id);
            match segment.origin {
                Origin::Point(point) => return Some(point),
                _ => id = segment.parent?,
            }
        }
    }

    fn point(
        &self,
        address: Address,
        (above, around): (Option<&Origin>, Option<Address>),
        children: Vec<Node>,
        shows: bool,
        by: By,
    ) -> Node {
        let holder = match above {
            Some(Origin::Point(holder)) => matches!(holder.kind, Kind::Region | Kind::Area),
            Some(Origin::Outlet(outlet)) => matches!(outlet, OutletName::Held | OutletName::Sections),
            _ => false,
        };
        let holder_of = match above {
            Some(Origin::Point(holder)) => Some(*holder),
            _ => around,
        };
        let at_hook = matches!(above, Some(Origin::Point(hook)) if hook.kind == Kind::Hook);
        let what = match address.kind.is_component() {
            true if at_hook => What::Step,
            true if holder => What::Item,
            _ => What::Point,
        };
        let mut node = Node::new(what, address.to_string());
        let Some(point) = self.registry.point(address) else {
            (node.state, node.reason) = (State::Failed, Some("no layer declares it".into()));
            return node;
        };
        node.label = point.label.or(point.about).map(|text| text.to_string());
        node.children = self.with_steps(point, children);
        node.place = match what {
            What::Item => self.filled(address, holder_of),
            _ => self.placed(point, by).map(|place| self.view(place)),
        };
        let failed = self.failures.get(address.to_string().as_str()).copied();
        (node.state, node.reason) = match (shows, failed) {
            (true, _) => (State::Shows, None),
            (false, Some(failure)) => (State::Failed, Some(failure.message.clone())),
            (false, None) => (State::Empty, Some(self.why_empty(point))),
        };
        node
    }

    /// Where an item is filled in, where its holder has just one of that component: of several, nobody can say which
    /// one this is once they were arranged.
    fn filled(&self, component: Address, holder: Option<Address>) -> Option<PlaceView> {
        let items = self.registry.items();
        let mut fitting = items.iter().filter(|item| item.component == Some(component) && item.holder == holder);
        let item = fitting.next().filter(|_| fitting.next().is_none())?;
        Some(self.view(Place { file: item.file, at: item.item.component.at }))
    }

    /// Why nothing shows of a point.
    fn why_empty(&self, point: &Point) -> String {
        if let Some(by) = point.dropped {
            return format!("{} has dropped it", self.registry.project().layer(by.layer).name);
        }
        let given = if point.address.kind == Kind::Menu { !point.fills.is_empty() } else { !point.items.is_empty() };
        let filled = given || !point.slots.is_empty();
        match point.address.kind {
            Kind::Hook if point.slots.is_empty() => "nothing is attached to it".into(),
            Kind::Hook => "nothing that is attached to it prints anything here".into(),
            Kind::Region | Kind::Area | Kind::Menu if !filled => "nothing fills it".into(),
            Kind::Region | Kind::Area | Kind::Menu => "nothing of what fills it shows here".into(),
            _ => "it prints nothing".into(),
        }
    }

    /// What is in a point, with what has its turn there: in running order, those behind that did not run.
    fn with_steps(&self, point: &Point, children: Vec<Node>) -> Vec<Node> {
        let mut steps: Vec<Node> = Vec::new();
        let mut rest = children;
        for slot in point.slots.iter() {
            let name = self.registry.slot_name(slot);
            let ran = self.steps.get(&(point.address, slot.place)).copied();
            let short = name.rsplit(':').next().unwrap_or(&name).to_string();
            let is_it = |node: &Node| node.what == What::Step && (node.name == name || node.name.ends_with(&short));
            let mut node = match rest.iter().position(is_it) {
                Some(at) => rest.remove(at),
                None => Node::new(What::Step, name.clone()),
            };
            self.say(&mut node, slot, ran);
            node.name = name;
            steps.push(node);
        }
        for slot in point.detached.iter() {
            let mut node = Node::new(What::Step, self.registry.first_name(slot));
            node.state = State::Detached;
            let by = slot.detached.map(|by| self.registry.project().layer(by.layer).name.to_string());
            node.reason = by.map(|by| format!("{by} took it away"));
            node.label = Some(self.turn(slot));
            node.place = Some(self.view(slot.place));
            steps.push(node);
        }
        // What arranges or prepares comes before what it works on; what prints is what is there.
        if point.address.kind != Kind::Hook {
            steps.extend(rest);
            return steps;
        }
        rest.extend(steps);
        rest
    }

    fn say(&self, node: &mut Node, slot: &Slot, ran: Option<&Step>) {
        node.label = Some(self.turn(slot));
        node.place = Some(self.view(slot.place));
        let when = slot.when.as_ref().map(|when| format!("when {}", when.text));
        (node.state, node.reason) = match ran.map(|step| step.state) {
            Some(StepState::Failed) => (State::Failed, None),
            Some(StepState::Ran) => (if node.state == State::Empty { State::Empty } else { State::Shows }, None),
            _ => (State::Off, when.or_else(|| Some("it had no turn here".into()))),
        };
        if let Some(replaced) = &slot.replaced {
            let by = self.registry.project().layer(replaced.by.layer).name;
            node.label =
                Some(format!("{}, by {by} in the place of {}", self.turn(slot), self.registry.first_name(slot)));
        }
    }

    /// When a step has its turn, and whose it is.
    fn turn(&self, slot: &Slot) -> String {
        format!("{} {}", slot.priority, self.registry.project().layer(slot.layer).name)
    }

    fn view(&self, place: Place) -> PlaceView {
        PlaceView::new(self.registry, place.file, self.registry.span(place))
    }

    /// Where a point is placed: in the expression that printed it, in the template at hand, else wherever it is.
    fn placed(&self, point: &Point, by: By) -> Option<Place> {
        let placed = || point.uses.iter().filter(|used| self.registry.use_of(**used).verb == Verb::Place);
        let inside = |used: &&UseId| {
            let Some(source) = by.source.filter(|source| source.file == used.file) else { return false };
            let span = self.registry.span(self.registry.use_place(**used));
            source.span.start <= span.start && span.end <= source.span.end
        };
        let here = placed().find(inside).or_else(|| placed().find(|used| Some(used.file) == by.template));
        let anywhere = here.or_else(|| placed().next()).map(|used| self.registry.use_place(*used));
        anywhere.or_else(|| point.declared.last().map(|declared| declared.place))
    }

    fn template(&self, name: &str) -> Option<FileId> {
        let (layer, file) = name.split_once(':').unwrap_or(("", name));
        let files = self.registry.files_named(FileKind::Template, file);
        let of_layer = |file: &&FileId| {
            let layer_of = self.registry.project().file(**file).layer;
            self.registry.project().layer(layer_of).name.as_str() == layer
        };
        files.iter().find(of_layer).or(files.last()).copied()
    }

    /// The filters that values were sent through: they are in the text, and have no place in the tree.
    fn filters(&self) -> Vec<Node> {
        let mut seen: HashSet<Address> = HashSet::new();
        let mut nodes = Vec::new();
        for address in self.page.trace.points.iter().filter(|point| point.kind == Kind::Filter) {
            let Some(point) = self.registry.point(*address).filter(|_| seen.insert(*address)) else { continue };
            if point.slots.is_empty() && point.detached.is_empty() {
                continue;
            }
            let mut node = Node::new(What::Point, address.to_string());
            node.label = point.about.map(|about| about.to_string());
            node.children = self.with_steps(point, Vec::new());
            let used = point.uses.first().map(|used| self.registry.use_place(*used));
            node.place =
                used.or_else(|| point.declared.last().map(|declared| declared.place)).map(|place| self.view(place));
            nodes.push(node);
        }
        nodes
    }
}

/// Closes the innermost element: it belongs to the one around it.
fn close(open: &mut Vec<Node>) {
    let (Some(done), Some(around)) = (open.pop(), open.last_mut()) else { return };
    around.children.push(done);
}
