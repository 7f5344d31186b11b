//! One page being rendered: its holes, its trace and its failures. Templates and callbacks reach it
//! through [`current`], since the template engine's functions can't hold on to it.

use std::cell::{Cell, OnceCell, RefCell};
use std::collections::HashMap;
use std::hash::{BuildHasher, RandomState};
use std::rc::Rc;
use std::sync::Arc;
use std::time::Duration;

use indexmap::IndexMap;
use minijinja::Value;
use truehook_core::address::Address;
use truehook_core::link::{Outcome, Registry, Slot, breakout};
use truehook_core::scan::{PageShape, SectionKind, Shape, TemplateShape};
use truehook_core::source::{FileId, LineIndex, Place};

use crate::Stage;
use crate::assets::{Media, MediaFile};
use crate::engine::{Engine, PageEngine};
use crate::moments;
use crate::pages::Globals;
use crate::tree::Part;
use crate::words::Words;

/// Something that went wrong while a page was rendered. The page is there without it.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Failure {
    /// The point that it happened at.
    pub point: Option<String>,
    /// The callback, or the template, that failed.
    pub source: Option<String>,
    /// Where: the file as it is shown to people, line and column from 1.
    pub place: Option<(String, usize, usize)>,
    /// What went wrong.
    pub message: String,
}

/// What became of a step.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum StepState {
    /// It ran.
    Ran,
    /// Its condition did not hold.
    Off,
    /// It failed.
    Failed,
}

/// One attachment that came to its turn, or a callback that rendered a component.
#[derive(Clone, Debug)]
pub struct Step {
    /// The point.
    pub point: Address,
    /// The attachment, by its place; nothing for what renders a component.
    pub slot: Option<Place>,
    /// The callback or partial, by its name.
    pub name: Arc<str>,
    /// What became of it.
    pub state: StepState,
    /// How long it took.
    pub time: Duration,
    /// What it was given, and what came of it; only where that was asked for.
    pub values: Option<(String, String)>,
}

/// A value that `note` wrote.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Note {
    /// How many steps came before it.
    pub after: usize,
    /// The value.
    pub text: String,
}

/// What ran, in order.
#[derive(Clone, Debug, Default)]
pub struct Trace {
    /// The points that were put on the page, or sent a value through, in order.
    pub points: Vec<Address>,
    /// The attachments.
    pub steps: Vec<Step>,
    /// What `note` wrote.
    pub notes: Vec<Note>,
}

impl Trace {
    /// Adds a value that `note` wrote.
    pub(crate) fn note(&mut self, text: String) {
        self.notes.push(Note { after: self.steps.len(), text });
    }
}

/// A placement that is still to be filled.
#[derive(Clone, Debug)]
pub enum Hole {
    /// A point, with its arguments and, for a component, what it holds.
    Point { point: Address, args: Vec<(String, Value)>, held: Vec<Value> },
    /// What the component at hand holds.
    Held(Frame),
    /// The page's sections.
    Sections,
    /// What features and assets put into the head, or at the page's end.
    Host { head: bool },
}

/// The component that is being rendered.
#[derive(Clone, Debug)]
pub struct Frame {
    pub component: Address,
    /// The items that it holds.
    pub held: Vec<Value>,
}

/// The names of slots and templates, made once for all pages.
#[derive(Default)]
pub struct Names {
    pub slots: HashMap<Place, Arc<str>>,
    pub templates: HashMap<FileId, Arc<str>>,
    /// The points that can be placed, by what is written for them.
    pub placed: HashMap<String, Address>,
    /// Is anything attached to what the host fires before a page?
    pub begins: bool,
    /// The host's hook inside the head, and that at the page's end.
    pub head: Option<Address>,
    pub end: Option<Address>,
    /// Can items be wider than the text?
    pub breakout: bool,
}

impl Names {
    pub fn new(registry: &Registry) -> Names {
        let slots = registry.points.values().flat_map(|point| &point.slots);
        let files = (0..registry.project.files.len()).map(|at| FileId(at as u32));
        let placed = registry.points.keys().filter(|address| address.kind.is_placed());
        Names {
            begins: moments::begins(registry),
            head: registry.head_hook(),
            end: registry.end_hook(),
            breakout: registry.is_on(breakout()),
            placed: placed.map(|address| (address.to_string(), *address)).collect(),
            slots: slots.map(|slot| (slot.place, registry.slot_name(slot).into())).collect(),
            templates: files
                .filter(|file| registry.template(*file).is_some())
                .map(|file| (file, registry.template_name(file).into()))
                .collect(),
        }
    }
}

