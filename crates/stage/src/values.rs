//! Values on their way between preview data, templates and callbacks.
//!
//! Inside the stage every value is the template engine's `Value`; markup is its safe string. Whole
//! numbers up to 2^53 pass unchanged, whole floats come back as integers, dates travel as RFC 3339
//! text.

use std::sync::Arc;

use minijinja::value::{Enumerator, Object, ValueKind};
use minijinja::{Value, value::ObjectRepr};
use rquickjs::function::Function;
use rquickjs::{Array, Ctx, Object as JsObject, Type, Value as JsValue};
use truehook_core::name::Name;
use truehook_core::names::nearest;

use crate::run;

/// The largest whole number that ECMAScript holds exactly.
const LARGEST: i64 = 1 << 53;
/// How deeply a value may be nested.
const DEEPEST: usize = 64;

/// JSON as a value.
pub fn from_json(json: &serde_json::Value) -> Value {
    use serde_json::Value as Json;
    match json {
        Json::Null => Value::from(()),
        Json::Bool(truth) => Value::from(*truth),
        Json::Number(number) => match number.as_i64() {
            Some(number) => Value::from(number),
            None => Value::from(number.as_f64().unwrap_or_default()),
        },
        Json::String(text) => Value::from(text.as_str()),
        Json::Array(items) => items.iter().map(from_json).collect(),
        Json::Object(table) => Value::from_pairs(table.iter().map(|(key, value)| (key.as_str(), from_json(value)))),
    }
}

/// Values by their names.
pub type Values = Vec<(Name, Value)>;

/// A table of which it is known which keys it can have: `page`, `site`, `theme`, `options`.
///
/// A known key that is not set is none. Any other is noted as a failure, and prints nothing.
#[derive(Debug)]
pub struct KnownTable {
    /// How templates call it.
    pub name: &'static str,
    /// What is set.
    pub values: Values,
    /// What can be set.
    pub known: Arc<[Name]>,
}

impl Object for KnownTable {
    fn repr(self: &Arc<Self>) -> ObjectRepr {
        ObjectRepr::Map
    }

    fn get_value(self: &Arc<Self>, key: &Value) -> Option<Value> {
        let key = key.as_str()?;
        if let Some((_, value)) = self.values.iter().find(|(name, _)| *name == *key) {
            return Some(value.clone());
        }
        if self.known.iter().any(|name| *name == *key) {
            return Some(Value::from(()));
        }
        let near = nearest(key, self.known.iter().map(|name| name.as_str()));
        run::current(|run| run.unknown_variable(&format!("{}.{key}", self.name), near));
        None
    }

    fn enumerate(self: &Arc<Self>) -> Enumerator {
        Enumerator::Values(self.values.iter().map(|(name, _)| Value::from(name.as_str())).collect())
    }
}

/// Why a value can't pass.
pub type Refusal = String;

/// What the built-in module lends to conversions.
pub struct Bridge<'js> {
    /// Makes markup from a text.
    pub markup: Function<'js>,
    /// The class of markup.
    pub class: JsValue<'js>,
}

