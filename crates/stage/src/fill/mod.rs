//! Fills holes from a work list: renders the page's template, then every point that it places, then
//! every point that those place, until nothing is left.

mod components;
mod items;

use std::collections::HashMap;
use std::rc::Rc;
use std::time::Instant;

use minijinja::Value;
use truehook_core::address::{Address, Kind};
use truehook_core::link::{Point, Registry, Runs, Slot, body_region};
use truehook_core::read::FileKind;
use truehook_core::source::FileId;

use crate::engines::templates::Templates;
use crate::host::{Call, Here, Scene};
use crate::points::assets::{self, Elements};
use crate::points::components::{self as prepared, markup_of};
use crate::points::turns::{is_on, note_step, run_slot, with_defaults};
use crate::points::{contents, head, moments};
use crate::record::holes::{Hole, Pieces};
use crate::record::trace::{Failure, StepState};
use crate::record::tree::{Origin, OutletName, Part, SegmentId, Tree};
use crate::value::Given;

/// Puts a whole page together.
pub fn page(templates: &Templates, scene: &Rc<Scene>, page_type: &str) -> Tree {
    moments::begin(&scene.here());
    let mut filler = Filler::new(templates, scene);
    filler.page(page_type);
    filler.fill_all();
    filler.miss_sections();
    moments::end(&scene.here());
    filler.tree
}

/// Puts one point together, on its own.
pub fn alone(templates: &Templates, scene: &Rc<Scene>, point: Address, args: Given) -> Tree {
    moments::begin(&scene.here());
    // What ran before is not what was asked for.
    scene.page.trace.take();
    let mut filler = Filler::new(templates, scene);
    let root = filler.tree.add(Origin::Outlet(OutletName::Alone), None, 0);
    let hole = scene.page.leave_hole(Hole::Point { point, args, held: Vec::new() });
    filler.put(root, hole);
    filler.fill_all();
    filler.tree
}

/// A hole that is to be filled, and where what comes out belongs.
struct Task {
    hole: usize,
    segment: SegmentId,
    part: usize,
}

struct Filler<'s> {
    templates: &'s Templates,
    scene: &'s Rc<Scene>,
    tree: Tree,
    open: Vec<Task>,
    /// Holes that are filled after all others, because what they show depends on those.
    last: Vec<Task>,
    /// Holes for what depends on these, too.
    very_last: Vec<Task>,
    /// What the page's assets are, once that was worked out.
    assets: Option<Elements>,
    /// How many items each area has shown.
    shown: HashMap<Address, usize>,
}

