//! One page being made: what is known of it so far. It knows no engine.

use std::cell::{Cell, RefCell};
use std::collections::HashMap;
use std::sync::atomic::AtomicBool;
use std::sync::{Arc, Mutex, OnceLock};

use indexmap::IndexMap;
use minijinja::Value;
use rustc_hash::FxHashMap;
use std::rc::Rc;
use truehook_core::address::{Address, Kind};
use truehook_core::link::{Callback, Point, Registry, Slot};
use truehook_core::source::{FileId, LayerId, Place};

use crate::record::holes::{Frame, Hole, Holes};
use crate::record::strays::StrayIndex;
use crate::record::trace::{Failure, Failures, Trace};
use crate::site::globals::{Globals, Stray};
use crate::site::media::{Media, MediaFile};
use crate::site::setting::Setting;
use crate::site::words::Words;
use crate::site::{PageContent, PageInfo};
use crate::watch::{Code, Watch};

/// What all pages of a theme share: the registry, and what was worked out from it once.
pub struct Shared {
    pub registry: Arc<Registry>,
    pub names: Names,
    /// The files that any page asked for.
    pub media: Media,
    /// What is being carried out, for whoever watches.
    pub watch: Arc<Watch>,
    /// How often each callback had to be stopped so far.
    pub stopped: Mutex<HashMap<Callback, usize>>,
    /// Had any?
    pub any_stopped: AtomicBool,
    /// Where names are read that aren't there.
    pub strays: OnceLock<StrayIndex>,
}

/// The names of slots and templates, made once for all pages.
pub struct Names {
    slots: FxHashMap<Place, Arc<str>>,
    templates: FxHashMap<FileId, Arc<str>>,
    /// The points that can be placed, by what is written for them.
    pub placed: FxHashMap<String, Address>,
    /// Is anything attached to what the host fires before a page?
    pub begins: bool,
    /// The host's hook inside the head, and that at the page's end.
    pub head: Option<Address>,
    pub end: Option<Address>,
}

/// How long a page may be, in bytes.
pub const LONGEST: usize = 16 * 1024 * 1024;

/// What the host fires before a page.
const BEGINNING: [(Kind, &str); 5] = [
    (Kind::Hook, "site-ready"),
    (Kind::Hook, "page-ready"),
    (Kind::Filter, "page-heading"),
    (Kind::Filter, "summary"),
    (Kind::Filter, "root-attributes"),
];

impl Names {
    fn new(registry: &Registry) -> Names {
        let slots = registry.points().flat_map(|point| point.slots.iter());
        let placed = registry.points().map(|point| point.address).filter(|address| address.kind.is_placed());
        let files = registry.project().file_ids().filter(|file| registry.template(*file).is_some());
        let attached =
            |(kind, name)| registry.point(Address::new(kind, name)).is_some_and(|point| !point.slots.is_empty());
        Names {
            begins: BEGINNING.into_iter().any(attached),
            head: registry.head_hook(),
            end: registry.end_hook(),
            placed: placed.map(|address| (address.to_string(), address)).collect(),
            slots: slots.map(|slot| (slot.place, registry.slot_name(slot).into())).collect(),
            templates: files.map(|file| (file, registry.template_name(file).into())).collect(),
        }
    }

    /// The canonical name of a template, `layer:name`.
    pub fn template(&self, file: FileId) -> Arc<str> {
        self.templates.get(&file).cloned().unwrap_or_default()
    }
}

impl Shared {
    pub fn new(registry: Arc<Registry>, watch: Arc<Watch>) -> Shared {
        Shared {
            names: Names::new(&registry),
            media: Media::default(),
            watch,
            stopped: Mutex::default(),
            any_stopped: AtomicBool::new(false),
            strays: OnceLock::new(),
            registry,
        }
    }
}

/// As long as it is there, the address of a file is being made.
pub struct AddressGuard<'r>(&'r Cell<bool>);

impl Drop for AddressGuard<'_> {
    fn drop(&mut self) {
        self.0.set(false);
    }
}

