//! The links of the chain, from the innermost outwards.

use std::ops::Range;

use truehook_core::address::{Address, Kind};
use truehook_core::link::{Registry, Renderer};
use truehook_core::scan::Verb;
use truehook_core::source::Place;
use truehook_core::view::PlaceView;

use super::pieces::Piece;
use super::values::{fired, function};
use super::{Chain, Link, LinkKind, Traced};
use crate::map::{Node, What};
use crate::record::trace::Step;
use crate::record::tree::{Origin, OutletName, Printed, SegmentId, Source};

/// Where some bytes of a page came from, which are in one of its pieces.
pub fn origin(traced: Traced<'_>, piece: &Piece, range: &Range<usize>) -> Chain {
    let within = range.start.max(piece.range.start)..range.end.min(piece.range.end);
    let text = traced.page.html.get(within.clone()).unwrap_or_default();
    let mut tracing = Tracing { traced, text: plain(text), chain: Vec::new(), points: Vec::new() };
    tracing.innermost(piece, &within);
    tracing.outwards(piece.segment);
    let ways = tracing.ways();
    Chain { text: tracing.text, chain: tracing.chain, ways }
}

/// A text as people read it.
fn plain(text: &str) -> String {
    let words: Vec<&str> = text.split_whitespace().collect();
    let text = words.join(" ");
    let signs = [("&lt;", "<"), ("&gt;", ">"), ("&quot;", "\""), ("&#39;", "'"), ("&#x27;", "'"), ("&amp;", "&")];
    signs.iter().fold(text, |text, (written, sign)| text.replace(written, sign))
}

pub(super) struct Tracing<'t> {
    pub traced: Traced<'t>,
    pub text: String,
    pub chain: Vec<Link>,
    /// The points that had a part in it, the innermost first.
    pub points: Vec<Address>,
}