impl<'s> Filler<'s> {
    fn new(templates: &'s Templates, scene: &'s Rc<Scene>) -> Filler<'s> {
        Filler {
            templates,
            scene,
            tree: Tree::default(),
            open: Vec::new(),
            last: Vec::new(),
            very_last: Vec::new(),
            assets: None,
            shown: HashMap::new(),
        }
    }

    fn registry(&self) -> &'s Registry {
        self.scene.page.registry()
    }

    fn here(&self) -> Here<'s> {
        self.scene.here()
    }

    fn fail(&self, failure: Failure) {
        self.scene.page.fail(failure);
    }

    /// Renders the template of a type of page: the first that can be rendered.
    fn page(&mut self, page_type: &str) {
        let registry = self.registry();
        let files: Vec<FileId> = match registry.types().iter().find(|known| known.name == *page_type) {
            Some(known) => known.templates.clone(),
            None => {
                self.fail(Failure::new(format!(
                    "there is no type of page `{page_type}`; it is shown as any other page"
                )));
                registry.files_named(FileKind::Template, "page.html").iter().rev().copied().collect()
            }
        };
        for file in files {
            let name = self.scene.page.shared.names.template(file);
            let root = self.tree.add(Origin::Template(name), None, 0);
            let stem = registry.project().file(file).name().trim_end_matches(".html");
            let inputs = match registry.point(Address::new(Kind::Template, stem)) {
                Some(point) => {
                    self.scene.page.trace.borrow_mut().point(point.address);
                    prepared::inputs(&self.here(), point, Vec::new())
                }
                None => Vec::new(),
            };
            match self.template(file, inputs, None) {
                Some(markup) => return self.put(root, markup),
                None => self.tree.segments.clear(),
            }
        }
        self.bare_page();
    }

    /// A page that none of its templates can show has its text all the same.
    fn bare_page(&mut self) {
        self.fail(Failure::new("no template can show this page, so only its text is here"));
        let root = self.tree.add(Origin::Template("page".into()), None, 0);
        let hole = self.scene.page.leave_hole(Hole::Point { point: body_region(), args: Vec::new(), held: Vec::new() });
        self.put(root, format!("<!doctype html>\n<main>{hole}</main>\n"));
    }

    /// Puts markup into a segment, and its holes on the work list, the first on top.
    fn put(&mut self, segment: SegmentId, markup: String) {
        let first = self.tree.segments[segment.0].parts.len();
        let markup = if self.scene.page.has_room(markup.len()) { markup } else { String::new() };
        let Pieces { parts, sources, lost } = self.scene.page.holes.borrow().split(markup);
        if lost {
            let message = "a placement was processed further, and is lost; print it as it is";
            self.fail(match &self.tree.get(segment).origin {
                Origin::Template(name) | Origin::Callback(name) => Failure::of(Some(name.to_string()), message),
                Origin::Point(point) => Failure::at(point, message),
                Origin::Outlet(_) => Failure::new(message),
            });
        }
        let holes = parts.iter().enumerate().rev().filter_map(|(at, part)| match part {
            Part::Hole(hole) => Some(Task { hole: *hole, segment, part: first + at }),
            _ => None,
        });
        let tasks: Vec<Task> = holes.collect();
        let into = &mut self.tree.segments[segment.0];
        if !sources.is_empty() {
            into.sources.resize(first, None);
            into.sources.extend(sources);
        }
        into.parts.extend(parts);
        let head = self.scene.page.shared.names.head;
        let holes = self.scene.page.holes.borrow();
        for task in tasks {
            match holes.get(task.hole) {
                Some(Hole::Point { point, .. }) if Some(*point) == head => self.last.push(task),
                Some(Hole::Head | Hole::End) => self.very_last.push(task),
                _ => self.open.push(task),
            }
        }
    }

    fn fill_all(&mut self) {
        let limit = self.registry().limits().holes;
        let mut filled = 0;
        while let Some(task) = self.open.pop().or_else(|| self.last.pop()).or_else(|| self.very_last.pop()) {
            filled += 1;
            if filled > limit {
                let message = format!("the page has more than {limit} placements; the rest is left out");
                return self.fail(Failure::new(message));
            }
            // A text that is shown twice holds the same placement twice.
            let hole = self.scene.page.holes.borrow().get(task.hole).cloned();
            let child = match hole {
                Some(Hole::Point { point, args, held }) => self.fill(point, args, held, task.segment),
                Some(Hole::Held(frame)) => {
                    self.outlet(OutletName::Held, frame.held, Some(frame.component), task.segment)
                }
                Some(Hole::Sections) => {
                    let sections = contents::sections(&self.here());
                    self.outlet(OutletName::Sections, sections, None, task.segment)
                }
                Some(Hole::Head) => self.of_host(true, task.segment),
                Some(Hole::End) => self.of_host(false, task.segment),
                None => continue,
            };
            self.tree.segments[task.segment.0].parts[task.part] = Part::Segment(child);
        }
    }

    /// Says which sections of the page are not on it, since nothing places them.
    fn miss_sections(&self) {
        let placed = self.tree.segments.iter().any(|segment| segment.origin == Origin::Outlet(OutletName::Sections));
        let sections = if placed { Vec::new() } else { contents::sections(&self.here()) };
        if !sections.is_empty() {
            let names = sections.iter().map(|item| item.get_attr("use").unwrap_or_default().to_string());
            let names: Vec<String> = names.map(|name| format!("`{name}`")).collect();
            let message = format!("{} can't be shown: the page's template places no sections", names.join(", "));
            self.fail(Failure::at("sections", message));
        }
    }

    fn fill(&mut self, address: Address, args: Given, held: Vec<Value>, parent: SegmentId) -> SegmentId {
        let nesting = self.tree.get(parent).nesting + usize::from(address.kind.is_component());
        let registry = self.registry();
        let again = address.kind.needs_placement() && self.tree.is_inside(parent, address);
        let segment = self.tree.add(Origin::Point(address), Some(parent), nesting);
        let point = registry.point(address);
        let deepest = registry.limits().nesting;
        let refused = match point {
            None => Some("no layer declares it".to_string()),
            Some(_) if again => Some("it is placed inside itself".to_string()),
            Some(_) if nesting as u64 > deepest => Some(format!("components are nested more than {deepest} deep")),
            Some(point) if point.moment => Some("it is a moment, which the host fires".to_string()),
            Some(_) => None,
        };
        if let Some(message) = refused {
            self.fail(Failure::at(address, message));
            return segment;
        }
        let Some(point) = point.filter(|point| !self.scene.page.is_gone(point)) else { return segment };
        self.scene.page.trace.borrow_mut().point(address);
        match address.kind {
            Kind::Hook => self.hook(point, &args, segment),
            Kind::Region | Kind::Area => {
                for item in contents::contents(&self.here(), point).iter() {
                    self.item(item, Some(point), segment);
                }
            }
            Kind::Menu => self.menu(point, &args, segment),
            kind if kind.is_component() => {
                if let Some(markup) = self.component(point, args, held) {
                    self.put(segment, markup);
                }
            }
            _ => {}
        }
        segment
    }

    /// Adds what the host itself puts into the head, or at the page's end.
    fn of_host(&mut self, head: bool, parent: SegmentId) -> SegmentId {
        let nesting = self.tree.get(parent).nesting;
        let segment = self.tree.add(Origin::Outlet(OutletName::Host), Some(parent), nesting);
        let here = self.here();
        let elements = self.assets.get_or_insert_with(|| assets::elements(&here));
        let markup = match head {
            true => head::head(&here, &std::mem::take(&mut elements.head)),
            false => std::mem::take(&mut elements.end),
        };
        self.put(segment, markup.trim_end().to_string());
        segment
    }

    /// Adds what each listener returns, and at the host's own two hooks what the host adds.
    fn hook(&mut self, point: &Point, args: &Given, segment: SegmentId) {
        let names = &self.scene.page.shared.names;
        let (is_head, is_end) = (Some(point.address) == names.head, Some(point.address) == names.end);
        if is_head {
            let hole = self.scene.page.leave_hole(Hole::Head);
            self.put(segment, hole);
        }
        let args = &with_defaults(point, args).into_owned();
        for slot in point.slots.iter() {
            match slot.runs {
                Runs::Partial(address, found) => self.attached_partial(point, slot, address, found, args, segment),
                Runs::Callback(..) => self.listener(point, slot, args, segment),
            }
        }
        if is_end {
            let hole = self.scene.page.leave_hole(Hole::End);
            self.put(segment, hole);
        }
    }

    fn attached_partial(
        &mut self,
        point: &Point,
        slot: &Slot,
        address: Address,
        found: bool,
        args: &Given,
        segment: SegmentId,
    ) {
        if is_on(&self.here(), point, slot) && found {
            note_step(&self.here(), point, slot, StepState::Ran, Instant::now(), None);
            let hole = Hole::Point { point: address, args: args.clone(), held: Vec::new() };
            let markup = self.scene.page.leave_hole(hole);
            self.put(segment, markup);
        }
    }

    fn listener(&mut self, point: &Point, slot: &Slot, args: &Given, segment: SegmentId) {
        let here = self.here();
        let listen = |callback| {
            let value = here.calls.call(&Call { callback, piped: None, args, point: point.address })?;
            // Most are markup already.
            if value.is_safe() { Ok(value) } else { markup_of(&value).map(Value::from_safe_string) }
        };
        let Some(markup) = run_slot(&here, point, slot, None, listen) else { return };
        let nesting = self.tree.get(segment).nesting;
        let origin = Origin::Callback(self.scene.page.slot_name(slot));
        let child = self.tree.add(origin, Some(segment), nesting);
        self.tree.segments[segment.0].parts.push(Part::Segment(child));
        self.put(child, markup.as_str().unwrap_or_default().to_string());
    }

    /// Adds what a component holds, or a page's sections.
    fn outlet(&mut self, name: OutletName, items: Vec<Value>, by: Option<Address>, parent: SegmentId) -> SegmentId {
        let nesting = self.tree.get(parent).nesting;
        let segment = self.tree.add(Origin::Outlet(name), Some(parent), nesting);
        let holder = by.and_then(|by| self.registry().point(by));
        for item in &items {
            self.item(item, holder, segment);
        }
        segment
    }
}
