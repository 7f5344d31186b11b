//! Templates: the engine's environment, with the functions that stand on top of it.

use std::cell::RefCell;
use std::collections::HashMap;
use std::rc::Rc;
use std::sync::{Arc, LazyLock, Mutex, PoisonError};

use minijinja::value::{Kwargs, Object, ObjectRepr};
use minijinja::{AutoEscape, Environment, Error, ErrorKind, Expression, State, UndefinedBehavior, Value};
use truehook_core::address::Address;
use truehook_core::link::Registry;
use truehook_core::name::Name;
use truehook_core::names::{GLOBALS, nearest};
use truehook_core::read::FileKind;
use truehook_core::scan::{Condition, FILTERS, FUNCTIONS, Prefix, TESTS};
use truehook_core::source::{FileId, LayerId};

use crate::component::Inputs;
use crate::fill;
use crate::flow;
use crate::pages::Globals;
use crate::run::{self, Failure};
use crate::turns::shown;
use crate::urls;
use crate::values::escaped;

/// Names that the engine looks up by itself.
const ENGINE_NAMES: [&str; 4] = ["super", "caller", "loop", "self"];
/// How deeply templates may include each other and macros call each other.
const DEEPEST: usize = 200;

/// The environment in which a theme's templates run.
pub fn environment(registry: &Arc<Registry>) -> Environment<'static> {
    let mut environment = Environment::new();
    environment.set_auto_escape_callback(|_| AutoEscape::Html);
    environment.set_undefined_behavior(UndefinedBehavior::Chainable);
    environment.set_recursion_limit(DEEPEST);
    environment.set_fuel(Some(registry.limits.template_steps));
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
        let layer = file_of(&names, from).map_or(names.project.top(), |file| names.project.file(file).layer);
        let found = names.resolve_template(name, layer);
        let canonical = found.map_or_else(|| name.to_string(), |file| names.template_name(file));
        joined.entry(from.to_string()).or_default().insert(name.to_string(), canonical.clone());
        canonical.into()
    });
    let sources = registry.clone();
    environment.set_loader(move |name| {
        if let Some(wrap) = wrap_named(&sources, name) {
            return Ok(Some(wrap.to_string()));
        }
        match file_of(&sources, name) {
            Some(file) if in_circle(&sources, file) => {
                Err(Error::new(ErrorKind::InvalidOperation, "the template extends itself in a circle"))
            }
            file => Ok(file.map(|file| urls::guarded(sources.project.file(file).text()))),
        }
    });
    environment.add_function("place", place);
    environment.add_function("filled", filled);
    environment.add_function("enabled", enabled);
    environment.add_function("asset", asset);
    environment.add_function("note", note);
    environment.add_function(urls::CHECK, address);
    environment.add_filter("through", through);
    environment.add_filter("t", translated);
    environment
}

/// The file of a canonical name.
fn file_of(registry: &Registry, name: &str) -> Option<FileId> {
    match Prefix::split(name) {
        (Prefix::Layer(layer), path) => {
            registry.resolve(FileKind::Template, Prefix::Layer(layer), path, registry.project.top(), false)
        }
        _ => None,
    }
}

fn in_circle(registry: &Registry, file: FileId) -> bool {
    registry.parent_of(*registry.chain(file).last().unwrap_or(&file)).is_some()
}

/// The layer of the template that is being rendered.
fn layer_of(state: &State, registry: &Registry) -> LayerId {
    file_of(registry, state.name()).map_or(registry.project.top(), |file| registry.project.file(file).layer)
}

fn rest(kwargs: &Kwargs) -> Result<Vec<(String, Value)>, Error> {
    kwargs.args().map(|name| Ok((name.to_string(), kwargs.get(name)?))).collect()
}

fn no_page() -> Error {
    Error::new(ErrorKind::InvalidOperation, "no page is being rendered")
}

fn place(address: &str, kwargs: Kwargs) -> Result<Value, Error> {
    let args = rest(&kwargs)?;
    run::current(|run| Value::from_safe_string(fill::leave_hole(run, address, args))).ok_or_else(no_page)
}

fn address(value: Value) -> Value {
    let text = value.to_string();
    if urls::is_safe(&text) {
        return value;
    }
    run::current(|run| urls::refuse(run, &text));
    Value::from(urls::HARMLESS)
}

fn through(value: Value, address: &str, kwargs: Kwargs) -> Result<Value, Error> {
    let args = rest(&kwargs)?;
    run::current(|run| flow::send_through(run, address, value, &args, &mut |call| fill::call(run, call)))
        .ok_or_else(no_page)
}

