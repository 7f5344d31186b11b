//! Values on their way: through filters, and the items of a region through its arrangers.

use minijinja::Value;
use truehook_core::address::{Address, Kind};
use truehook_core::link::{Callback, Point, Runs, body_partial, body_region};

use crate::engine::{Call, CallError};
use crate::fill::call;
use crate::markup;
use crate::run::{Failure, Run};
use crate::turns::{holds, run_slot, wrong_type};
use crate::values::{as_markup, from_json, type_word};

/// Sends a value through a filter. `caller` is how a callback is called from where we are.
pub fn send_through(
    run: &Run,
    address: &str,
    value: Value,
    args: &[(String, Value)],
    caller: &mut dyn FnMut(&Call<'_>) -> Result<Value, CallError>,
) -> Value {
    let registry = run.registry.clone();
    let found = address.parse::<Address>().ok().filter(|point| point.kind == Kind::Filter);
    let Some(point) = found.and_then(|address| registry.point(address)) else {
        let message = "there is no such filter, so the value stays as it is".to_string();
        run.fail(Failure { point: Some(address.into()), source: None, place: None, message });
        return value;
    };
    run.trace.borrow_mut().points.push(point.address);
    let wanted = point.value.as_ref().and_then(|schema| schema.get("type")?.as_str()).map(str::to_string);
    let is_markup = wanted.as_deref() == Some("markup");
    let mut value = if is_markup { Value::from_safe_string(as_markup(&value)) } else { value };
    for slot in &point.slots {
        let Runs::Callback(_, found) = slot.runs else { continue };
        let filter = |run: &Run, callback: Callback| {
            let new = caller(&Call { callback, piped: Some(&value), args, point: point.address })?;
            let word = type_word(&new);
            if word == "nothing" {
                return Err(CallError {
                    message: "returned nothing; a filter returns the new value".into(),
                    place: None,
                });
            }
            if let Some(wanted) = &wanted
                && word != wanted
                && !(wanted == "number" && word == "integer")
            {
                return Err(wrong_type(wanted, word));
            }
            if !is_markup && run.has_hole(&new.to_string()) {
                let message = "returned a placement, but its value is no markup".to_string();
                return Err(CallError { message, place: None });
            }
            Ok(new)
        };
        if let Some(new) = run_slot(run, point, slot, found, filter) {
            value = new;
        }
    }
    value
}

/// Will anything show at a point?
pub fn is_filled(run: &Run, address: &str) -> bool {
    let Some(point) = address.parse::<Address>().ok().and_then(|address| run.registry.point(address)) else {
        let message = "no layer declares it, so nothing shows".to_string();
        run.fail(Failure { point: Some(address.into()), source: None, place: None, message });
        return false;
    };
    let known = run.filled.borrow().get(&point.address).copied();
    known.unwrap_or_else(|| {
        let filled = match point.address.kind {
            Kind::Hook => point.slots.iter().any(|slot| {
                let there = matches!(slot.runs, Runs::Callback(_, Some(_)) | Runs::Partial(_, true));
                there && !slot.switched_off && holds(run, slot)
            }),
            _ => !items(run, point).is_empty(),
        };
        run.filled.borrow_mut().insert(point.address, filled);
        filled
    })
}

/// The items of a region: the page's body, what the site put there, and what arrangers make of it.
pub fn items(run: &Run, point: &Point) -> Vec<Value> {
    let mut items: Vec<Value> = Vec::new();
    if point.address == body_region() && run.has_body {
        items.push(Value::from_pairs([("use", Value::from(body_partial().to_string()))]));
    }
    for (file, at) in &point.fills {
        for item in run.registry.fill_of(*file, *at).into_iter().flat_map(|fill| &fill.items) {
            let on = match &item.when {
                Some(when) => markup::holds(when, &run.globals).unwrap_or(false),
                None => !item.when_broken,
            };
            if on {
                let component = ("use".to_string(), Value::from(item.component.raw.as_str()));
                let inputs = item.inputs.iter().map(|(named, value)| (named.name.to_string(), from_json(value)));
                items.push(Value::from_pairs([component].into_iter().chain(inputs)));
            }
        }
    }
    let mut list = Value::from(items.clone());
    for slot in &point.slots {
        let Runs::Callback(_, found) = slot.runs else { continue };
        let arrange = |run: &Run, callback: Callback| {
            let new = call(run, &Call { callback, piped: Some(&list), args: &[], point: point.address })?;
            match type_word(&new) {
                "array" => Ok(new),
                other => Err(wrong_type("the items, a list", other)),
            }
        };
        if let Some(new) = run_slot(run, point, slot, found, arrange) {
            list = new;
        }
    }
    list.try_iter().map(Iterator::collect).unwrap_or(items)
}
