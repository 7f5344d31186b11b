//! Values on their way through filters.

use minijinja::Value;
use truehook_core::address::{Address, Kind};
use truehook_core::link::Point;

use crate::host::{Call, CallError, Here};
use crate::points::components::beyond;
use crate::points::turns::{run_slot, with_defaults};
use crate::record::trace::Failure;
use crate::value::{ValueType, as_markup};

/// Sends a value through a filter.
pub fn send_through(here: &Here<'_>, address: &str, value: Value, args: &[(String, Value)]) -> Value {
    let found = address.parse::<Address>().ok().filter(|point| point.kind == Kind::Filter);
    match found.and_then(|address| here.page.registry().point(address)) {
        Some(point) => send(here, point, value, args),
        None => {
            here.page.fail(Failure::at(address, "there is no such filter, so the value stays as it is"));
            value
        }
    }
}

/// Sends a value through a filter that the host fires, where something is attached to it.
pub fn fire(here: &Here<'_>, name: &str, value: Value) -> Value {
    match here.page.registry().point(Address::new(Kind::Filter, name)).filter(|point| !point.slots.is_empty()) {
        Some(point) => send(here, point, value, &[]),
        None => value,
    }
}

fn send(here: &Here<'_>, point: &Point, value: Value, args: &[(String, Value)]) -> Value {
    if here.page.is_gone(point) {
        return value;
    }
    here.page.trace.borrow_mut().point(point.address);
    let args = &*with_defaults(point, args);
    let wanted = point.schema().and_then(|schema| schema.get("type")?.as_str());
    let is_markup = wanted == Some("markup");
    let mut value = if is_markup { Value::from_safe_string(as_markup(&value)) } else { value };
    for slot in point.slots.iter() {
        let filter = |callback| {
            let new = here.calls.call(&Call { callback, piped: Some(&value), args, point: point.address })?;
            let got = ValueType::of(&new);
            if got == ValueType::Nothing {
                return Err(CallError::new("returned nothing; a filter returns the new value"));
            }
            if let Some(wanted) = wanted.filter(|wanted| !got.is(wanted)) {
                return Err(CallError::wrong_type(wanted, got));
            }
            let beyond = point.schema().filter(|_| !is_markup).and_then(|schema| beyond(schema, &new));
            if let Some(why) = beyond {
                return Err(CallError::new(format!("returned what may not be there: {why}")));
            }
            if !is_markup && here.page.holes.borrow().is_in(&new.to_string()) {
                return Err(CallError::new("returned a placement, but its value is no markup"));
            }
            Ok(new)
        };
        if let Some(new) = run_slot(here, point, slot, Some(&value), filter) {
            value = new;
        }
    }
    value
}