/// One page being rendered.
pub struct Run {
    pub registry: Arc<Registry>,
    /// What templates, callbacks and conditions read. Filters that the host fires change some of it
    /// before the page is begun.
    pub globals: RefCell<Arc<Globals>>,
    /// What the page's file says, where it has one.
    pub page: Option<Arc<PageShape>>,
    /// Has the page a text of its own?
    pub has_body: bool,
    /// Are the values to be kept that each step was given and that came of it?
    pub watched: bool,
    /// Attachments that are left out.
    pub left_out: Vec<Place>,
    /// The engine with this page's context, once a callback is called.
    pub engine: OnceCell<PageEngine>,
    pub names: Rc<Names>,
    runtime: Rc<Engine>,
    /// The path of the page, from which addresses are relative.
    pub path: String,
    pub holes: RefCell<Vec<Hole>>,
    pub trace: RefCell<Trace>,
    pub failures: RefCell<Vec<Failure>>,
    pub media: RefCell<IndexMap<String, MediaFile>>,
    /// The assets that the page loads, once they are chosen.
    pub assets: RefCell<Vec<Address>>,
    /// The files that any page asked for.
    pub media_files: Rc<Media>,
    /// The theme's messages in the page's language.
    pub words: Rc<Words>,
    /// The items and entries of points, once they were asked for.
    pub contents: RefCell<IndexMap<Address, Rc<[Value]>>>,
    /// The component that is being rendered.
    pub frame: RefCell<Option<Frame>>,
    /// The template that is being rendered.
    pub template: Cell<Option<FileId>>,
    mark: String,
}

thread_local! {
    static CURRENT: RefCell<Option<Rc<Run>>> = const { RefCell::new(None) };
}

/// Makes a run the current one as long as the guard lives.
pub struct Guard(Option<Rc<Run>>);

impl Guard {
    pub fn enter(run: Rc<Run>) -> Guard {
        Guard(CURRENT.with(|current| current.borrow_mut().replace(run)))
    }
}

impl Drop for Guard {
    fn drop(&mut self) {
        let before = self.0.take();
        CURRENT.with(|current| *current.borrow_mut() = before);
    }
}

/// Does something with the run that is under way, if there is one.
pub fn current<T>(act: impl FnOnce(&Rc<Run>) -> T) -> Option<T> {
    let run = CURRENT.with(|current| current.borrow().clone());
    run.as_ref().map(act)
}

/// Noncharacters of Unicode: no text may hold them, so no text can be taken for a hole.
const OPEN: char = '\u{fdd0}';
const CLOSE: char = '\u{fdd1}';

impl Run {
    pub fn new(stage: &Stage, position: usize, watched: bool) -> Run {
        let pages = &stage.pages;
        let page = pages.shape(position, &stage.registry);
        let globals = pages.globals(position, page.as_deref(), &stage.registry);
        Run {
            registry: stage.registry.clone(),
            globals: RefCell::new(Arc::new(globals)),
            page,
            has_body: pages.body(position).is_some(),
            watched,
            left_out: Vec::new(),
            engine: OnceCell::new(),
            names: stage.names.clone(),
            runtime: stage.engine.clone(),
            path: pages.info(position).path.clone(),
            holes: RefCell::default(),
            trace: RefCell::default(),
            failures: RefCell::default(),
            media: RefCell::default(),
            assets: RefCell::default(),
            media_files: stage.media.clone(),
            words: stage.words.clone(),
            contents: RefCell::default(),
            frame: RefCell::default(),
            template: Cell::new(None),
            // A text that holds the noncharacters all the same can't know this.
            mark: format!("{:x}", RandomState::new().hash_one(0)),
        }
    }

    /// What templates, callbacks and conditions read.
    pub fn globals(&self) -> Arc<Globals> {
        self.globals.borrow().clone()
    }

    /// What a slot is called.
    pub fn slot_name(&self, slot: &Slot) -> Arc<str> {
        self.names.slots.get(&slot.place).cloned().unwrap_or_else(|| self.registry.slot_name(slot).into())
    }

    /// Does something as the rendering of a component; without one, as nobody's.
    pub fn within<T>(&self, frame: Option<Frame>, act: impl FnOnce() -> T) -> T {
        let outer = self.frame.replace(frame);
        let result = act();
        self.frame.replace(outer);
        result
    }

    /// The engine, set up for this page when it is first asked for.
    pub fn engine(&self) -> Result<&PageEngine, String> {
        if self.engine.get().is_none() {
            let engine = self.runtime.page(&self.globals())?;
            // It was empty, and nobody else is here.
            let _ = self.engine.set(engine);
        }
        self.engine.get().ok_or_else(|| "the callback engine can't be started".to_string())
    }

