//! Values between the stage and callbacks. Whole numbers up to 2^53 pass unchanged, whole floats come back
//! as integers, dates travel as RFC 3339 text.

use minijinja::Value;
use minijinja::value::ValueKind;
use rquickjs::function::Function;
use rquickjs::{Array, Ctx, Exception, Object, String as JsString, Type, Value as JsValue};

use crate::value::{Given, pairs};

/// The largest whole number that ECMAScript holds exactly.
const LARGEST: i64 = 1 << 53;
/// How deeply a value may be nested.
const DEEPEST: usize = 64;

/// What a value that can't pass is, as in "returned a promise".
pub type Refusal = String;

/// What the prelude lends to conversions.
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

    /// What a callback returned.
    pub fn value_of(&self, value: &JsValue<'js>) -> Result<Value, Refusal> {
        self.read(value, 0)
    }

    /// Named arguments, which a callback passes on as an object.
    pub fn arguments(&self, args: &JsValue<'js>) -> Result<Given, String> {
        let args = self.value_of(args).map_err(|what| format!("an argument is {what}"))?;
        pairs(&args).ok_or_else(|| "arguments are passed on as an object: { name: value }".to_string())
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
                let mut entries: Given = Vec::new();
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