/// One page being made.
pub struct Rendering {
    pub shared: Arc<Shared>,
    pub setting: Arc<Setting>,
    /// The theme's messages in the page's language.
    pub words: Arc<Words>,
    /// The path of the page, from which addresses are relative.
    pub path: String,
    /// What the site says of the page.
    pub content: PageContent,
    /// Are the values to be kept that each step was given and that came of it?
    pub watched: bool,
    /// Is it to be kept what printed each text?
    pub sourced: bool,
    /// Attachments that are left out.
    pub left_out: Vec<Place>,
    /// Points that print nothing, since it was asked for.
    pub silent: Vec<Address>,
    /// Items that fill regions and areas which nothing else fills.
    pub samples: Vec<(Address, serde_json::Value)>,
    /// An item that is the only one in a region or area.
    pub only: Option<(Address, serde_json::Value)>,
    /// Code that is not run, and what is said of it.
    pub barred: Vec<(Code, String)>,
    /// How many bytes the page has so far.
    written: Cell<usize>,
    /// What templates, callbacks and conditions read. Filters that the host fires change some of it
    /// before the page is begun.
    globals: RefCell<Arc<Globals>>,
    pub holes: RefCell<Holes>,
    pub trace: RefCell<Trace>,
    failures: RefCell<Failures>,
    pub media: RefCell<IndexMap<String, MediaFile>>,
    /// The assets that the page loads, once they are chosen.
    pub assets: RefCell<Vec<Address>>,
    /// The items and entries of points, once they were asked for.
    pub contents: RefCell<IndexMap<Address, Rc<[Value]>>>,
    /// Is the address of a file being made?
    addressing: Cell<bool>,
    /// The component that is being rendered.
    frame: RefCell<Option<Frame>>,
    /// The template that is being rendered.
    template: Cell<Option<FileId>>,
}

impl Rendering {
    /// Is a section among those that the site says the page has?
    pub fn has_section(&self, section: Address) -> bool {
        let sections = self.content.values.get("sections").and_then(serde_json::Value::as_array);
        let uses = |item: &serde_json::Value| item.get("use").and_then(|used| used.as_str()?.parse().ok());
        sections.into_iter().flatten().any(|item| uses(item) == Some(section))
    }

    /// Is a point out of use on this page?
    pub fn is_gone(&self, point: &Point) -> bool {
        point.dropped.is_some() || self.silent.contains(&point.address)
    }

    pub fn new(
        shared: Arc<Shared>,
        setting: Arc<Setting>,
        words: Arc<Words>,
        info: &PageInfo,
        content: PageContent,
        globals: Globals,
    ) -> Rendering {
        Rendering {
            shared,
            setting,
            words,
            path: info.path.clone(),
            content,
            watched: false,
            sourced: false,
            left_out: Vec::new(),
            silent: Vec::new(),
            samples: Vec::new(),
            only: None,
            barred: Vec::new(),
            written: Cell::new(0),
            globals: RefCell::new(Arc::new(globals)),
            holes: RefCell::default(),
            trace: RefCell::default(),
            failures: RefCell::default(),
            media: RefCell::default(),
            assets: RefCell::default(),
            contents: RefCell::default(),
            addressing: Cell::new(false),
            frame: RefCell::default(),
            template: Cell::new(None),
        }
    }

    pub fn registry(&self) -> &Arc<Registry> {
        &self.shared.registry
    }

    /// Why some code is not run on this page, if it is not.
    pub fn barred(&self, code: Code) -> Option<&str> {
        self.barred.iter().find(|(known, _)| *known == code).map(|(_, why)| why.as_str())
    }

    /// Is there room on the page for that many bytes more? It takes them, and what finds none is told.
    pub fn has_room(&self, bytes: usize) -> bool {
        let written = self.written.get().saturating_add(bytes);
        let fits = written <= LONGEST;
        if fits {
            self.written.set(written);
        } else {
            let message = format!("the page is longer than {} MiB: what comes after that is left out", LONGEST >> 20);
            self.fail(Failure::new(message));
        }
        fits
    }

    /// What templates, callbacks and conditions read.
    pub fn globals(&self) -> Arc<Globals> {
        self.globals.borrow().clone()
    }

    pub fn set_globals(&self, globals: Globals) {
        self.globals.replace(Arc::new(globals));
    }

    /// What a slot is called.
    pub fn slot_name(&self, slot: &Slot) -> Arc<str> {
        let known = self.shared.names.slots.get(&slot.place).cloned();
        known.unwrap_or_else(|| self.registry().slot_name(slot).into())
    }

    /// Does something as the rendering of a component; without one, as nobody's.
    pub fn within<T>(&self, frame: Option<Frame>, act: impl FnOnce() -> T) -> T {
        let outer = self.frame.replace(frame);
        let result = act();
        self.frame.replace(outer);
        result
    }

    /// The component that is being rendered.
    pub fn frame(&self) -> Option<Frame> {
        self.frame.borrow().clone()
    }

    /// Does something while a template is rendered.
    pub fn in_template<T>(&self, file: FileId, act: impl FnOnce() -> T) -> T {
        self.hear_strays();
        let outer = self.template.replace(Some(file));
        let result = act();
        self.hear_strays();
        self.template.set(outer);
        result
    }

    /// What the template that is being rendered is called.
    pub fn template_name(&self) -> Option<String> {
        self.template.get().map(|file| self.registry().template_name(file))
    }

