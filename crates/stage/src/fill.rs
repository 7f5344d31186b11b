//! Fills holes from a work list: renders the page's template, then every point that it places, then
//! every point that those place, until nothing is left.

use std::rc::Rc;
use std::time::Instant;

use indexmap::IndexMap;
use minijinja::Value;
use truehook_core::address::{Address, Kind};
use truehook_core::link::{Callback, Point, Registry, Renderer, Runs, body_region};
use truehook_core::read::FileKind;
use truehook_core::source::FileId;

use crate::engine::{Call, CallError};
use crate::flow::items;
use crate::run::{Failure, Guard, Hole, Run, StepState};
use crate::tree::{Origin, Part, SegmentId, Tree};
use crate::turns::{fail_callback, fail_template, is_on, note_step, run_slot, wrong_type};
use crate::values::{as_markup, from_json, type_word};
use crate::{Rendered, Stage, markup};

/// A hole that is to be filled, and where what comes out belongs.
struct Task {
    hole: usize,
    segment: SegmentId,
    part: usize,
}

/// Renders one page of the stage.
pub fn render(stage: &Stage, position: usize) -> Rendered {
    let globals = stage.pages.globals(position, &stage.registry);
    let info = stage.pages.info(position).clone();
    let has_body = stage.pages.body(position).is_some();
    let run = Rc::new(Run::new(stage, globals, info.path.clone(), has_body));
    let guard = Guard::enter(run.clone());
    let mut filler = Filler { stage, run: run.clone(), tree: Tree::default(), open: Vec::new(), last: Vec::new() };
    filler.page(&info.page_type);
    filler.fill_all();
    let tree = filler.tree;
    drop(guard);
    Rendered {
        html: tree.text(),
        tree,
        trace: run.trace.take(),
        failures: run.failures.take(),
        media: run.media.take().into_iter().collect(),
    }
}

struct Filler<'s> {
    stage: &'s Stage,
    run: Rc<Run>,
    tree: Tree,
    open: Vec<Task>,
    /// Holes that are filled after all others, because what they show depends on those.
    last: Vec<Task>,
}

