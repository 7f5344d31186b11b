//! Fills holes from a work list: renders the page's template, then every point that it places, then
//! every point that those place, until nothing is left.

use std::rc::Rc;
use std::time::Instant;

use minijinja::Value;
use truehook_core::address::{Address, Kind};
use truehook_core::link::{Point, Registry, Runs, body_region, menu_partial};
use truehook_core::read::FileKind;
use truehook_core::scan::OutletKind;

use crate::component::{self, Given, markup_of};
use crate::engine::{Call, CallError};
use crate::flow;
use crate::run::{Failure, Hole, Run, StepState};
use crate::tree::{Origin, Part, SegmentId, Tree};
use crate::turns::{is_on, note_step, run_slot};
use crate::values::type_word;
use crate::{Stage, assets, features, moments};

/// A hole that is to be filled, and where what comes out belongs.
struct Task {
    hole: usize,
    segment: SegmentId,
    part: usize,
}

/// Puts a whole page together.
pub fn page(stage: &Stage, run: &Rc<Run>, page_type: &str) -> Tree {
    moments::begin(run);
    let mut filler = Filler::new(stage, run);
    filler.page(page_type);
    filler.fill_all();
    filler.tree
}

/// Puts one point together, on its own.
pub fn alone(stage: &Stage, run: &Rc<Run>, point: Address, args: Given) -> Tree {
    moments::begin(run);
    // What ran before is not what was asked for.
    run.trace.take();
    let mut filler = Filler::new(stage, run);
    let root = filler.tree.add(Origin::Outlet("alone"), None, 0);
    let hole = run.leave_hole(Hole::Point { point, args, held: Vec::new() });
    filler.put(root, hole);
    filler.fill_all();
    filler.tree
}

struct Filler<'s> {
    stage: &'s Stage,
    run: Rc<Run>,
    tree: Tree,
    open: Vec<Task>,
    /// Holes that are filled after all others, because what they show depends on those.
    last: Vec<Task>,
    /// Holes for what depends on these, too.
    very_last: Vec<Task>,
    /// What the page's assets are, once that was worked out: in the head, and at the end.
    assets: Option<(String, String)>,
}

