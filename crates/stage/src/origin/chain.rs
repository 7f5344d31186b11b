//! The links of the chain, from the innermost outwards.

use std::ops::Range;

use serde_json::Value as Json;
use truehook_core::address::{Address, Kind};
use truehook_core::command_line;
use truehook_core::link::{Callback, Point, Registry, Renderer};
use truehook_core::scan::{PageShape, Verb};
use truehook_core::source::{FileId, Place, Span};
use truehook_core::view::{PlaceView, WayView, ways};

use super::pieces::Piece;
use super::{Chain, Link, LinkKind, Traced};
use crate::map::{Node, What};
use crate::record::trace::{Step, StepState};
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

struct Tracing<'t> {
    traced: Traced<'t>,
    text: String,
    chain: Vec<Link>,
    /// The points that had a part in it, the innermost first.
    points: Vec<Address>,
}

impl<'t> Tracing<'t> {
    fn registry(&self) -> &'t Registry {
        self.traced.registry
    }

    fn add(&mut self, what: LinkKind, name: impl Into<String>, place: Option<PlaceView>) {
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

    /// What was done to a value at a filter.
    fn sent(&mut self, filter: Address) {
        self.points.push(filter);
        let steps: Vec<Step> = self.steps(filter).cloned().collect();
        // Of several values, the one that came out as it is on the page.
        let fits = |step: &&Step| step.values.as_ref().is_some_and(|values| self.text.contains(&shown(&values.after)));
        let last = steps.iter().rposition(|step| fits(&step)).map_or(steps.len(), |last| last + 1);
        let names = self.registry().point(filter).map_or(0, |point| point.slots.len());
        let mut seen: Vec<Link> = Vec::new();
        for step in steps[..last].iter().rev().take(names) {
            if seen.iter().any(|known| *known.name == *step.name) {
                break;
            }
            let values = step.values.clone().unwrap_or_default();
            seen.push(Link {
                what: LinkKind::Filter,
                name: step.name.to_string(),
                place: function(self.registry(), &step.name),
                before: Some(shown(&values.before)),
                after: Some(shown(&values.after)),
            });
        }
        self.chain.extend(seen);
    }

    fn steps(&self, point: Address) -> impl Iterator<Item = &'t Step> {
        let steps = &self.traced.page.trace.steps;
        steps.iter().filter(move |step| step.point == point && step.slot.is_some() && step.state == StepState::Ran)
    }

    /// What preparers made of the inputs that an expression reads.
    fn prepared(&mut self, segment: SegmentId, written: &str) {
        let Some(component) = self.component_around(segment) else { return };
        let Some(point) = self.registry().point(component) else { return };
        for input in point.inputs.iter().map(|input| input.field.name.as_str()).filter(|name| reads(written, name)) {
            let changed = self.steps(component).filter_map(|step| {
                let values = step.values.as_ref()?;
                let [before, after] = [&values.before, &values.after].map(|text| part(text, input));
                (before != after).then_some((step, before, after))
            });
            let changed: Vec<_> = changed.collect();
            let alone = changed.len() == 1;
            for (step, before, after) in changed.into_iter().rev() {
                if alone || after.as_ref().is_some_and(|after| self.text.contains(after.as_str()) && !after.is_empty())
                {
                    let place = function(self.registry(), &step.name);
                    self.chain.push(Link {
                        what: LinkKind::Preparer,
                        name: step.name.to_string(),
                        place,
                        before,
                        after,
                    });
                }
            }
        }
    }

    /// The one line of the preview's files in which the text stands.
    fn value(&mut self) {
        let before = self.chain.iter().rev().find_map(|link| link.before.clone());
        let text = before.unwrap_or_else(|| self.text.clone());
        if text.chars().count() < 3 {
            return;
        }
        let project = self.registry().project();
        // Other pages have nothing to do with this one.
        let of_others = |file: FileId| {
            let own = |page: &PageShape| page.path.as_ref().is_some_and(|path| path.name.as_str() == self.traced.path);
            let bodies = self.registry().pages().filter(|(_, page)| own(page));
            let bodies: Vec<String> =
                bodies.filter_map(|(_, page)| Some(format!("preview/pages/{}", page.body.as_ref()?.name))).collect();
            match self.registry().page(file) {
                Some(page) => !own(page),
                None => {
                    self.registry().sites().all(|(site, _)| site != file)
                        && !bodies.iter().any(|body| *body == project.file(file).path)
                }
            }
        };
        let mut places: Vec<PlaceView> = Vec::new();
        for (at, file) in project.files.iter().enumerate().filter(|(_, file)| file.path.starts_with("preview")) {
            let id = FileId(at as u32);
            if file.text().contains(&text) && !of_others(id) {
                let found = file.text().match_indices(&text);
                places.extend(
                    found.map(|(start, _)| PlaceView::new(self.registry(), id, Span::new(start, start + text.len()))),
                );
            }
        }
        if let [place] = &places[..] {
            let name = project.layer_named(&place.layer).map(|_| format!("{}:{}", place.layer, place.file));
            self.add(LinkKind::Value, name.unwrap_or_default(), Some(place.clone()));
        }
    }

    /// The component whose template or callback printed something.
    fn component_around(&self, mut id: SegmentId) -> Option<Address> {
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

    /// The commands that would change it: those about the points, the innermost first, and the template's own.
    fn ways(&self) -> Vec<WayView> {
        let registry = self.registry();
        let mut found: Vec<WayView> = Vec::new();
        let mut add = |way: WayView| {
            if found.iter().all(|known| known.command != way.command) {
                found.push(way);
            }
        };
        // Of what runs at a point, only what is in the chain.
        let about = |way: &WayView, point: &Point| {
            let others = point
                .slots
                .iter()
                .map(|slot| registry.first_name(slot))
                .chain(point.slots.iter().map(|slot| registry.slot_name(slot)));
            let mut others = others.filter(|name| way.command.split(' ').any(|word| word == name));
            others.next().is_none_or(|name| {
                self.chain.iter().any(|link| link.name == name)
                    || others.any(|name| self.chain.iter().any(|link| link.name == name))
            })
        };
        // What the host prints is changed by what the host is told, and not at its hook.
        let of_host = self.chain.iter().any(|link| link.what == LinkKind::Host);
        for (at, address) in self.points.iter().filter(|point| !of_host || point.kind != Kind::Hook).enumerate() {
            let Some(point) = registry.point(*address) else { continue };
            ways(registry, point).into_iter().filter(|way| about(way, point)).for_each(&mut add);
            // What is further out concerns more than this text.
            if at > 0 {
                break;
            }
        }
        let printed = self.chain.first().filter(|link| matches!(link.what, LinkKind::Text | LinkKind::Expression));
        if let Some((layer, file)) =
            printed.and_then(|link| link.place.as_ref()).map(|place| (&place.layer, &place.file))
        {
            let own = registry.project().layer(registry.project().top()).name;
            let name = file.strip_prefix("markup/").unwrap_or(file);
            let has_own = registry.project().find(registry.project().top(), file).is_some();
            if *layer != own.as_str() && !has_own {
                let what = "write that template anew, from a copy".to_string();
                add(WayView { what, command: command_line!["adopt", name, "--copy"] });
            }
        }
        found
    }
}

