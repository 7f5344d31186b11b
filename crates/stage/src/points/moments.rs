//! What the host does before a page is put together: it fires its moments, and sends the page's own
//! values through its filters.

use minijinja::Value;
use truehook_core::address::{Address, Kind};

use crate::host::{Call, CallError, Here};
use crate::points::filters;
use crate::points::turns::run_slot;
use crate::site::globals::Globals;
use crate::value::{ValueType, as_attributes, shown};

/// Begins a page: the site is ready, then the page, whose heading and summary are known by then.
pub fn begin(here: &Here<'_>) {
    if !here.page.shared.names.begins {
        return;
    }
    fire(here, "site-ready", &[]);
    prepare(here);
    fire(here, "page-ready", &[]);
}

/// Fires a moment: every listener has its turn, and prints nothing.
pub fn fire(here: &Here<'_>, name: &str, args: &[(String, Value)]) {
    let moment = here.page.registry().point(Address::new(Kind::Hook, name)).filter(|point| point.moment);
    let Some(point) = moment else { return };
    if point.slots.is_empty() || point.dropped.is_some() {
        return;
    }
    here.page.trace.borrow_mut().points.push(point.address);
    for slot in &point.slots {
        let listener = |callback| {
            let value = here.calls.call(&Call { callback, piped: None, args, point: point.address })?;
            match ValueType::of(&value).is_absent() {
                true => Ok(Value::UNDEFINED),
                false => {
                    let message = format!("returned {}, and a listener at a moment prints nothing", shown(&value));
                    Err(CallError::new(message))
                }
            }
        };
        run_slot(here, point, slot, None, listener);
    }
}

/// Sends the page's heading, summary and root attributes through the host's filters.
fn prepare(here: &Here<'_>) {
    let filters = ["page-heading", "summary", "root-attributes"];
    let attached = |name: &&str| {
        let point = here.page.registry().point(Address::new(Kind::Filter, *name));
        point.is_some_and(|point| !point.slots.is_empty())
    };
    if !filters.iter().any(attached) {
        return;
    }
    let globals = here.page.globals();
    let there = |key: &str| globals.page.get_attr(key).ok().filter(|value| !value.is_undefined() && !value.is_none());
    let mut changed = Vec::new();
    for (filter, from, to) in [("page-heading", "title", "heading"), ("summary", "summary", "summary")] {
        if let Some(value) = there(from) {
            changed.push((to, filters::fire(here, filter, value)));
        }
    }
    let language = Value::from_pairs([("lang", globals.site.get_attr("language").unwrap_or_default())]);
    let root = filters::fire(here, "root-attributes", language);
    changed.push(("root", Value::from_safe_string(as_attributes(&root))));
    here.page.set_globals(Globals { page: globals.page_with(changed), ..(*globals).clone() });
    // What callbacks know of the page was handed over when the first of them ran.
    here.calls.renew();
}