    /// Leaves a hole, and returns the text that stands for it.
    pub fn leave_hole(&self, hole: Hole) -> String {
        let mut holes = self.holes.borrow_mut();
        holes.push(hole);
        let mut text = String::with_capacity(self.mark.len() + 16);
        text.push(OPEN);
        text.push_str(&self.mark);
        text.push(':');
        text.push_str(itoa(holes.len() - 1, &mut [0; 20]));
        text.push(CLOSE);
        text
    }

    /// Splits markup at its holes. What is left of holes whose text was changed on its way is taken away;
    /// the second answer is true where there was any.
    pub fn split(&self, markup: String) -> (Vec<Part>, bool) {
        if !markup.contains(OPEN) {
            return (if markup.is_empty() { Vec::new() } else { vec![Part::Text(markup)] }, false);
        }
        let mut parts = Vec::new();
        let mut lost = false;
        let mut rest = markup.as_str();
        while let Some(at) = rest.find(OPEN) {
            let inside = &rest[at + OPEN.len_utf8()..];
            let end = inside.find(CLOSE);
            let own = inside.strip_prefix(self.mark.as_str()).and_then(|own| own.strip_prefix(':'));
            let number = own.and_then(|own| own.split(CLOSE).next()?.parse().ok()).filter(|_| end.is_some());
            if at > 0 {
                parts.push(Part::Text(rest[..at].to_string()));
            }
            parts.extend(number.map(Part::Hole));
            lost |= number.is_none();
            rest = end.map_or(inside, |end| &inside[end + CLOSE.len_utf8()..]);
        }
        if !rest.is_empty() {
            parts.push(Part::Text(rest.to_string()));
        }
        (parts, lost)
    }

    /// Does a text stand for a hole, or hold one?
    pub fn has_hole(&self, text: &str) -> bool {
        text.contains(OPEN) && text.contains(&self.mark)
    }

    pub fn fail(&self, failure: Failure) {
        let mut failures = self.failures.borrow_mut();
        if !failures.contains(&failure) {
            failures.push(failure);
        }
    }

    /// A failure at a place in a file of the project.
    pub fn fail_at(&self, place: Place, point: Option<Address>, source: Option<String>, message: impl Into<String>) {
        let text = self.registry.project.file(place.file).text();
        let (line, column) = LineIndex::new(text).position(self.registry.span(place).start);
        let shown = self.registry.project.shown(place.file);
        let point = point.map(|point| point.to_string());
        self.fail(Failure { point, source, place: Some((shown, line, column)), message: message.into() });
    }

    /// Notes that a template read a name that isn't there. The place is that which the checker knows.
    pub fn unknown_variable(&self, name: &str, near: Option<&str>) {
        if self.is_macro(name) {
            return;
        }
        let message = match near {
            Some(near) => format!("`{name}` is not there; did you mean `{near}`?"),
            None => format!("`{name}` is not there, so it prints nothing"),
        };
        let reads = |file: FileId| {
            let template = self.registry.template(file)?;
            let joined = |read: &truehook_core::scan::Read| {
                read.path.iter().map(|step| step.name.as_str()).collect::<Vec<_>>().join(".")
            };
            let read = template.reads.iter().find(|read| {
                let path = joined(read);
                path == name || path.starts_with(&format!("{name}."))
            })?;
            let step = name.matches('.').count().min(read.path.len() - 1);
            Some(Place { file, at: read.path[step].at })
        };
        let Some(file) = self.template.get() else { return };
        let missing = |reference: &&truehook_core::link::Reference| {
            matches!(reference.outcome, Outcome::Missing { .. }) && reference.written.starts_with(name)
        };
        let place = reads(file).or_else(|| self.registry.references.iter().find(missing).map(|found| found.from));
        match place {
            Some(place) => self.fail_at(place, None, Some(self.registry.template_name(place.file)), message),
            None => {
                let source = Some(self.registry.template_name(file));
                self.fail(Failure { point: None, source, place: None, message });
            }
        }
    }

    /// Is this the name of a macro? The engine asks for all names in a macro before it knows the macro
    /// itself.
    fn is_macro(&self, name: &str) -> bool {
        let has = |template: &TemplateShape| {
            template.sections.iter().any(|section| matches!(section.kind, SectionKind::Macro(known) if known == *name))
        };
        let here = self.template.get().and_then(|file| self.registry.template(file));
        here.is_some_and(has)
            || self.registry.facts.iter().any(|facts| matches!(&facts.shape, Shape::Template(shape) if has(shape)))
    }
}

/// A number as text.
fn itoa(mut number: usize, digits: &mut [u8; 20]) -> &str {
    let mut at = digits.len();
    loop {
        at -= 1;
        digits[at] = b'0' + (number % 10) as u8;
        number /= 10;
        if number == 0 {
            // Digits are text.
            return std::str::from_utf8(&digits[at..]).unwrap_or_default();
        }
    }
}
