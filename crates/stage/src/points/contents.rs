//! What is in points: the items of regions and areas and the entries of menu spots, after their arrangers,
//! and a page's sections.

use std::rc::Rc;

use minijinja::Value;
use serde_json::Value as Json;
use truehook_core::address::{Address, Kind};
use truehook_core::link::{Point, Runs, body_partial, body_region};
use truehook_core::scan::OutletKind;

use crate::host::{Call, CallError, Here};
use crate::points::turns::{holds, run_slot};
use crate::record::trace::Failure;
use crate::site::menus;
use crate::site::setting::Filled;
use crate::value::{ValueType, from_json};

/// Will anything show at a point?
pub fn is_filled(here: &Here<'_>, address: &str) -> bool {
    match OutletKind::from_word(address) {
        Some(OutletKind::Held) => return here.page.frame().is_some_and(|frame| !frame.held.is_empty()),
        Some(OutletKind::Sections) => return !sections(here).is_empty(),
        None => {}
    }
    let registry = here.page.registry();
    let Some(point) = address.parse::<Address>().ok().and_then(|address| registry.point(address)) else {
        here.page.fail(Failure::at(address, "no layer declares it, so nothing shows"));
        return false;
    };
    match point.address.kind {
        _ if here.page.is_gone(point) => false,
        Kind::Hook => point.slots.iter().any(|slot| {
            let there = matches!(slot.runs, Runs::Callback(_, Some(_)) | Runs::Partial(_, true));
            there && !slot.switched_off && holds(here, point, slot)
        }),
        _ => !contents(here, point).is_empty(),
    }
}

/// The items of a region or area, or the entries of a menu spot, after its arrangers. They are worked
/// out once for a page.
pub fn contents(here: &Here<'_>, point: &Point) -> Rc<[Value]> {
    let known = here.page.contents.borrow().get(&point.address).cloned();
    known.unwrap_or_else(|| {
        let contents: Rc<[Value]> = match point.address.kind {
            Kind::Menu => menus::finish(&arranged(here, point, entries(here, point)), &here.page.path).into(),
            _ => arranged(here, point, items(here, point)).into(),
        };
        here.page.contents.borrow_mut().insert(point.address, contents.clone());
        contents
    })
}

/// What arrangers make of a list. A menu spot that has no menu has nothing to arrange.
fn arranged(here: &Here<'_>, point: &Point, items: Vec<Value>) -> Vec<Value> {
    if point.slots.is_empty() || items.is_empty() && point.address.kind == Kind::Menu {
        return items;
    }
    let mut list = Value::from(items.clone());
    for slot in point.slots.iter() {
        let arrange = |callback| {
            let new = here.calls.call(&Call { callback, piped: Some(&list), args: &[], point: point.address })?;
            match ValueType::of(&new) {
                ValueType::Array => Ok(new),
                other => Err(CallError::wrong_type("the items, a list", other)),
            }
        };
        if let Some(new) = run_slot(here, point, slot, Some(&list), arrange) {
            list = new;
        }
    }
    list.try_iter().map(Iterator::collect).unwrap_or(items)
}

/// The entries of the menu that fills a spot, down to its levels.
fn entries(here: &Here<'_>, point: &Point) -> Vec<Value> {
    match here.page.setting.fill(point.address) {
        Some(Filled::Menu(menu)) => menus::entries(menu, &here.page.path, point.levels.unwrap_or(u64::MAX)),
        _ => Vec::new(),
    }
}

/// The items of a region or area: the page's body, and what the site put there.
fn items(here: &Here<'_>, point: &Point) -> Vec<Value> {
    let mut found: Vec<Value> = Vec::new();
    if let Some((_, item)) = here.page.only.as_ref().filter(|(holder, _)| *holder == point.address) {
        return as_value(here, item, Some(point.address)).into_iter().collect();
    }
    if point.address == body_region() && here.page.content.body.is_some() {
        found.push(Value::from_pairs([("use", Value::from(body_partial().to_string()))]));
    }
    if let Some(Filled::Items(items)) = here.page.setting.fill(point.address) {
        found.extend(items.iter().filter_map(|item| as_value(here, item, Some(point.address))));
    }
    if found.is_empty() {
        let samples = here.page.samples.iter().filter(|(holder, _)| *holder == point.address);
        found.extend(samples.filter_map(|(_, item)| as_value(here, item, Some(point.address))));
    }
    found
}

/// The sections of the page.
pub fn sections(here: &Here<'_>) -> Vec<Value> {
    let sections = here.page.content.values.get("sections").and_then(Json::as_array);
    sections.into_iter().flatten().filter_map(|item| as_value(here, item, None)).collect()
}

/// An item as a value, with what it holds; nothing where its condition does not hold.
fn as_value(here: &Here<'_>, item: &Json, holder: Option<Address>) -> Option<Value> {
    let written = item.get("use").and_then(Json::as_str).unwrap_or_default();
    let fail = |message: String| {
        let point = holder.map_or_else(|| "sections".to_string(), |holder| holder.to_string());
        here.page.fail(Failure::at(point, message));
        None
    };
    let Some(table) = item.as_object() else { return fail("what stands among its items is no item".into()) };
    if let Some(when) = table.get("when") {
        let when = when.as_str().unwrap_or_default();
        match here.host.holds(here, when.into()) {
            Ok(true) => {}
            Ok(false) => return None,
            Err(why) => return fail(format!("the condition of an item, `{when}`, can't be evaluated: {why}")),
        }
    }
    let registry = here.page.registry();
    let component = registry.item_component(written, holder);
    let declared = component.and_then(|component| registry.point(component));
    let value_of = |(key, value): (&String, &Json)| {
        let input = declared.and_then(|point| point.inputs.iter().find(|input| input.field.name == *key.as_str()));
        let is_markup = input.is_some_and(|input| input.field.type_word() == Some("markup"));
        let value = match (key.as_str(), value) {
            ("holds", Json::Array(held)) => held.iter().filter_map(|held| as_value(here, held, component)).collect(),
            // Where an input is markup, the site is asked for markup.
            (_, Json::String(text)) if is_markup => Value::from_safe_string(text.clone()),
            (_, value) => from_json(value),
        };
        (key.clone(), value)
    };
    let pairs = table.iter().filter(|(key, _)| *key != "when").map(value_of);
    Some(Value::from_pairs(pairs.collect::<Vec<_>>()))
}
