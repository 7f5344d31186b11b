//! Values on their way: through filters, and the items and entries of points through their arrangers.

use std::rc::Rc;

use minijinja::Value;
use truehook_core::address::{Address, Kind};
use truehook_core::link::{Callback, Point, Runs, body_partial, body_region};
use truehook_core::scan::{FillContent, Item, OutletKind};
use truehook_core::source::LayerId;

use crate::assets;
use crate::engine::{Call, CallError};
use crate::fill::call;
use crate::markup;
use crate::menu;
use crate::run::{Failure, Run};
use crate::turns::{holds, run_slot, wrong_type};
use crate::values::{as_markup, from_json, type_word};

/// How a callback is called from where we are.
pub type Caller<'c> = &'c mut dyn FnMut(&Call<'_>) -> Result<Value, CallError>;

/// Sends a value through a filter.
pub fn send_through(run: &Run, address: &str, value: Value, args: &[(String, Value)], caller: Caller<'_>) -> Value {
    let registry = run.registry.clone();
    let found = address.parse::<Address>().ok().filter(|point| point.kind == Kind::Filter);
    match found.and_then(|address| registry.point(address)) {
        Some(point) => send(run, point, value, args, caller),
        None => {
            let message = "there is no such filter, so the value stays as it is".to_string();
            run.fail(Failure { point: Some(address.into()), source: None, place: None, message });
            value
        }
    }
}

/// Sends a value through a filter that the host fires, where something is attached to it.
pub fn fire(run: &Run, name: &str, value: Value, caller: Caller<'_>) -> Value {
    let registry = run.registry.clone();
    match registry.point(Address::new(Kind::Filter, name)).filter(|point| !point.slots.is_empty()) {
        Some(point) => send(run, point, value, &[], caller),
        None => value,
    }
}

fn send(run: &Run, point: &Point, value: Value, args: &[(String, Value)], caller: Caller<'_>) -> Value {
    if point.dropped.is_some() {
        return value;
    }
    run.trace.borrow_mut().points.push(point.address);
    let wanted = point.schema().and_then(|schema| schema.get("type")?.as_str()).map(str::to_string);
    let is_markup = wanted.as_deref() == Some("markup");
    let mut value = if is_markup { Value::from_safe_string(as_markup(&value)) } else { value };
    for slot in &point.slots {
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
        if let Some(new) = run_slot(run, point, slot, Some(&value), filter) {
            value = new;
        }
    }
    value
}

/// The address of a file, as the page shows it.
pub fn asset(run: &Run, written: &str, from: LayerId, caller: Caller<'_>) -> Option<String> {
    let address = assets::address(run, written, from)?;
    Some(fire(run, "media-address", Value::from(address), caller).to_string())
}

/// Has the theme switched a feature on?
pub fn enabled(run: &Run, address: &str) -> bool {
    let found = address.parse::<Address>().ok().filter(|address| address.kind == Kind::Feature);
    let point = found.and_then(|address| run.registry.point(address)).filter(|point| run.registry.is_offered(point));
    if point.is_none() {
        let message = "the host offers no such feature".to_string();
        run.fail(Failure { point: Some(address.into()), source: None, place: None, message });
    }
    point.is_some_and(|point| run.registry.is_on(point.address))
}

/// Will anything show at a point?
pub fn is_filled(run: &Run, address: &str) -> bool {
    match OutletKind::from_word(address) {
        Some(OutletKind::Held) => return run.frame.borrow().as_ref().is_some_and(|frame| !frame.held.is_empty()),
        Some(OutletKind::Sections) => return !sections(run).is_empty(),
        None => {}
    }
    let registry = run.registry.clone();
    let Some(point) = address.parse::<Address>().ok().and_then(|address| registry.point(address)) else {
        let message = "no layer declares it, so nothing shows".to_string();
        run.fail(Failure { point: Some(address.into()), source: None, place: None, message });
        return false;
    };
    match point.address.kind {
        _ if point.dropped.is_some() => false,
        Kind::Hook => point.slots.iter().any(|slot| {
            let there = matches!(slot.runs, Runs::Callback(_, Some(_)) | Runs::Partial(_, true));
            there && !slot.switched_off && holds(run, slot)
        }),
        _ => !contents(run, point).is_empty(),
    }
}

/// The items of a region or area, or the entries of a menu spot, after its arrangers. They are worked
/// out once for a page.
pub fn contents(run: &Run, point: &Point) -> Rc<[Value]> {
    let known = run.contents.borrow().get(&point.address).cloned();
    known.unwrap_or_else(|| {
        let contents: Rc<[Value]> = match point.address.kind {
            Kind::Menu => menu::finish(run, arranged(run, point, menu::entries(run, point))).into(),
            _ => arranged(run, point, items(run, point)).into(),
        };
        run.contents.borrow_mut().insert(point.address, contents.clone());
        contents
    })
}

/// What arrangers make of a list. A menu spot that has no menu has nothing to arrange.
fn arranged(run: &Run, point: &Point, items: Vec<Value>) -> Vec<Value> {
    if point.slots.is_empty() || items.is_empty() && point.address.kind == Kind::Menu {
        return items;
    }
    let mut list = Value::from(items.clone());
    for slot in &point.slots {
        let arrange = |run: &Run, callback: Callback| {
            let new = call(run, &Call { callback, piped: Some(&list), args: &[], point: point.address })?;
            match type_word(&new) {
                "array" => Ok(new),
                other => Err(wrong_type("the items, a list", other)),
            }
        };
        if let Some(new) = run_slot(run, point, slot, Some(&list), arrange) {
            list = new;
        }
    }
    list.try_iter().map(Iterator::collect).unwrap_or(items)
}

/// The items of a region or area: the page's body, and what the site put there.
fn items(run: &Run, point: &Point) -> Vec<Value> {
    let mut found: Vec<Value> = Vec::new();
    if point.address == body_region() && run.has_body {
        found.push(Value::from_pairs([("use", Value::from(body_partial().to_string()))]));
    }
    for (file, at) in &point.fills {
        if let Some(FillContent::Items(items)) = run.registry.fill_of(*file, *at).map(|fill| &fill.content) {
            found.extend(items.iter().filter_map(|item| as_value(run, item, Some(point.address))));
        }
    }
    found
}

/// The sections of the page.
pub fn sections(run: &Run) -> Vec<Value> {
    run.page
        .as_ref()
        .map_or_else(Vec::new, |page| page.sections.iter().filter_map(|item| as_value(run, item, None)).collect())
}

/// An item as a value, with what it holds; nothing where its condition does not hold.
pub fn as_value(run: &Run, item: &Item, holder: Option<Address>) -> Option<Value> {
    let on = match &item.when {
        Some(when) => markup::holds(when, run.globals()).unwrap_or(false),
        None => !item.when_broken,
    };
    if !on {
        return None;
    }
    let component = run.registry.item_component(&item.component.raw, holder);
    let declared = component.and_then(|component| run.registry.point(component));
    let mut pairs = vec![("use".to_string(), Value::from(item.component.raw.as_str()))];
    for given in &item.inputs {
        let input = declared.and_then(|point| point.inputs.iter().find(|input| input.field.name == given.name.name));
        let is_markup = input.is_some_and(|input| input.field.type_word() == Some("markup"));
        let value = match given.value.as_str() {
            // Where an input is markup, the site is asked for markup.
            Some(text) if is_markup => Value::from_safe_string(text.to_string()),
            _ => from_json(&given.value),
        };
        pairs.push((given.name.name.to_string(), value));
    }
    if !item.holds.is_empty() {
        let held: Vec<Value> = item.holds.iter().filter_map(|held| as_value(run, held, component)).collect();
        pairs.push(("holds".to_string(), Value::from(held)));
    }
    Some(Value::from_pairs(pairs))
}