impl Filler<'_> {
    fn registry(&self) -> &Registry {
        &self.stage.registry
    }

    /// Renders the page's own template: the first of its candidates that can be rendered.
    fn page(&mut self, page_type: &str) {
        let registry = self.stage.registry.clone();
        let known = registry.types.iter().find(|known| known.name == page_type);
        let files = match known {
            Some(known) => known.templates.clone(),
            None => {
                let message = format!("there is no type of page `{page_type}`, so it is shown like any other page");
                self.run.fail(Failure { point: None, source: None, place: None, message });
                registry.files_named(FileKind::Template, "page.html").iter().rev().copied().collect()
            }
        };
        for file in files {
            let name = registry.template_name(file);
            let root = self.tree.add(Origin::Template(name.clone()), None, 0);
            let point = Address::new(Kind::Template, registry.project.file(file).name().trim_end_matches(".html"));
            let inputs = match registry.point(point) {
                Some(point) => {
                    self.run.trace.borrow_mut().points.push(point.address);
                    self.inputs(point, Vec::new())
                }
                None => Vec::new(),
            };
            match self.template(file, inputs, None) {
                Some(markup) => return self.put(root, &markup),
                None => self.tree.segments.clear(),
            }
        }
        self.bare_page();
    }

    /// A page that none of its templates can show has its text all the same.
    fn bare_page(&mut self) {
        let message = "no template can show this page, so only its text is here".to_string();
        self.run.fail(Failure { point: None, source: None, place: None, message });
        let root = self.tree.add(Origin::Template("page".into()), None, 0);
        let hole = leave_hole(&self.run, &body_region().to_string(), Vec::new());
        self.put(root, &format!("<!doctype html>\n<main>{hole}</main>\n"));
    }

    /// Puts markup into a segment, and its holes on the work list, the first on top.
    fn put(&mut self, segment: SegmentId, markup: &str) {
        let first = self.tree.segments[segment.0].parts.len();
        let mut parts = self.run.split(markup);
        if self.run.clean(&mut parts) {
            let message = "a placement was processed further, and is lost; print it as it is".to_string();
            let source = match &self.tree.get(segment).origin {
                Origin::Template(name) | Origin::Callback(name) => Some(name.clone()),
                Origin::Point(_) => None,
            };
            let point = match &self.tree.get(segment).origin {
                Origin::Point(point) => Some(point.to_string()),
                _ => None,
            };
            self.run.fail(Failure { point, source, place: None, message });
        }
        let holes = parts.iter().enumerate().rev().filter_map(|(at, part)| match part {
            Part::Hole(hole) => Some(Task { hole: *hole, segment, part: first + at }),
            _ => None,
        });
        let tasks: Vec<Task> = holes.collect();
        self.tree.segments[segment.0].parts.extend(parts);
        let head = Address::new(Kind::Hook, "document-head");
        for task in tasks {
            let is_head = self.run.holes.borrow().get(task.hole).is_some_and(|hole| hole.point == head);
            if is_head { self.last.push(task) } else { self.open.push(task) }
        }
    }

    fn fill_all(&mut self) {
        let limit = self.registry().limits.holes;
        let mut filled = 0;
        while let Some(task) = self.open.pop().or_else(|| self.last.pop()) {
            filled += 1;
            if filled > limit {
                let message = format!("the page has more than {limit} placements; the rest is left out");
                self.run.fail(Failure { point: None, source: None, place: None, message });
                return;
            }
            let hole = self.run.holes.borrow().get(task.hole).cloned();
            if let Some(hole) = hole {
                let child = self.fill(&hole, task.segment);
                self.tree.segments[task.segment.0].parts[task.part] = Part::Segment(child);
            }
        }
    }

    fn fill(&mut self, hole: &Hole, parent: SegmentId) -> SegmentId {
        let nesting = self.tree.get(parent).nesting + usize::from(hole.point.kind.is_component());
        let registry = self.stage.registry.clone();
        let again = hole.point.kind.needs_placement() && self.tree.is_inside(parent, hole.point);
        let segment = self.tree.add(Origin::Point(hole.point), Some(parent), nesting);
        let refused = match registry.point(hole.point) {
            None => Some("no layer declares it".to_string()),
            Some(_) if again => Some("it is placed inside itself".to_string()),
            Some(_) if nesting as u64 > registry.limits.nesting => {
                Some(format!("components are nested more than {} deep", registry.limits.nesting))
            }
            Some(_) => None,
        };
        if let Some(message) = refused {
            let point = Some(hole.point.to_string());
            self.run.fail(Failure { point, source: None, place: None, message });
            return segment;
        }
        self.run.trace.borrow_mut().points.push(hole.point);
        let Some(point) = registry.point(hole.point) else { return segment };
        match hole.point.kind {
            Kind::Hook => self.hook(point, &hole.args, segment),
            Kind::Region => self.region(point, segment),
            kind if kind.is_component() => self.component(point, hole.args.clone(), segment),
            _ => {}
        }
        segment
    }

    /// Adds what each listener returns.
    fn hook(&mut self, point: &Point, args: &[(String, Value)], segment: SegmentId) {
        for slot in &point.slots {
            match slot.runs {
                Runs::Callback(_, found) => {
                    let listener = |run: &Run, callback: Callback| {
                        let value = call(run, &Call { callback, piped: None, args, point: point.address })?;
                        match type_word(&value) {
                            "nothing" | "null" => Ok(String::new()),
                            "string" | "markup" => Ok(as_markup(&value)),
                            other => Err(wrong_type("markup or text", other)),
                        }
                    };
                    let Some(markup) = run_slot(&self.run.clone(), point, slot, found, listener) else { continue };
                    let nesting = self.tree.get(segment).nesting;
                    let origin = Origin::Callback(self.registry().slot_name(slot));
                    let child = self.tree.add(origin, Some(segment), nesting);
                    self.tree.segments[segment.0].parts.push(Part::Segment(child));
                    self.put(child, &markup);
                }
                Runs::Partial(address, found) => {
                    if is_on(&self.run, point, slot) && found {
                        note_step(&self.run, point, slot, StepState::Ran, Instant::now());
                        let markup = leave_hole(&self.run, &address.to_string(), args.to_vec());
                        self.put(segment, &markup);
                    }
                }
            }
        }
    }

    /// Adds each item.
    fn region(&mut self, point: &Point, segment: SegmentId) {
        for item in items(&self.run, point) {
            let name = item.get_attr("use").map(|name| name.to_string()).unwrap_or_default();
            let inputs = pairs(&item).unwrap_or_default().into_iter().filter(|(key, _)| key != "use").collect();
            let component = name.parse::<Address>().is_ok_and(|address| address.kind.is_component());
            if !component {
                let message = format!("an item uses `{name}`, which is no component");
                let point = Some(point.address.to_string());
                self.run.fail(Failure { point, source: None, place: None, message });
                continue;
            }
            let markup = leave_hole(&self.run, &name, inputs);
            self.put(segment, &markup);
        }
    }

    /// Renders a component with its inputs.
    fn component(&mut self, point: &Point, given: Vec<(String, Value)>, segment: SegmentId) {
        let inputs = self.inputs(point, given);
        match point.renderer {
            Some(Renderer::Template(file)) => {
                if let Some(markup) = self.template(file, inputs, Some(point.address)) {
                    self.put(segment, &markup);
                }
            }
            Some(Renderer::Callback(callback)) => {
                let value = Value::from_pairs(inputs);
                let result = call(&self.run, &Call { callback, piped: Some(&value), args: &[], point: point.address });
                let markup = result.and_then(|value| match type_word(&value) {
                    "nothing" | "null" => Ok(String::new()),
                    "string" | "markup" => Ok(as_markup(&value)),
                    other => Err(wrong_type("markup or text", other)),
                });
                match markup {
                    Ok(markup) => self.put(segment, &markup),
                    Err(error) => fail_callback(&self.run, point.address, callback, error),
                }
            }
            None => {
                let message = "nothing renders it".to_string();
                let point = Some(point.address.to_string());
                self.run.fail(Failure { point, source: None, place: None, message });
            }
        }
    }

    /// The inputs that a template or callback gets: defaults, what was given, and what preprocess
    /// functions make of it.
    fn inputs(&self, point: &Point, given: Vec<(String, Value)>) -> Vec<(String, Value)> {
        let mut inputs: IndexMap<String, Value> = IndexMap::new();
        for input in &point.inputs {
            let name = input.field.name.as_str();
            let given = given.iter().find(|(key, _)| key == name).map(|(_, value)| value.clone());
            let value = given.unwrap_or_else(|| input.field.default().map(from_json).unwrap_or(Value::from(())));
            inputs.insert(name.to_string(), value);
        }
        if point.slots.is_empty() {
            return inputs.into_iter().collect();
        }
        let mut value = Value::from_pairs(inputs.clone());
        for slot in &point.slots {
            let Runs::Callback(_, found) = slot.runs else { continue };
            let preprocess = |run: &Run, callback: Callback| {
                let new = call(run, &Call { callback, piped: Some(&value), args: &[], point: point.address })?;
                match type_word(&new) {
                    "object" => Ok(new),
                    other => Err(wrong_type("the inputs, an object", other)),
                }
            };
            if let Some(new) = run_slot(&self.run, point, slot, found, preprocess) {
                value = new;
            }
        }
        let new = pairs(&value).unwrap_or_default();
        inputs
            .into_iter()
            .map(|(name, old)| {
                let found = new.iter().find(|(key, _)| *key == name).map(|(_, value)| value.clone());
                (name, found.unwrap_or(old))
            })
            .collect()
    }

    /// Renders a template; nothing where it fails, which is noted.
    fn template(&self, file: FileId, inputs: Vec<(String, Value)>, point: Option<Address>) -> Option<String> {
        let registry = self.registry();
        let name = registry.template_name(file);
        let before = self.run.template.replace(Some(file));
        let result = self
            .stage
            .environment
            .get_template(&name)
            .and_then(|template| template.render(markup::Root::value(&self.run.globals, inputs)));
        self.run.template.set(before);
        result.map_err(|error| fail_template(&self.run, point, file, &error)).ok()
    }
}

/// The entries of a table, if it is one.
pub fn pairs(value: &Value) -> Option<Vec<(String, Value)>> {
    let keys = value.try_iter().ok().filter(|_| type_word(value) == "object")?;
    Some(keys.map(|key| (key.to_string(), value.get_item(&key).unwrap_or_default())).collect())
}

/// Leaves a hole for a point, or nothing but a failure where the address is none.
pub fn leave_hole(run: &Run, address: &str, args: Vec<(String, Value)>) -> String {
    match address.parse::<Address>() {
        Ok(point) if point.kind.is_placed() => run.leave_hole(point, args),
        Ok(point) => {
            let message = format!("a {} can't be placed", point.kind);
            run.fail(Failure { point: Some(address.into()), source: None, place: None, message });
            String::new()
        }
        Err(error) => {
            run.fail(Failure { point: Some(address.into()), source: None, place: None, message: error.to_string() });
            String::new()
        }
    }
}

/// Calls a callback, from outside any other.
pub fn call(run: &Run, call: &Call<'_>) -> Result<Value, CallError> {
    match run.engine() {
        Ok(engine) => engine.call(run, call),
        Err(message) => Err(CallError { message, place: None }),
    }
}