impl<'s> Filler<'s> {
    fn new(stage: &'s Stage, run: &Rc<Run>) -> Filler<'s> {
        Filler {
            stage,
            run: run.clone(),
            tree: Tree::default(),
            open: Vec::new(),
            last: Vec::new(),
            very_last: Vec::new(),
            assets: None,
        }
    }

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
            let name = self.stage.names.templates.get(&file).cloned().unwrap_or_default();
            let root = self.tree.add(Origin::Template(name), None, 0);
            let point = Address::new(Kind::Template, registry.project.file(file).name().trim_end_matches(".html"));
            let inputs = match registry.point(point) {
                Some(point) => {
                    self.run.trace.borrow_mut().points.push(point.address);
                    component::inputs(&self.run, point, Vec::new())
                }
                None => Vec::new(),
            };
            match component::template(self.stage, &self.run, file, inputs, None) {
                Some(markup) => return self.put(root, markup),
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
        let hole = self.run.leave_hole(Hole::Point { point: body_region(), args: Vec::new(), held: Vec::new() });
        self.put(root, format!("<!doctype html>\n<main>{hole}</main>\n"));
    }

    /// Puts markup into a segment, and its holes on the work list, the first on top.
    fn put(&mut self, segment: SegmentId, markup: String) {
        let first = self.tree.segments[segment.0].parts.len();
        let (parts, lost) = self.run.split(markup);
        if lost {
            let message = "a placement was processed further, and is lost; print it as it is".to_string();
            let (source, point) = match &self.tree.get(segment).origin {
                Origin::Template(name) | Origin::Callback(name) => (Some(name.to_string()), None),
                Origin::Point(point) => (None, Some(point.to_string())),
                Origin::Outlet(_) => (None, None),
            };
            self.run.fail(Failure { point, source, place: None, message });
        }
        let holes = parts.iter().enumerate().rev().filter_map(|(at, part)| match part {
            Part::Hole(hole) => Some(Task { hole: *hole, segment, part: first + at }),
            _ => None,
        });
        let tasks: Vec<Task> = holes.collect();
        self.tree.segments[segment.0].parts.extend(parts);
        let head = self.stage.names.head;
        for task in tasks {
            let holes = self.run.holes.borrow();
            match holes.get(task.hole) {
                Some(Hole::Point { point, .. }) if Some(*point) == head => self.last.push(task),
                Some(Hole::Host { .. }) => self.very_last.push(task),
                _ => self.open.push(task),
            }
        }
    }

    fn fill_all(&mut self) {
        let limit = self.registry().limits.holes;
        let mut filled = 0;
        while let Some(task) = self.open.pop().or_else(|| self.last.pop()).or_else(|| self.very_last.pop()) {
            filled += 1;
            if filled > limit {
                let message = format!("the page has more than {limit} placements; the rest is left out");
                self.run.fail(Failure { point: None, source: None, place: None, message });
                return;
            }
            // A text that is shown twice holds the same placement twice.
            let hole = self.run.holes.borrow().get(task.hole).cloned();
            let child = match hole {
                Some(Hole::Point { point, args, held }) => self.fill(point, args, held, task.segment),
                Some(Hole::Held(frame)) => self.outlet("held", frame.held, Some(frame.component), task.segment),
                Some(Hole::Sections) => self.outlet("sections", flow::sections(&self.run), None, task.segment),
                Some(Hole::Host { head }) => self.host(head, task.segment),
                None => continue,
            };
            self.tree.segments[task.segment.0].parts[task.part] = Part::Segment(child);
        }
    }

    fn fill(&mut self, address: Address, args: Given, held: Vec<Value>, parent: SegmentId) -> SegmentId {
        let nesting = self.tree.get(parent).nesting + usize::from(address.kind.is_component());
        let registry = self.stage.registry.clone();
        let again = address.kind.needs_placement() && self.tree.is_inside(parent, address);
        let segment = self.tree.add(Origin::Point(address), Some(parent), nesting);
        let point = registry.point(address);
        let refused = match point {
            None => Some("no layer declares it".to_string()),
            Some(_) if again => Some("it is placed inside itself".to_string()),
            Some(_) if nesting as u64 > registry.limits.nesting => {
                Some(format!("components are nested more than {} deep", registry.limits.nesting))
            }
            Some(point) if point.moment => Some("it is a moment, which the host fires".to_string()),
            Some(_) => None,
        };
        if let Some(message) = refused {
            self.run.fail(Failure { point: Some(address.to_string()), source: None, place: None, message });
            return segment;
        }
        let Some(point) = point.filter(|point| point.dropped.is_none()) else { return segment };
        self.run.trace.borrow_mut().points.push(address);
        match address.kind {
            Kind::Hook => self.hook(point, &args, segment),
            Kind::Region | Kind::Area => {
                for item in flow::contents(&self.run, point).iter() {
                    self.item(item, Some(point), segment);
                }
            }
            Kind::Menu => self.menu(point, &args, segment),
            kind if kind.is_component() => {
                if let Some(markup) = component::render(self.stage, &self.run, point, args, held) {
                    self.put(segment, markup);
                }
            }
            _ => {}
        }
        segment
    }

    /// Adds what the host itself puts into the head, or at the page's end.
    fn host(&mut self, head: bool, parent: SegmentId) -> SegmentId {
        let nesting = self.tree.get(parent).nesting;
        let segment = self.tree.add(Origin::Outlet("host"), Some(parent), nesting);
        let run = self.run.clone();
        let mut caller = |of: &Call<'_>| call(&run, of);
        let (in_head, at_end) = self.assets.get_or_insert_with(|| assets::elements(&run, &mut caller));
        let markup = match head {
            true => features::head(&run, &std::mem::take(in_head), &mut caller),
            false => std::mem::take(at_end),
        };
        self.put(segment, markup.trim_end().to_string());
        segment
    }

    /// Adds what each listener returns.
    fn hook(&mut self, point: &Point, args: &Given, segment: SegmentId) {
        if Some(point.address) == self.stage.names.head {
            let hole = self.run.leave_hole(Hole::Host { head: true });
            self.put(segment, hole);
        }
        self.listeners(point, args, segment);
        if Some(point.address) == self.stage.names.end {
            let hole = self.run.leave_hole(Hole::Host { head: false });
            self.put(segment, hole);
        }
    }

    fn listeners(&mut self, point: &Point, args: &Given, segment: SegmentId) {
        for slot in &point.slots {
            if let Runs::Partial(address, found) = slot.runs {
                if is_on(&self.run, point, slot) && found {
                    note_step(&self.run, point, slot, StepState::Ran, Instant::now(), None);
                    let hole = Hole::Point { point: address, args: args.clone(), held: Vec::new() };
                    let markup = self.run.leave_hole(hole);
                    self.put(segment, markup);
                }
                continue;
            }
            let listener = |run: &Run, callback| {
                let value = call(run, &Call { callback, piped: None, args, point: point.address })?;
                markup_of(&value).map(Value::from_safe_string)
            };
            let Some(markup) = run_slot(&self.run.clone(), point, slot, None, listener) else { continue };
            let nesting = self.tree.get(segment).nesting;
            let origin = Origin::Callback(self.run.slot_name(slot));
            let child = self.tree.add(origin, Some(segment), nesting);
            self.tree.segments[segment.0].parts.push(Part::Segment(child));
            self.put(child, markup.as_str().unwrap_or_default().to_string());
        }
    }

    /// Adds what a component holds, or a page's sections.
    fn outlet(&mut self, name: &'static str, items: Vec<Value>, by: Option<Address>, parent: SegmentId) -> SegmentId {
        let nesting = self.tree.get(parent).nesting;
        let segment = self.tree.add(Origin::Outlet(name), Some(parent), nesting);
        let registry = self.stage.registry.clone();
        let holder = by.and_then(|by| registry.point(by));
        for item in &items {
            self.item(item, holder, segment);
        }
        segment
    }

    /// Adds an item, in the wrapping of its area.
    fn item(&mut self, item: &Value, holder: Option<&Point>, segment: SegmentId) {
        let name = item.get_attr("use").map(|name| name.to_string()).unwrap_or_default();
        let by = holder.map(|holder| holder.address);
        let fail = |message: String| {
            let point = by.map_or_else(|| "sections".to_string(), |by| by.to_string());
            self.run.fail(Failure { point: Some(point), source: None, place: None, message });
        };
        let Some(component) = self.registry().item_component(&name, by) else {
            return fail(format!("an item uses `{name}`, which is no component"));
        };
        if by.is_some_and(|by| !self.registry().may_hold(by, component)) {
            return fail(format!("it may not hold `{component}`"));
        }
        if by.is_none() && component.kind != Kind::Section {
            return fail(format!("a page is composed of sections, and `{component}` is none"));
        }
        let Some(table) = pairs(item) else { return };
        let held = table.iter().find(|(key, _)| key == "holds");
        let held = held.and_then(|(_, held)| held.try_iter().ok()).map(Iterator::collect).unwrap_or_default();
        let is_wide = |(key, value): &(String, Value)| key == "breakout" && value.is_true();
        let wide = self.stage.names.breakout && table.iter().any(is_wide) && self.registry().takes_breakout(component);
        let args: Given = table.into_iter().filter(|(key, _)| key != "use" && key != "holds").collect();
        let title = args.iter().find(|(key, _)| key == "title").map(|(_, title)| title.clone());
        let hole = self.run.leave_hole(Hole::Point { point: component, args, held });
        let markup = match holder.filter(|holder| holder.address.kind == Kind::Area) {
            Some(area) => self.in_area(area, title, hole),
            None => hole,
        };
        self.put(segment, if wide { format!("<div class=\"breakout\">{markup}</div>") } else { markup });
    }

    /// The wrapping of an item in an area.
    fn in_area(&self, area: &Point, title: Option<Value>, body: String) -> String {
        let title = title.filter(|title| !title.is_none() && !title.is_undefined() && title.as_str() != Some(""));
        let title = title.and_then(|text| match area.wrap_title {
            Some(_) => component::wrapped(self.stage, &self.run, area, "wrap-title", vec![("text", text)]),
            None => Some(format!("<h3>{}</h3>", crate::values::as_markup(&text))),
        });
        let title = title.unwrap_or_default();
        if area.wrap.is_none() {
            return format!("{title}{body}");
        }
        let values = vec![("title", Value::from_safe_string(title)), ("body", Value::from_safe_string(body))];
        component::wrapped(self.stage, &self.run, area, "wrap", values).unwrap_or_default()
    }

    /// Renders the menu that fills a spot; nothing where there is none.
    fn menu(&mut self, point: &Point, args: &Given, segment: SegmentId) {
        let entries = flow::contents(&self.run, point);
        if entries.is_empty() {
            return;
        }
        let with = args.iter().find(|(key, _)| key == "with").map(|(_, with)| with.to_string());
        let component = match with {
            None => menu_partial(),
            Some(written) => match written.parse() {
                Ok(component) => component,
                Err(_) => Address::new(Kind::Partial, written.as_str()),
            },
        };
        let entries = Value::from(entries.to_vec());
        let inputs = component::menu_inputs(self.stage, component, point, entries, args);
        let hole = self.run.leave_hole(Hole::Point { point: component, args: inputs, held: Vec::new() });
        self.put(segment, hole);
    }
}

/// The entries of a table, if it is one.
pub fn pairs(value: &Value) -> Option<Vec<(String, Value)>> {
    let keys = value.try_iter().ok().filter(|_| type_word(value) == "object")?;
    Some(keys.map(|key| (key.to_string(), value.get_item(&key).unwrap_or_default())).collect())
}

/// Leaves a hole for a point or outlet, or nothing but a failure where the address is neither.
pub fn leave_hole(run: &Run, address: &str, args: Given) -> String {
    let fail = |message: String| {
        run.fail(Failure { point: Some(address.into()), source: None, place: None, message });
        String::new()
    };
    match OutletKind::from_word(address) {
        Some(OutletKind::Sections) => return run.leave_hole(Hole::Sections),
        Some(OutletKind::Held) => {
            let frame = run.frame.borrow().clone();
            return match frame {
                Some(frame) => run.leave_hole(Hole::Held(frame)),
                None => fail("only a component holds something".into()),
            };
        }
        None => {}
    }
    if let Some(point) = run.names.placed.get(address) {
        return run.leave_hole(Hole::Point { point: *point, args, held: Vec::new() });
    }
    match address.parse::<Address>() {
        Ok(point) if point.kind.is_placed() => run.leave_hole(Hole::Point { point, args, held: Vec::new() }),
        Ok(point) => fail(format!("{} can't be placed", point.kind.one())),
        Err(error) => fail(error.to_string()),
    }
}

/// Calls a callback, from outside any other.
pub fn call(run: &Run, call: &Call<'_>) -> Result<Value, CallError> {
    match run.engine() {
        Ok(engine) => engine.call(run, call),
        Err(message) => Err(CallError { message, place: None }),
    }
}