impl<'t> Tracing<'t> {
    pub fn registry(&self) -> &'t Registry {
        self.traced.registry
    }

    pub fn add(&mut self, what: LinkKind, name: impl Into<String>, place: Option<PlaceView>) {
        self.chain.push(Link { what, name: name.into(), place, before: None, after: None });
    }

    fn innermost(&mut self, piece: &Piece, within: &Range<usize>) {
        if let Some(source) = piece.source_of(within) {
            let place = PlaceView::new(self.registry(), source.file, source.span);
            match source.printed {
                Printed::AsWritten => self.add(LinkKind::Text, self.registry().template_name(source.file), Some(place)),
                Printed::ByExpression => self.expression(piece, source, place),
                Printed::ByWrap => self.wrap(piece, source, place),
            }
            return;
        }
        let origin = self.traced.page.tree.get(piece.segment).origin.clone();
        match origin {
            Origin::Callback(name) => self.callback(&name),
            Origin::Point(point) => match self.renderer(point) {
                Some(callback) => self.callback(&callback),
                None => self.host(within),
            },
            _ => self.host(within),
        }
    }

    /// The callback that renders a component.
    fn renderer(&self, component: Address) -> Option<String> {
        match self.registry().point(component)?.renderer? {
            Renderer::Callback(callback) => Some(self.registry().callback_name(callback)),
            Renderer::Template(_) => None,
        }
    }

    /// What a declaration puts around something: its own markup, or what it is put around.
    fn wrap(&mut self, piece: &Piece, source: Source, place: PlaceView) {
        let around = self.traced.page.tree.get(piece.segment).origin.clone();
        let file = self.registry().project().file(source.file).text();
        let table = &file[source.span.start as usize..];
        let table = &table[..table.find("\n[").unwrap_or(table.len())];
        if !table.contains(&self.text) {
            match around {
                Origin::Point(point) if let Some(callback) = self.renderer(point) => self.callback(&callback),
                _ => self.value(),
            }
        }
        let name = if let Origin::Point(point) = around { point.to_string() } else { "wrap".into() };
        self.add(LinkKind::Wrap, name, Some(place));
    }

    /// What the host prints by itself: the title of a page, what loads an asset.
    fn host(&mut self, within: &Range<usize>) {
        let html = &self.traced.page.html;
        let start = html[..within.start].rfind('<').filter(|_| !html[within.clone()].starts_with('<'));
        let tag = &html[start.unwrap_or(within.start)..];
        let registry = self.registry();
        let view = |address: Address| {
            let declared = registry.point(address).and_then(|point| point.declared.last());
            declared.map(|declared| PlaceView::new(registry, declared.place.file, registry.span(declared.place)))
        };
        if tag.starts_with("<title") {
            self.sent(Address::new(Kind::Filter, "page-heading"));
            self.value();
            let titles = Address::new(Kind::Feature, "page-titles");
            return self.add(LinkKind::Host, titles.to_string(), view(titles));
        }
        let tag = &tag[..tag.find('>').unwrap_or(tag.len())];
        let asset = registry.asset_order().iter().rev().find(|asset| {
            let file = registry.point(**asset).and_then(|point| registry.asset_file(point));
            let name = file.map(|file| registry.project().file(file).path.file_name().unwrap_or_default());
            name.is_some_and(|name| tag.contains(&format!("/{name}")))
        });
        match asset {
            Some(asset) => self.add(LinkKind::Host, asset.to_string(), view(*asset)),
            None => self.add(LinkKind::Host, "the host", None),
        }
    }

    fn callback(&mut self, name: &str) {
        self.add(LinkKind::Callback, name, function(self.registry(), name));
    }

    /// An expression, what its value was sent through, and where that may be from.
    fn expression(&mut self, piece: &Piece, source: Source, place: PlaceView) {
        let registry = self.registry();
        let written = &registry.project().file(source.file).text()[source.span.range()];
        self.add(LinkKind::Expression, written, Some(place));
        let uses = registry.template(source.file).map(|template| template.uses.as_slice()).unwrap_or_default();
        let through = uses.iter().filter(|used| used.verb == Verb::Through).filter_map(|used| {
            let at = registry.span(Place { file: source.file, at: used.point.at });
            let inside = source.span.start <= at.start && at.end <= source.span.end;
            used.point.address.filter(|_| inside)
        });
        for filter in through.collect::<Vec<_>>().into_iter().rev() {
            self.sent(filter);
        }
        for filter in fired(written) {
            self.sent(filter);
        }
        self.prepared(piece.segment, written);
        self.value();
    }

    /// The component whose template or callback printed something.
    pub fn component_around(&self, mut id: SegmentId) -> Option<Address> {
        loop {
            let segment = self.traced.page.tree.get(id);
            match segment.origin {
                Origin::Point(point) if point.kind.is_component() => return Some(point),
                _ => id = segment.parent?,
            }
        }
    }

    /// What is around a segment, up to the page's own template.
    fn outwards(&mut self, from: SegmentId) {
        let mut next = Some(from);
        while let Some(id) = next {
            let segment = self.traced.page.tree.get(id);
            let node = node_of(self.traced.root, id);
            let place = node.and_then(|node| node.place.clone());
            let above = segment.parent.map(|parent| &self.traced.page.tree.get(parent).origin);
            if let (Some(Origin::Point(hook)), Some(label)) = (above, node.and_then(|node| node.label.as_ref())) {
                let has_turn = hook.kind == Kind::Hook && !matches!(segment.origin, Origin::Outlet(_));
                if has_turn {
                    self.attached(&segment.origin, label, place.clone(), id == from);
                    next = segment.parent;
                    continue;
                }
            }
            match &segment.origin {
                Origin::Point(address) => self.point(*address, place),
                Origin::Template(name) => self.add(LinkKind::Template, name.to_string(), place),
                Origin::Callback(name) if id != from => self.callback(name),
                Origin::Outlet(OutletName::Sections) => self.add(LinkKind::Point, "sections", place),
                _ => {}
            }
            next = segment.parent;
        }
    }

    /// What has its turn at a hook: what it is, and where that is said.
    fn attached(&mut self, origin: &Origin, turn: &str, place: Option<PlaceView>, is_first: bool) {
        match origin {
            Origin::Point(address) => {
                self.points.push(*address);
                self.add(LinkKind::Component, address.to_string(), None);
            }
            // The innermost is told already.
            Origin::Callback(name) if !is_first => self.callback(name),
            _ => {}
        }
        self.add(LinkKind::Attachment, turn, place);
    }

    fn point(&mut self, address: Address, place: Option<PlaceView>) {
        self.points.push(address);
        if address.kind.is_component() {
            return self.add(LinkKind::Component, address.to_string(), place);
        }
        if matches!(address.kind, Kind::Region | Kind::Area | Kind::Menu) {
            let steps: Vec<Step> = self.steps(address).cloned().collect();
            for step in steps
                .iter()
                .rev()
                .filter(|step| step.values.as_ref().is_some_and(|values| values.before != values.after))
            {
                self.add(LinkKind::Arranger, step.name.to_string(), function(self.registry(), &step.name));
            }
        }
        self.add(LinkKind::Point, address.to_string(), place);
    }
}

fn node_of(node: &Node, id: SegmentId) -> Option<&Node> {
    if node.segment == Some(id) && node.what != What::Element {
        return Some(node);
    }
    node.children.iter().find_map(|child| node_of(child, id))
}
