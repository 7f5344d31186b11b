//! Templates: the engine's environment, in which each template is known by its canonical name.

mod conditions;
mod functions;
mod root;

use std::collections::HashMap;
use std::rc::Rc;
use std::sync::{Arc, Mutex, PoisonError};
use std::time::Duration;

use minijinja::{AutoEscape, Environment, Error, ErrorKind, OutputSpanKind, Template, UndefinedBehavior, Value};
use truehook_core::address::Address;
use truehook_core::link::Registry;
use truehook_core::name::Name;
use truehook_core::read::FileKind;
use truehook_core::scan::Prefix;
use truehook_core::source::{FileId, LineIndex, Span};

use crate::addresses::Spots;
use crate::host::Scene;
use crate::record::trace::Failure;
use crate::record::tree::{Printed, Source};
use crate::rendering::{LONGEST, Rendering};
use crate::value::escaped;
use crate::watch::Code;
use conditions::Conditions;
use root::Root;

/// How deeply templates may include each other and macros call each other.
const DEEPEST: usize = 200;

/// The inputs that a template sees beside the globals.
pub type Inputs = Vec<(&'static str, Value)>;

/// The templates of one theme, and its conditions.
pub struct Templates {
    registry: Arc<Registry>,
    spots: Arc<KnownSpots>,
    environment: Environment<'static>,
    conditions: Conditions,
}

/// Markup that goes around something.
#[derive(Clone, Copy, Debug)]
pub enum Wrap {
    /// Around what a component or an item of an area shows.
    Whole,
    /// Around the title of an item.
    Title,
}

impl Wrap {
    fn name(self, point: Address) -> String {
        match self {
            Wrap::Whole => format!("wrap {point}"),
            Wrap::Title => format!("wrap-title {point}"),
        }
    }
}

impl Templates {
    pub fn new(registry: &Arc<Registry>) -> Templates {
        let spots = Arc::default();
        let environment = environment(registry, &spots);
        Templates { registry: registry.clone(), spots, environment, conditions: Conditions::default() }
    }

    /// Renders a template.
    ///
    /// # Errors
    /// Where it can't be rendered, as a failure with its place.
    pub fn render(&self, scene: &Rc<Scene>, file: FileId, inputs: Inputs) -> Result<String, Failure> {
        let (page, code) = (&scene.page, Code::template(file));
        if let Some(why) = page.barred(code) {
            let place = Some((self.registry.project().shown(file), 1, 1));
            return Err(Failure { place, ..Failure::of(Some(self.registry.template_name(file)), why) });
        }
        let name = page.shared.names.template(file);
        let root = Root::value(scene, inputs);
        let render = || {
            let template = self.environment.get_template(&name)?;
            match page.sourced {
                true => self.render_sourced(&template, root, page),
                false => render_within(&template, root),
            }
        };
        let limit = Duration::from_millis(self.registry.limits().page_milliseconds);
        let watched = || page.shared.watch.during(code, limit, render);
        page.in_template(file, watched).map_err(|error| self.failure(file, &error))
    }

    /// As `render_within`, with what printed each text between tokens.
    fn render_sourced(&self, template: &Template<'_, '_>, root: Value, page: &Rendering) -> Result<String, Error> {
        let (printed, spans) = template.render_with_spans(root)?;
        let mut sourced = String::with_capacity(printed.len() * 2);
        let mut done = 0;
        // Most spans are of the template that the one before is of.
        let (mut name, mut template) = ("", None);
        for span in &spans {
            let range = span.output_range();
            if name != span.name() {
                let file = file_of(&self.registry, span.name());
                template = file.map(|file| (file, self.spots.of(&self.registry, file)));
                name = span.name();
            }
            let Some((file, spots)) = &template else { continue };
            let [start, end] = [span.source_range().start, span.source_range().end].map(|at| spots.original(at));
            let kind = match span.kind() {
                OutputSpanKind::Raw => Printed::AsWritten,
                _ => Printed::ByExpression,
            };
            let source = Source { printed: kind, file: *file, span: Span::new(start, end) };
            let [begin, close] = page.holes.borrow_mut().printed(source);
            sourced.push_str(&printed[done..range.start]);
            sourced.push_str(&begin);
            sourced.push_str(&printed[range.clone()]);
            sourced.push_str(&close);
            done = range.end;
        }
        sourced.push_str(&printed[done..]);
        Ok(sourced)
    }

    /// Puts the wrapping markup of a point around something.
    ///
    /// # Errors
    /// Where it can't be rendered, in words for people.
    pub fn wrap(&self, scene: &Rc<Scene>, wrap: Wrap, point: Address, inputs: Inputs) -> Result<String, String> {
        let template = self.environment.get_template(&wrap.name(point));
        let inputs = inputs.into_iter().chain([(root::KEY, root::key(scene))]);
        let result = template.and_then(|template| template.render(Value::from_pairs(inputs)));
        let markup = result.map_err(|error| format!("its wrapping markup can't be rendered: {error}"))?;
        let declared = self.registry.point(point).and_then(|point| point.declared.last());
        let Some(declared) = declared.filter(|_| scene.page.sourced) else { return Ok(markup) };
        let place = declared.place;
        let source = Source { printed: Printed::ByWrap, file: place.file, span: self.registry.span(place) };
        let [begin, close] = scene.page.holes.borrow_mut().printed(source);
        Ok(format!("{begin}{markup}{close}"))
    }

    /// Does a condition hold on this page?
    ///
    /// # Errors
    /// Where it can't be evaluated, as when it compares what has no order.
    pub fn holds(&self, scene: &Rc<Scene>, when: Name) -> Result<bool, String> {
        self.conditions.holds(when, Root::value(scene, Inputs::new()))
    }

    /// A template's failure, at the place that the engine names.
    fn failure(&self, file: FileId, error: &Error) -> Failure {
        let registry = &self.registry;
        let project = registry.project();
        let named = error.name().and_then(|name| {
            let (layer, path) = name.split_once(':')?;
            project.find(project.layer_named(layer)?, &format!("markup/{path}"))
        });
        let at = named.unwrap_or(file);
        let text = project.file(at).text();
        let (line, column) = match (error.range(), error.line()) {
            (Some(range), _) => {
                let start = self.spots.of(registry, at).original(range.start);
                LineIndex::new(text).position(start as u32)
            }
            (None, line) => (line.unwrap_or(1), 1),
        };
        let detail = error.detail().map_or_else(|| error.kind().to_string(), str::to_string);
        let place = Some((project.shown(at), line, column));
        let message = format!("the template can't be rendered: {detail}");
        Failure { place, ..Failure::of(Some(registry.template_name(file)), message) }
    }
}

/// Where the expressions of each template stand that begin an address, once they were asked for.
#[derive(Default)]
struct KnownSpots(Mutex<HashMap<FileId, Arc<Spots>>>);

impl KnownSpots {
    fn of(&self, registry: &Registry, file: FileId) -> Arc<Spots> {
        let mut known = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        known.entry(file).or_insert_with(|| Arc::new(Spots::of(registry.project().file(file).text()))).clone()
    }
}

/// What a template prints, as long as a page may be.
#[derive(Default)]
struct Capped {
    bytes: Vec<u8>,
    full: bool,
}

impl std::io::Write for Capped {
    fn write(&mut self, bytes: &[u8]) -> std::io::Result<usize> {
        self.full |= self.bytes.len() + bytes.len() > LONGEST;
        if self.full {
            return Err(std::io::ErrorKind::FileTooLarge.into());
        }
        self.bytes.extend_from_slice(bytes);
        Ok(bytes.len())
    }

    fn flush(&mut self) -> std::io::Result<()> {
        Ok(())
    }
}

fn render_within(template: &Template<'_, '_>, root: Value) -> Result<String, Error> {
    let mut out = Capped::default();
    let rendered = template.render_captured_to(root, &mut out).map(drop);
    if out.full {
        let message = format!("it prints more than {} MiB, as much as a page may hold", LONGEST >> 20);
        return Err(Error::new(ErrorKind::InvalidOperation, message));
    }
    rendered?;
    String::from_utf8(out.bytes).map_err(|error| Error::new(ErrorKind::InvalidOperation, error.to_string()))
}

/// The environment in which a theme's templates run.
fn environment(registry: &Arc<Registry>, spots: &Arc<KnownSpots>) -> Environment<'static> {
    let mut environment = Environment::new();
    environment.set_auto_escape_callback(|_| AutoEscape::Html);
    environment.set_undefined_behavior(UndefinedBehavior::Chainable);
    environment.set_recursion_limit(DEEPEST);
    environment.set_fuel(Some(registry.limits().template_steps));
    // Nothing is what an absent value prints; all else is escaped as callbacks escape it.
    environment.set_formatter(|out, state, value| match value.as_str() {
        Some(text) if value.is_safe() => out.write_str(text).map_err(Error::from),
        Some(text) if *state.auto_escape() != AutoEscape::None => {
            escaped(text, &mut |part| out.write_str(part)).map_err(Error::from)
        }
        _ if value.is_undefined() || value.is_none() => Ok(()),
        _ if value.kind() == minijinja::value::ValueKind::Bool => {
            out.write_str(if value.is_true() { "true" } else { "false" }).map_err(Error::from)
        }
        _ => minijinja::escape_formatter(out, state, value),
    });
    let names = registry.clone();
    let joined: Mutex<HashMap<String, HashMap<String, String>>> = Mutex::default();
    environment.set_path_join_callback(move |name, from| {
        // The same names are joined for every page.
        let mut joined = joined.lock().unwrap_or_else(PoisonError::into_inner);
        if let Some(known) = joined.get(from).and_then(|of| of.get(name)) {
            return known.clone().into();
        }
        let project = names.project();
        let layer = file_of(&names, from).map_or(project.top(), |file| project.file(file).layer);
        let found = names.resolve_template(name, layer);
        let canonical = found.map_or_else(|| name.to_string(), |file| names.template_name(file));
        joined.entry(from.to_string()).or_default().insert(name.to_string(), canonical.clone());
        canonical.into()
    });
    let (sources, spots) = (registry.clone(), spots.clone());
    environment.set_loader(move |name| {
        if let Some(wrap) = wrap_named(&sources, name) {
            return Ok(Some(wrap.to_string()));
        }
        match file_of(&sources, name) {
            Some(file) if in_circle(&sources, file) => {
                Err(Error::new(ErrorKind::InvalidOperation, "the template extends itself in a circle"))
            }
            Some(file) if is_too_deep(sources.project().file(file).text()) => {
                Err(Error::new(ErrorKind::InvalidOperation, "the template is nested too deep"))
            }
            file => Ok(file.map(|file| spots.of(&sources, file).guarded(sources.project().file(file).text()))),
        }
    });
    functions::add(&mut environment);
    environment
}

/// The file of a canonical name.
fn file_of(registry: &Registry, name: &str) -> Option<FileId> {
    match Prefix::split(name) {
        (Prefix::Layer(layer), path) => {
            registry.resolve(FileKind::Template, Prefix::Layer(layer), path, registry.project().top(), false)
        }
        _ => None,
    }
}

fn is_too_deep(text: &str) -> bool {
    truehook_core::scan::depth::template(text).is_some()
}

fn in_circle(registry: &Registry, file: FileId) -> bool {
    registry.parent_of(*registry.chain(file).last().unwrap_or(&file)).is_some()
}

/// The wrapping markup of a name that [`Wrap::name`] gives.
fn wrap_named<'r>(registry: &'r Registry, name: &str) -> Option<&'r str> {
    let (key, address) = name.split_once(' ')?;
    let point = registry.point(address.parse().ok()?)?;
    let wrap = if key == "wrap-title" { point.wrap_title } else { point.wrap };
    wrap.map(|wrap| wrap.as_str())
}
