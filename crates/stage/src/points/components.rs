//! Components: their inputs, and what prepares those.

use minijinja::Value;
use serde_json::Value as Json;
use truehook_core::address::{Address, Kind};
use truehook_core::link::{Point, Registry};
use truehook_core::names::{hint, nearest};
use truehook_core::scan::Field;

use crate::engines::templates::Inputs;
use crate::host::{Call, CallError, Here};
use crate::points::media::input_address;
use crate::points::turns::run_slot;
use crate::record::trace::Failure;
use crate::value::{Given, ValueType, as_markup, from_json};

/// The inputs that a template or callback gets: defaults, what was given, and what preparers make of it.
pub fn inputs(here: &Here<'_>, point: &Point, given: Given) -> Inputs {
    let mut inputs: Inputs = Vec::with_capacity(point.inputs.len());
    for input in &point.inputs {
        let name = input.field.name.as_str();
        let given = given.iter().find(|(key, _)| key == name).map(|(_, value)| value);
        let wrong =
            |value: &Value| misfit(&input.field, value).or_else(|| no_entry(here.page.registry(), &input.field, value));
        let given = given.filter(|value| match wrong(value) {
            None => true,
            Some(why) => {
                here.page.fail(Failure::at(point.address, format!("{why}, so it has its default")));
                false
            }
        });
        let default = || input.field.default().map_or(Value::from(()), from_json);
        inputs.push((name, given.cloned().unwrap_or_else(default)));
    }
    if point.address.kind == Kind::Partial && point.address.name == "picture" {
        named_width(here, point, &mut inputs);
    }
    if !point.slots.is_empty() {
        let value = prepared(here, point, Value::from_pairs(inputs.clone()));
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
        if input.field.format() == Some("path")
            && let Some(path) = value.as_str()
        {
            *value = Value::from(input_address(here, path));
        }
    }
    inputs
}

/// Where a picture is shown at a named width, that is how wide it is.
fn named_width(here: &Here<'_>, point: &Point, inputs: &mut Inputs) {
    let named = inputs.iter().find(|(name, _)| *name == "at").and_then(|(_, at)| at.as_str().map(str::to_string));
    let Some(named) = named.filter(|named| !named.is_empty()) else { return };
    let widths = here.page.registry().argument("pictures", "widths").unwrap_or_default();
    match widths.get(&named).and_then(Json::as_i64) {
        Some(width) => {
            if let Some((_, value)) = inputs.iter_mut().find(|(name, _)| *name == "width") {
                *value = Value::from(width);
            }
        }
        None => {
            let known = widths.as_object().into_iter().flatten().map(|(name, _)| name.as_str());
            let near = nearest(&named, known).map(str::to_string);
            let message = format!("the theme has no width `{named}`{}", hint(&near));
            here.page.fail(Failure::at(point.address, message));
        }
    }
}

/// Lets preparers have their turn.
fn prepared(here: &Here<'_>, point: &Point, mut value: Value) -> Value {
    for slot in point.slots.iter() {
        let prepare = |callback| {
            let new = here.calls.call(&Call { callback, piped: Some(&value), args: &[], point: point.address })?;
            let got = ValueType::of(&new);
            if got != ValueType::Object {
                return Err(CallError::wrong_type("the inputs, an object", got));
            }
            for input in &point.inputs {
                let part = new.get_attr(&input.field.name).unwrap_or_default();
                let no_entry = || no_entry(here.page.registry(), &input.field, &part);
                if let Some(why) = misfit(&input.field, &part).or_else(no_entry) {
                    return Err(CallError::new(format!("returned inputs of which {why}")));
                }
            }
            Ok(new)
        };
        if let Some(new) = run_slot(here, point, slot, Some(&value), prepare) {
            value = new;
        }
    }
    value
}

/// How a value names no entry of the feature whose entries it is to name, as of the palette.
fn no_entry(registry: &Registry, field: &Field, value: &Value) -> Option<String> {
    let format = field.format().filter(|format| !matches!(*format, "path" | "page"))?;
    let name = value.as_str().filter(|name| !name.is_empty())?;
    let (argument, known) = registry.entries_of_format(format)?;
    if known.iter().any(|entry| *entry == *name) {
        return None;
    }
    let near = nearest(name, known.iter().map(|entry| entry.as_str())).map(str::to_string);
    Some(format!("`{}` is `{name}`, which is no entry of `{argument}`{}", field.name, hint(&near)))
}

/// What of a schema says more than the type, and is not met.
pub fn beyond(schema: &Json, value: &Value) -> Option<String> {
    let says_more = schema.as_object().is_some_and(|words| words.keys().any(|word| LIMITS.contains(&word.as_str())));
    let plain = serde_json::to_value(value).ok().filter(|_| says_more)?;
    Some(truehook_core::schema::misfit(schema, &plain)?.message)
}

/// Words of a schema that say more than the type.
const LIMITS: [&str; 16] = [
    "enum",
    "const",
    "minimum",
    "maximum",
    "exclusiveMinimum",
    "exclusiveMaximum",
    "multipleOf",
    "minLength",
    "maxLength",
    "pattern",
    "format",
    "items",
    "minItems",
    "maxItems",
    "properties",
    "anyOf",
];

/// How a value is of another type than the one that its input is declared with. Text is taken for markup,
/// which escapes it, and markup for text.
fn misfit(field: &Field, value: &Value) -> Option<String> {
    let (wanted, got) = (field.type_word()?, ValueType::of(value));
    let fits = got.is_absent()
        || got.is(wanted)
        || matches!((wanted, got), ("string", ValueType::Markup) | ("markup", ValueType::Text));
    if !fits {
        return Some(format!("`{}` is {got} where {wanted} belongs", field.name));
    }
    if got.is_absent() || matches!(got, ValueType::Markup) {
        return None;
    }
    beyond(&field.schema, value).map(|why| format!("`{}` is not what may be there: {why}", field.name))
}

/// What a listener, or a callback that renders, returned: markup, text or nothing.
pub fn markup_of(value: &Value) -> Result<String, CallError> {
    match ValueType::of(value) {
        ValueType::Nothing | ValueType::Null => Ok(String::new()),
        // What `page.lead && html`…`` gives where there is none.
        ValueType::Boolean if !value.is_true() => Ok(String::new()),
        ValueType::Text | ValueType::Markup => Ok(as_markup(value)),
        other => Err(CallError::wrong_type("markup or text", other)),
    }
}

/// The inputs of a menu: those that the partial which renders it takes.
pub fn menu_inputs(
    registry: &Registry,
    component: Address,
    point: &Point,
    entries: Value,
    args: &[(String, Value)],
) -> Given {
    let arg = |name: &str| args.iter().find(|(key, _)| key == name).map(|(_, value)| value.clone());
    let all = [
        ("entries", Some(entries)),
        ("class", arg("class")),
        ("bare", arg("bare")),
        ("levels", point.levels.map(Value::from)),
        ("label", point.label.map(|label| Value::from(label.as_str()))),
    ];
    let partial = registry.point(component).filter(|partial| partial.address.kind == Kind::Partial);
    let takes =
        |name: &str| partial.is_some_and(|partial| partial.inputs.iter().any(|input| input.field.name == *name));
    all.into_iter()
        .filter_map(|(name, value)| Some((name.to_string(), value?)))
        .filter(|(name, _)| takes(name))
        .collect()
}
