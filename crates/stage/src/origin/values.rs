//! Values: what they were sent through, what preparers made of them, and where in the preview they stand.

use serde_json::Value as Json;
use truehook_core::address::{Address, Kind};
use truehook_core::link::{Callback, Registry};
use truehook_core::scan::PageShape;
use truehook_core::source::{FileId, Place, Span};
use truehook_core::view::PlaceView;

use super::chain::Tracing;
use super::{Link, LinkKind};
use crate::record::trace::{Step, StepState};
use crate::record::tree::SegmentId;

impl<'t> Tracing<'t> {
    /// What was done to a value at a filter.
    pub fn sent(&mut self, filter: Address) {
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

    pub fn steps(&self, point: Address) -> impl Iterator<Item = &'t Step> {
        let steps = &self.traced.page.trace.steps;
        steps.iter().filter(move |step| step.point == point && step.slot.is_some() && step.state == StepState::Ran)
    }

    /// What preparers made of the inputs that an expression reads.
    pub fn prepared(&mut self, segment: SegmentId, written: &str) {
        let Some(component) = self.component_around(segment) else { return };
        let Some(point) = self.registry().point(component) else { return };
        for input in point.inputs.iter().map(|input| input.field.name.as_str()).filter(|name| reads(written, name)) {
            let changed = self.steps(component).filter_map(|step| {
                let values = step.values.as_ref()?;
                let [before, after] = [&values.before, &values.after].map(|text| part(text, input));
                (before != after).then_some((step, before, after))
            });
            let changed: Vec<_> = changed.collect();
            // Where the component is on the page once, what was changed is this.
            let all: Vec<&Step> = self.steps(component).collect();
            let runs = |name: &str| all.iter().filter(|step| *step.name == *name).count();
            for (step, before, after) in changed.into_iter().rev() {
                let alone = runs(&step.name) == 1;
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
    pub fn value(&mut self) {
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
        let registry = self.registry();
        let in_files = |wanted: &dyn Fn(FileId) -> bool| -> Vec<PlaceView> {
            let files = project.files.iter().enumerate().filter(|(_, file)| file.path.starts_with("preview"));
            let files = files.map(|(at, file)| (FileId(at as u32), file.text())).filter(|(id, _)| wanted(*id));
            let places = files.flat_map(|(id, all)| {
                let found = all.match_indices(&text).map(|(start, _)| Span::new(start, start + text.len()));
                found.map(move |span| PlaceView::new(registry, id, span)).collect::<Vec<_>>()
            });
            places.collect()
        };
        let mut places = in_files(&|id| !of_others(id));
        // A list shows what other pages say of themselves.
        if places.is_empty() {
            let says = |page: &PageShape, key: &str| page.value.get(key).and_then(Json::as_str) == Some(text.as_str());
            places = in_files(&|id| registry.page(id).is_some_and(|page| says(page, "title") || says(page, "summary")));
        }
        if let [place] = &places[..] {
            let name = project.layer_named(&place.layer).map(|_| format!("{}:{}", place.layer, place.file));
            self.add(LinkKind::Value, name.unwrap_or_default(), Some(place.clone()));
        }
    }
}

/// Filters that the host fires by itself for what an expression reads.
pub(super) fn fired(written: &str) -> Vec<Address> {
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
pub(super) fn function(registry: &Registry, name: &str) -> Option<PlaceView> {
    let callback: Callback = registry.callback_named(name, registry.project().top())?;
    let module = registry.module(callback.file)?;
    let export = module.exports.iter().find(|export| export.name == callback.export)?;
    let place = Place { file: callback.file, at: export.at };
    Some(PlaceView::new(registry, callback.file, registry.span(place)))
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
