//! Values between the stage and callbacks. Whole numbers up to 2^53 pass unchanged, whole floats come back
//! as integers, dates travel as RFC 3339 text.

use std::rc::Rc;

use minijinja::Value;
use minijinja::value::ValueKind;
use rquickjs::function::Function;
use rquickjs::prelude::Coerced;
use rquickjs::{Array, Atom, Ctx, Exception, FromJs, Object, String as JsString, Type, Value as JsValue};

use super::limits::Clock;
use crate::value::{Given, pairs};

/// The largest whole number that ECMAScript holds exactly.
const LARGEST: i64 = 1 << 53;
/// How deeply a value may be nested.
const DEEPEST: usize = 64;
/// How many values one may hold, and how many bytes of text.
const MOST: usize = 200_000;
const LONGEST: usize = 16 * 1024 * 1024;

/// What a value that can't pass is, as in "returned a promise".
pub type Refusal = String;

/// What the prelude lends to conversions.
pub struct Bridge<'js> {
    /// Makes markup from a text.
    pub markup: Function<'js>,
    /// The text of genuine markup, nothing of what only looks like some.
    pub text_of: Function<'js>,
    /// Whose time is it that a conversion takes?
    pub clock: Rc<Clock>,
}

/// A conversion under way: how much of a value there has been so far.
#[derive(Default)]
struct Read {
    values: usize,
    bytes: usize,
}

impl Read {
    /// Counts one value, and the bytes of its text.
    fn count(&mut self, bytes: usize) -> Result<(), Refusal> {
        self.values += 1;
        self.bytes += bytes;
        match () {
            () if self.values > MOST => Err(format!("more than {MOST} values in one")),
            () if self.bytes > LONGEST => Err(format!("more than {} MiB of text", LONGEST / 1024 / 1024)),
            () => Ok(()),
        }
    }
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
                let text = JsString::from_str(ctx.clone(), value.as_str().unwrap_or_default())?;
                match value.is_safe() {
                    true => self.markup.call((text,))?,
                    false => text.into_value(),
                }
            }
            ValueKind::Map => {
                let object = Object::new(ctx.clone())?;
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
            _ => JsString::from_str(ctx.clone(), &value.to_string())?.into_value(),
        };
        Ok(js)
    }

    /// The value of something that a callback made.
    pub fn value_of(&self, value: &JsValue<'js>) -> Result<Value, Refusal> {
        let read = self.read(value, 0, &mut Read::default());
        // What was thrown while the value was read belongs to whoever made it, and to nobody who comes after.
        let thrown = value.ctx().catch();
        match read {
            Err(_) if self.clock.has_struck() => Err("something that takes too long to read".into()),
            Err(_) if !matches!(thrown.type_of(), Type::Uninitialized | Type::Undefined | Type::Null) => {
                let words =
                    Coerced::<String>::from_js(value.ctx(), thrown).map_or_else(|_| "an error".into(), |text| text.0);
                let _ = value.ctx().catch();
                Err(format!("something that throws when it is read: {words}"))
            }
            read => read,
        }
    }

    /// Named arguments, which a callback passes on as an object.
    pub fn arguments(&self, args: &JsValue<'js>) -> Result<Given, String> {
        let args = self.value_of(args).map_err(|what| format!("an argument is {what}"))?;
        pairs(&args).ok_or_else(|| "arguments are passed on as an object: { name: value }".to_string())
    }

    fn read(&self, value: &JsValue<'js>, depth: usize, so_far: &mut Read) -> Result<Value, Refusal> {
        if depth > DEEPEST {
            return Err(format!("a value nested more than {DEEPEST} deep"));
        }
        so_far.count(0)?;
        // Engines ask whether it is over only while they run code.
        if so_far.values.is_multiple_of(256) && self.clock.is_over() {
            return Err("something that takes too long to read".into());
        }
        let refused = |error: rquickjs::Error| error.to_string();
        match value.type_of() {
            Type::Undefined | Type::Uninitialized => Ok(Value::UNDEFINED),
            Type::Null => Ok(Value::from(())),
            Type::Bool => Ok(Value::from(value.as_bool().unwrap_or_default())),
            Type::Int => Ok(Value::from(value.as_int().unwrap_or_default())),
            Type::Float => number_from_js(value.as_float().unwrap_or_default()),
            Type::String => {
                let text = value.as_string().map_or_else(|| Ok(String::new()), |text| text_of(text, so_far))?;
                Ok(Value::from(text))
            }
            Type::BigInt => Err("a BigInt; use a number".into()),
            Type::Symbol => Err("a symbol".into()),
            Type::Promise => Err("a promise; callbacks have to return at once".into()),
            Type::Function | Type::Constructor => Err("a function".into()),
            Type::Array => {
                let array = value.as_array().ok_or("a list that can't be read")?;
                // The library's own way to ask for it knows no length past 2^31.
                let length: f64 = array.as_object().get("length").map_err(refused)?;
                if length > MOST as f64 {
                    return Err(format!("a list of more than {MOST} values"));
                }
                let mut items = Vec::with_capacity(array.len());
                for item in array.iter::<JsValue>() {
                    items.push(self.read(&item.map_err(refused)?, depth + 1, so_far)?);
                }
                Ok(Value::from(items))
            }
            Type::Exception => Err("an error".into()),
            _ => {
                let object = value.as_object().ok_or("something that can't be read")?;
                if let Some(text) = self.text_of.call::<_, Option<String>>((value.clone(),)).map_err(refused)? {
                    so_far.count(text.len())?;
                    return Ok(Value::from_safe_string(text));
                }
                let mut entries: Given = Vec::new();
                for entry in object.props::<Atom<'_>, JsValue>() {
                    let (key, part) = entry.map_err(refused)?;
                    // The library's own way to make a text of it takes for granted that it is Unicode, and ends at NUL.
                    let key = text_of(&key.to_js_string().map_err(refused)?, so_far)?;
                    entries.push((key, self.read(&part, depth + 1, so_far)?));
                }
                Ok(Value::from_pairs(entries))
            }
        }
    }
}

/// A text that a callback returned, or short markup, as the prelude passes them on: a sign in front of it may tell what
/// it is. Nothing of any other value, and of a text that can't be read.
pub fn marked(result: &JsValue<'_>) -> Option<Value> {
    let mut text = text_of(result.as_string()?, &mut Read::default()).ok()?;
    let sign = text.bytes().next().filter(|sign| [1, 2].contains(sign));
    if sign.is_some() {
        text.remove(0);
    }
    Some(if sign == Some(1) { Value::from_safe_string(text) } else { Value::from(text) })
}

/// A text, once it is counted.
fn text_of(text: &JsString<'_>, so_far: &mut Read) -> Result<String, Refusal> {
    let text = text.to_string().map_err(|_| "a string that is not Unicode text".to_string())?;
    so_far.count(text.len())?;
    Ok(text)
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
        _ => {
            let message = format!("the whole number {value} is too large to pass on exactly");
            Err(Exception::throw_range(ctx, &message))
        }
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
