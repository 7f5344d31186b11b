//! Components: their inputs, what prepares those, and what renders them.

use std::time::Instant;

use minijinja::Value;
use truehook_core::address::{Address, Kind};
use truehook_core::link::{Callback, Point, Renderer};
use truehook_core::names::{hint, nearest};

use crate::Stage;
use crate::assets;
use crate::engine::{Call, CallError};
use crate::features;
use crate::fill::call;
use crate::markup;
use crate::run::{Failure, Frame, Run, StepState};
use crate::turns::{fail_callback, fail_template, note_render, run_slot, shown, wrong_type};
use crate::values::{as_markup, from_json, type_word};
use truehook_core::source::FileId;

/// What a placement or item gives.
pub type Given = Vec<(String, Value)>;
/// The inputs that a template or callback gets.
pub type Inputs = Vec<(&'static str, Value)>;

/// Renders a component with its inputs; nothing where that fails, which is noted.
pub fn render(stage: &Stage, run: &Run, point: &Point, given: Given, held: Vec<Value>) -> Option<String> {
    let inputs = inputs(run, point, given);
    let frame = Frame { component: point.address, held };
    let markup = run.within(Some(frame), || match point.renderer {
        Some(Renderer::Template(file)) => template(stage, run, file, inputs, Some(point.address)),
        Some(Renderer::Callback(callback)) => by_callback(run, point, callback, inputs),
        None => {
            let message = "nothing renders it".to_string();
            run.fail(Failure { point: Some(point.address.to_string()), source: None, place: None, message });
            None
        }
    })?;
    match point.wrap {
        Some(_) => wrapped(stage, run, point, "wrap", vec![("body", Value::from_safe_string(markup))]),
        None => Some(markup),
    }
}

fn by_callback(run: &Run, point: &Point, callback: Callback, inputs: Inputs) -> Option<String> {
    let begun = Instant::now();
    let value = Value::from_pairs(inputs);
    let result = call(run, &Call { callback, piped: Some(&value), args: &[], point: point.address });
    let markup = result.and_then(|value| markup_of(&value));
    let state = if markup.is_ok() { StepState::Ran } else { StepState::Failed };
    let values = run.watched.then(|| (shown(&value), markup.as_ref().cloned().unwrap_or_default()));
    note_render(run, point.address, callback, state, begun, values);
    markup.map_err(|error| fail_callback(run, point.address, callback, error)).ok()
}

/// What a listener, or a callback that renders, returned: markup, text or nothing.
pub fn markup_of(value: &Value) -> Result<String, CallError> {
    match type_word(value) {
        "nothing" | "null" => Ok(String::new()),
        "string" | "markup" => Ok(as_markup(value)),
        other => Err(wrong_type("markup or text", other)),
    }
}

/// Puts the wrapping markup of a point around something.
pub fn wrapped(stage: &Stage, run: &Run, point: &Point, key: &str, values: Vec<(&str, Value)>) -> Option<String> {
    let wrap = stage.environment.get_template(&markup::wrap_name(key, point.address));
    let result = wrap.and_then(|wrap| wrap.render(Value::from_pairs(values)));
    result
        .map_err(|error| {
            let message = format!("its wrapping markup can't be rendered: {error}");
            run.fail(Failure { point: Some(point.address.to_string()), source: None, place: None, message });
        })
        .ok()
}

/// The inputs that a template or callback gets: defaults, what was given, and what preparer
/// functions make of it.
pub fn inputs(run: &Run, point: &Point, given: Given) -> Inputs {
    let mut inputs: Inputs = Vec::with_capacity(point.inputs.len());
    for input in &point.inputs {
        let name = input.field.name.as_str();
        let given = given.iter().find(|(key, _)| key == name).map(|(_, value)| value);
        let given = given.filter(|value| match misfit(&input.field, value) {
            None => true,
            Some(why) => {
                let message = format!("{why}, so it has its default");
                run.fail(Failure { point: Some(point.address.to_string()), source: None, place: None, message });
                false
            }
        });
        let default = || input.field.default().map_or(Value::from(()), from_json);
        inputs.push((name, given.cloned().unwrap_or_else(default)));
    }
    named_width(run, point, &mut inputs);
    if !point.slots.is_empty() {
        let value = prepared(run, point, Value::from_pairs(inputs.clone()));
        for (name, old) in &mut inputs {
            if let Ok(new) = value.get_attr(name).map_err(drop)
                && !new.is_undefined()
            {
                *old = new;
            }
        }
    }
    // Preparers see the file; what renders it gets its address.
    for (input, (_, value)) in point.inputs.iter().zip(&mut inputs) {
        if input.field.schema.get("format").is_some_and(|format| format == "path")
            && let Some(path) = value.as_str()
        {
            *value = Value::from(assets::input_address(run, path, &mut |of| call(run, of)));
        }
    }
    inputs
}

/// Where a picture is shown at a named width, that is how wide it is.
fn named_width(run: &Run, point: &Point, inputs: &mut Inputs) {
    let picture = point.address.kind == Kind::Partial && point.address.name == "picture";
    let named = inputs.iter().find(|(name, _)| *name == "at").and_then(|(_, at)| at.as_str().map(str::to_string));
    let Some(named) = named.filter(|named| picture && !named.is_empty()) else { return };
    match features::width(&run.registry, &named) {
        Some(width) => {
            if let Some((_, value)) = inputs.iter_mut().find(|(name, _)| *name == "width") {
                *value = Value::from(width);
            }
        }
        None => {
            let known = features::widths(&run.registry);
            let near = nearest(&named, known.iter().map(String::as_str)).map(str::to_string);
            let message = format!("the theme has no width `{named}`{}", hint(&near));
            run.fail(Failure { point: Some(point.address.to_string()), source: None, place: None, message });
        }
    }
}

/// Lets preparers have their turn.
fn prepared(run: &Run, point: &Point, mut value: Value) -> Value {
    for slot in &point.slots {
        let preparer = |run: &Run, callback: Callback| {
            let new = call(run, &Call { callback, piped: Some(&value), args: &[], point: point.address })?;
            if type_word(&new) != "object" {
                return Err(wrong_type("the inputs, an object", type_word(&new)));
            }
            for input in &point.inputs {
                let part = new.get_attr(&input.field.name).unwrap_or_default();
                if let Some(why) = misfit(&input.field, &part) {
                    return Err(CallError { message: format!("returned inputs of which {why}"), place: None });
                }
            }
            Ok(new)
        };
        if let Some(new) = run_slot(run, point, slot, Some(&value), preparer) {
            value = new;
        }
    }
    value
}

/// How a value is of another type than the one that its input is declared with.
fn misfit(field: &truehook_core::scan::Field, value: &Value) -> Option<String> {
    let (wanted, got) = (field.type_word()?, type_word(value));
    let fits = match (wanted, got) {
        (_, "nothing" | "null") | ("string", "markup") | ("markup", "string") | ("number", "integer") => true,
        ("integer", "number") => false,
        (wanted, got) => wanted == got,
    };
    (!fits).then(|| format!("`{}` is {got} where {wanted} belongs", field.name))
}

/// Renders a template; nothing where it fails, which is noted.
pub fn template(stage: &Stage, run: &Run, file: FileId, inputs: Inputs, point: Option<Address>) -> Option<String> {
    let name = stage.names.templates.get(&file).map_or("", |name| name);
    let before = run.template.replace(Some(file));
    let root = markup::Root::value(run.globals(), inputs);
    let result = stage.environment.get_template(name).and_then(|template| template.render(root));
    run.template.set(before);
    result.map_err(|error| fail_template(run, point, file, &error)).ok()
}

/// The inputs of a menu: those that the partial which renders it takes.
pub fn menu_inputs(stage: &Stage, component: Address, point: &Point, entries: Value, args: &Given) -> Given {
    let arg = |name: &str| args.iter().find(|(key, _)| key == name).map(|(_, value)| value.clone());
    let all = [
        ("entries", Some(entries)),
        ("class", arg("class")),
        ("bare", arg("bare")),
        ("levels", point.levels.map(Value::from)),
        ("label", point.label.map(|label| Value::from(label.as_str()))),
    ];
    let takes = |name: &str| {
        let partial = stage.registry.point(component).filter(|partial| partial.address.kind == Kind::Partial);
        partial.is_some_and(|partial| partial.inputs.iter().any(|input| input.field.name == *name))
    };
    all.into_iter()
        .filter_map(|(name, value)| Some((name.to_string(), value?)))
        .filter(|(name, _)| takes(name))
        .collect()
}