/// Filters that the host fires by itself for what an expression reads.
fn fired(written: &str) -> Vec<Address> {
    let known = [("page.heading", "page-heading"), ("page.root", "root-attributes"), ("page.summary", "summary")];
    known
        .iter()
        .filter(|(name, _)| reads(written, name))
        .map(|(_, filter)| Address::new(Kind::Filter, filter))
        .collect()
}

/// Does an expression read a variable?
fn reads(written: &str, name: &str) -> bool {
    let is_part = |c: char| c.is_alphanumeric() || c == '_';
    written.match_indices(name).any(|(at, _)| {
        let before = written[..at].chars().next_back();
        let behind = written[at + name.len()..].chars().next();
        !before.is_some_and(|c| is_part(c) || matches!(c, '.' | '"' | '\'')) && !behind.is_some_and(is_part)
    })
}

/// Where the function of a callback stands.
fn function(registry: &Registry, name: &str) -> Option<PlaceView> {
    let callback: Callback = registry.callback_named(name, registry.project().top())?;
    let module = registry.module(callback.file)?;
    let export = module.exports.iter().find(|export| export.name == callback.export)?;
    let place = Place { file: callback.file, at: export.at };
    Some(PlaceView::new(registry, callback.file, registry.span(place)))
}

fn node_of(node: &Node, id: SegmentId) -> Option<&Node> {
    if node.segment == Some(id) && node.what != What::Element {
        return Some(node);
    }
    node.children.iter().find_map(|child| node_of(child, id))
}

/// A value as a trace shows it, as people read it.
fn shown(value: &str) -> String {
    match serde_json::from_str::<Json>(value) {
        Ok(Json::String(text)) => text,
        _ => value.to_string(),
    }
}

/// One of several inputs, as a trace shows them.
fn part(inputs: &str, name: &str) -> Option<String> {
    match serde_json::from_str::<Json>(inputs).ok()?.get(name)? {
        Json::String(text) => Some(text.clone()),
        Json::Null => None,
        other => Some(other.to_string()),
    }
}