impl<'js> Bridge<'js> {
    /// A value for a callback. It is not frozen yet.
    pub fn to_js(&self, ctx: &Ctx<'js>, value: &Value) -> Result<JsValue<'js>, rquickjs::Error> {
        let js = match value.kind() {
            ValueKind::Undefined => JsValue::new_undefined(ctx.clone()),
            ValueKind::None => JsValue::new_null(ctx.clone()),
            ValueKind::Bool => JsValue::new_bool(ctx.clone(), value.is_true()),
            ValueKind::Number => return number_to_js(ctx, value),
            ValueKind::String => {
                let text = rquickjs::String::from_str(ctx.clone(), value.as_str().unwrap_or_default())?;
                match value.is_safe() {
                    true => self.markup.call((text,))?,
                    false => text.into_value(),
                }
            }
            ValueKind::Map => {
                let object = JsObject::new(ctx.clone())?;
                for key in value.try_iter().into_iter().flatten() {
                    let part = value.get_item(&key).unwrap_or_default();
                    object.set(key.to_string(), self.to_js(ctx, &part)?)?;
                }
                object.into_value()
            }
            ValueKind::Seq | ValueKind::Iterable => {
                let array = Array::new(ctx.clone())?;
                for (at, part) in value.try_iter().into_iter().flatten().enumerate() {
                    array.set(at, self.to_js(ctx, &part)?)?;
                }
                array.into_value()
            }
            _ => rquickjs::String::from_str(ctx.clone(), &value.to_string())?.into_value(),
        };
        Ok(js)
    }

    /// What a callback returned.
    pub fn value_of(&self, value: &JsValue<'js>) -> Result<Value, Refusal> {
        self.read(value, 0)
    }

    fn read(&self, value: &JsValue<'js>, depth: usize) -> Result<Value, Refusal> {
        if depth > DEEPEST {
            return Err(format!("a value nested more than {DEEPEST} deep"));
        }
        let refused = |error: rquickjs::Error| error.to_string();
        match value.type_of() {
            Type::Undefined | Type::Uninitialized => Ok(Value::UNDEFINED),
            Type::Null => Ok(Value::from(())),
            Type::Bool => Ok(Value::from(value.as_bool().unwrap_or_default())),
            Type::Int => Ok(Value::from(value.as_int().unwrap_or_default())),
            Type::Float => number_from_js(value.as_float().unwrap_or_default()),
            Type::String => {
                let text = value.as_string().map(|text| text.to_string()).unwrap_or_else(|| Ok(String::new()));
                text.map(Value::from).map_err(|_| "a string that is not Unicode text".to_string())
            }
            Type::BigInt => Err("a BigInt; use a number".into()),
            Type::Symbol => Err("a symbol".into()),
            Type::Promise => Err("a promise; callbacks have to return at once".into()),
            Type::Function | Type::Constructor => Err("a function".into()),
            Type::Array => {
                let array = value.as_array().ok_or("a list that can't be read")?;
                let mut items = Vec::with_capacity(array.len());
                for item in array.iter::<JsValue>() {
                    items.push(self.read(&item.map_err(refused)?, depth + 1)?);
                }
                Ok(Value::from(items))
            }
            Type::Exception => Err("an error".into()),
            _ => {
                let object = value.as_object().ok_or("something that can't be read")?;
                if object.is_instance_of(&self.class) {
                    let text: String = object.get("text").map_err(refused)?;
                    return Ok(Value::from_safe_string(text));
                }
                let mut entries: Vec<(String, Value)> = Vec::new();
                for entry in object.props::<String, JsValue>() {
                    let (key, part) = entry.map_err(refused)?;
                    entries.push((key, self.read(&part, depth + 1)?));
                }
                Ok(Value::from_pairs(entries))
            }
        }
    }
}

fn number_to_js<'js>(ctx: &Ctx<'js>, value: &Value) -> Result<JsValue<'js>, rquickjs::Error> {
    let float = f64::try_from(value.clone()).unwrap_or_default();
    if !value.is_integer() {
        return Ok(JsValue::new_number(ctx.clone(), float));
    }
    match i64::try_from(value.clone()) {
        Ok(number) if number.abs() <= LARGEST => match i32::try_from(number) {
            Ok(small) => Ok(JsValue::new_int(ctx.clone(), small)),
            Err(_) => Ok(JsValue::new_float(ctx.clone(), number as f64)),
        },
        _ => Err(rquickjs::Exception::throw_range(
            ctx,
            &format!("the whole number {value} is too large to pass on exactly"),
        )),
    }
}

fn number_from_js(number: f64) -> Result<Value, Refusal> {
    if number.fract() != 0.0 || !number.is_finite() {
        return Ok(Value::from(number));
    }
    if number.abs() <= LARGEST as f64 {
        return Ok(Value::from(number as i64));
    }
    Err(format!("the whole number {number}, which is too large to be exact"))
}

/// What sort of value this is, in the words of JSON Schema.
pub fn type_word(value: &Value) -> &'static str {
    match value.kind() {
        ValueKind::Undefined => "nothing",
        ValueKind::None => "null",
        ValueKind::Bool => "boolean",
        ValueKind::Number if value.is_integer() => "integer",
        ValueKind::Number => "number",
        ValueKind::String if value.is_safe() => "markup",
        ValueKind::String => "string",
        ValueKind::Map => "object",
        _ => "array",
    }
}

/// A text of any kind as markup: text is escaped, markup stays as it is.
pub fn as_markup(value: &Value) -> String {
    match value.is_safe() {
        true => value.to_string(),
        false => escape(&value.to_string()),
    }
}

/// Escapes a text for use in HTML text and quoted attributes.
pub fn escape(text: &str) -> String {
    let mut whole = String::with_capacity(text.len());
    let done: Result<(), std::fmt::Error> = escaped(text, &mut |part| {
        whole.push_str(part);
        Ok(())
    });
    debug_assert!(done.is_ok(), "a string takes all that is written to it");
    whole
}

/// Hands the parts of an escaped text on.
pub fn escaped<E>(text: &str, write: &mut dyn FnMut(&str) -> Result<(), E>) -> Result<(), E> {
    let mut rest = text;
    while let Some(at) = rest.bytes().position(|byte| matches!(byte, b'&' | b'<' | b'>' | b'"' | b'\'')) {
        write(&rest[..at])?;
        write(match rest.as_bytes()[at] {
            b'&' => "&amp;",
            b'<' => "&lt;",
            b'>' => "&gt;",
            b'"' => "&quot;",
            _ => "&#39;",
        })?;
        rest = &rest[at + 1..];
    }
    write(rest)
}