fn filled(address: &str) -> Result<bool, Error> {
    run::current(|run| flow::is_filled(run, address)).ok_or_else(no_page)
}

fn asset(state: &State, path: &str) -> Result<String, Error> {
    run::current(|run| {
        let layer = layer_of(state, &run.registry);
        flow::asset(run, path, layer, &mut |call| fill::call(run, call)).unwrap_or_else(|| {
            let source = Some(state.name().to_string());
            let message = format!("there is no file `{path}`");
            run.fail(Failure { point: None, source, place: None, message });
            path.to_string()
        })
    })
    .ok_or_else(no_page)
}

fn enabled(address: &str) -> Result<bool, Error> {
    run::current(|run| flow::enabled(run, address)).ok_or_else(no_page)
}

fn translated(text: &str, kwargs: Kwargs) -> Result<Value, Error> {
    let mut args = rest(&kwargs)?;
    let plural = args.iter().position(|(name, _)| name == "plural").map(|at| args.remove(at).1);
    let plural = plural.as_ref().and_then(Value::as_str);
    run::current(|run| run.words.message(text, plural, &args)).ok_or_else(no_page)
}

fn note(value: Value) -> String {
    run::current(|run| run.trace.borrow_mut().note(shown(&value)));
    String::new()
}

/// The wrapping markup of a name that [`wrap_name`] gives.
fn wrap_named<'r>(registry: &'r Registry, name: &str) -> Option<&'r str> {
    let (key, address) = name.split_once(' ')?;
    let point = registry.point(address.parse().ok()?)?;
    let wrap = if key == "wrap-title" { point.wrap_title } else { point.wrap };
    wrap.map(|wrap| wrap.as_str())
}

/// What the template engine calls the wrapping markup of a point.
pub fn wrap_name(key: &str, point: Address) -> String {
    format!("{key} {point}")
}

/// What a template sees: the globals, and the inputs of the component or template at hand.
#[derive(Debug)]
pub struct Root {
    globals: Arc<Globals>,
    inputs: Inputs,
}

impl Root {
    pub fn value(globals: Arc<Globals>, inputs: Inputs) -> Value {
        Value::from_object(Root { globals, inputs })
    }
}

impl Object for Root {
    fn repr(self: &Arc<Self>) -> ObjectRepr {
        ObjectRepr::Map
    }

    fn get_value(self: &Arc<Self>, key: &Value) -> Option<Value> {
        let key = key.as_str()?;
        let global = match key {
            "page" => Some(&self.globals.page),
            "site" => Some(&self.globals.site),
            "theme" => Some(&self.globals.theme),
            "options" => Some(&self.globals.options),
            _ => self.inputs.iter().find(|(name, _)| *name == key).map(|(_, value)| value),
        };
        if let Some(value) = global {
            return Some(value.clone());
        }
        let given = key == urls::CHECK
            || FUNCTIONS.contains(&key)
            || ENGINE_NAMES.contains(&key)
            || FILTERS.contains(&key)
            || TESTS.contains(&key);
        if !given {
            let near = nearest(key, self.inputs.iter().map(|(name, _)| *name).chain(GLOBALS));
            run::current(|run| run.unknown_variable(key, near));
        }
        None
    }
}

/// Does a condition hold on this page?
///
/// # Errors
/// Where it can't be evaluated, as when it compares what has no order.
pub fn holds(condition: &Condition, globals: Arc<Globals>) -> Result<bool, String> {
    static PLAIN: LazyLock<Environment<'static>> = LazyLock::new(|| {
        let mut environment = Environment::empty();
        environment.set_undefined_behavior(UndefinedBehavior::Chainable);
        environment.add_function("enabled", enabled);
        environment.set_fuel(Some(100_000));
        environment
    });
    thread_local! {
        // A condition is asked for on every page, and is the same text each time.
        static READ: RefCell<HashMap<Name, Rc<Expression<'static, 'static>>>> = RefCell::default();
    }
    let known = READ.with(|read| read.borrow().get(&condition.text).cloned());
    let expression = match known {
        Some(known) => known,
        None => {
            let text = condition.text.as_str();
            let expression = Rc::new(PLAIN.compile_expression(text).map_err(|error| error.to_string())?);
            READ.with(|read| read.borrow_mut().insert(condition.text, expression.clone()));
            expression
        }
    };
    let value = expression.eval(Root::value(globals, Vec::new())).map_err(|error| error.to_string())?;
    Ok(value.is_true())
}