    /// Leaves a hole, and returns the text that stands for it.
    pub fn leave_hole(&self, hole: Hole) -> String {
        self.holes.borrow_mut().leave(hole)
    }

    /// The address of a file or asset as this page shows it; the file goes beside the page.
    pub fn link_media(&self, written: &str, from: LayerId) -> Option<String> {
        let linked = self.shared.media.link(self.registry(), &self.path, written, from)?;
        self.media.borrow_mut().extend(linked.files);
        Some(linked.address)
    }

    /// Says that the address of a file is being made; nothing where that is so already.
    pub fn begin_address(&self) -> Option<AddressGuard<'_>> {
        (!self.addressing.replace(true)).then_some(AddressGuard(&self.addressing))
    }

    /// Notes the files behind an address that a callback made of another one. False where there are none, and the address
    /// is no one elsewhere.
    pub fn link_address(&self, address: &str) -> bool {
        let elsewhere = address.contains("://") || address.starts_with("//") || address.starts_with("data:");
        let files = self.shared.media.at(self.registry(), &self.path, address);
        let known = files.is_some();
        self.media.borrow_mut().extend(files.into_iter().flatten());
        known || elsewhere
    }

    pub fn fail(&self, failure: Failure) {
        self.hear_strays();
        self.note_failure(failure);
    }

    fn note_failure(&self, failure: Failure) {
        self.failures.borrow_mut().add(failure);
    }

    pub fn take_failures(&self) -> Vec<Failure> {
        self.hear_strays();
        self.failures.take().into_list()
    }

    /// A failure at a place in a file of the project.
    pub fn fail_at(&self, place: Place, point: Option<Address>, source: Option<String>, message: impl Into<String>) {
        self.fail(self.failure_at(place, point, source, message.into()));
    }

    fn failure_at(&self, place: Place, point: Option<Address>, source: Option<String>, message: String) -> Failure {
        let project = self.registry().project();
        let (line, column) = self.registry().lines(place.file).position(self.registry().span(place).start);
        let place = Some((project.shown(place.file), line, column));
        Failure { point: point.map(|point| point.to_string()), place, ..Failure::of(source, message) }
    }

    /// Notes a callback's failure, at the place that its engine names (module, line, column), else where it
    /// is exported.
    pub fn fail_callback(
        &self,
        point: Address,
        callback: Callback,
        message: String,
        place: Option<(String, usize, usize)>,
    ) {
        let registry = self.registry();
        let project = registry.project();
        let name = registry.callback_name(callback);
        let known = place.and_then(|(module, line, column)| {
            let (layer, path) = module.split_once(':')?;
            let file = project.find(project.layer_named(layer)?, &format!("code/{path}"))?;
            Some((project.shown(file), line, column))
        });
        match (known, registry.export(callback)) {
            (None, Some(export)) => {
                self.fail_at(Place { file: callback.file, at: export.at }, Some(point), Some(name), message);
            }
            (place, _) => {
                self.fail(Failure { point: Some(point.to_string()), place, ..Failure::of(Some(name), message) });
            }
        }
    }

    /// Notes that an attachment's condition could not be evaluated.
    pub fn fail_condition(&self, point: &Point, slot: &Slot, message: impl Into<String>) {
        let at = slot.when.as_ref().map_or(slot.place.at, |when| when.at);
        let at = Place { file: slot.place.file, at };
        self.fail_at(at, Some(point.address), Some(self.registry().slot_name(slot)), message);
    }

    /// Turns names that were read and aren't there into failures of the template that is being rendered. The
    /// place is that which the checker knows.
    fn hear_strays(&self) {
        let strays = self.globals.borrow().strays.take();
        let Some(file) = self.template.get() else { return };
        for stray in strays {
            if let Some(failure) = self.stray_failure(file, &stray) {
                self.note_failure(failure);
            }
        }
    }

    fn stray_failure(&self, file: FileId, stray: &Stray) -> Option<Failure> {
        let Stray { name, near } = stray;
        if self.is_macro(name) {
            return None;
        }
        let message = match near {
            Some(near) => format!("`{name}` is not there; did you mean `{near}`?"),
            None => format!("`{name}` is not there, so it prints nothing"),
        };
        let registry = self.registry();
        let strays = self.shared.strays.get_or_init(|| StrayIndex::new(registry));
        let place = strays.read(registry, file, name).or_else(|| strays.missing(name));
        Some(match place {
            Some(place) => self.failure_at(place, None, Some(registry.template_name(place.file)), message),
            None => Failure::of(Some(registry.template_name(file)), message),
        })
    }

    /// Is this the name of a macro? The engine asks for all names in a macro before it knows the macro
    /// itself.
    fn is_macro(&self, name: &str) -> bool {
        self.shared.strays.get_or_init(|| StrayIndex::new(self.registry())).macros.contains(name)
    }
}
