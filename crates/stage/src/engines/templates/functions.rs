//! The functions and filters that stand on top of the template engine's own.

use minijinja::value::Kwargs;
use minijinja::{Environment, Error, ErrorKind, State, Value};
use truehook_core::source::LayerId;

use super::file_of;
use super::root::scene;
use crate::addresses;
use crate::host::Here;
use crate::record::trace::Failure;
use crate::value::{Given, escape};

pub fn add(environment: &mut Environment<'static>) {
    environment.add_function("place", place);
    environment.add_function("filled", filled);
    environment.add_function("enabled", enabled);
    environment.add_function("asset", asset);
    environment.add_function("note", note);
    environment.add_function(addresses::CHECK, address);
    environment.add_function(addresses::WITHIN, within);
    environment.add_filter("through", through);
    environment.add_filter("t", translated);
}

/// Does something for the page in which a function is called.
fn at<T>(state: &State, act: impl FnOnce(&Here<'_>) -> T) -> Result<T, Error> {
    let scene = scene(state).ok_or_else(|| Error::new(ErrorKind::InvalidOperation, "no page is being rendered"))?;
    Ok(act(&scene.here()))
}

fn rest(kwargs: &Kwargs) -> Result<Given, Error> {
    kwargs.args().map(|name| Ok((name.to_string(), kwargs.get(name)?))).collect()
}

fn place(state: &State, address: &str, kwargs: Kwargs) -> Result<Value, Error> {
    let args = rest(&kwargs)?;
    at(state, |here| Value::from_safe_string(here.host.place(here, address, args)))
}

fn through(state: &State, value: Value, address: &str, kwargs: Kwargs) -> Result<Value, Error> {
    let args = rest(&kwargs)?;
    at(state, |here| here.host.through(here, address, value, &args))
}

pub(super) fn filled(state: &State, address: &str) -> Result<bool, Error> {
    at(state, |here| here.host.filled(here, address))
}

pub(super) fn enabled(state: &State, address: &str) -> Result<bool, Error> {
    at(state, |here| here.host.enabled(here, address))
}

fn asset(state: &State, path: &str) -> Result<String, Error> {
    at(state, |here| {
        here.host.asset(here, path, layer_of(state, here)).unwrap_or_else(|| {
            here.page.fail(Failure::of(Some(state.name().to_string()), format!("there is no file `{path}`")));
            path.to_string()
        })
    })
}

/// The layer of the template that is being rendered.
fn layer_of(state: &State, here: &Here<'_>) -> LayerId {
    let registry = here.page.registry();
    let file = file_of(registry, state.name());
    file.map_or(registry.project().top(), |file| registry.project().file(file).layer)
}

fn translated(state: &State, text: &str, kwargs: Kwargs) -> Result<Value, Error> {
    let args = rest(&kwargs)?;
    at(state, |here| here.host.translated(here, text, args))
}

fn note(state: &State, value: Value) -> Result<String, Error> {
    at(state, |here| here.host.note(here, &value))?;
    Ok(String::new())
}

/// What is printed where an address begins.
/// What goes into a document that is the value of an attribute: text is escaped once more, and markup once.
fn within(value: Value) -> Value {
    match value.is_safe() {
        true => Value::from(value.to_string()),
        false => Value::from(escape(&value.to_string())),
    }
}

fn address(state: &State, value: Value) -> Result<Value, Error> {
    let text = value.to_string();
    if addresses::is_safe(&text) {
        return Ok(value);
    }
    at(state, |here| here.host.refuse(here, &text))?;
    Ok(Value::from(addresses::HARMLESS))
}
