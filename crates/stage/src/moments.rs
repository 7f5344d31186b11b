//! What the host does before a page is put together: it fires its moments, and sends the page's own
//! values through its filters.

use minijinja::Value;
use truehook_core::address::{Address, Kind};
use truehook_core::link::Registry;

use crate::engine::{Call, CallError};
use crate::fill::{call, pairs};
use crate::flow;
use crate::pages::Globals;
use crate::run::Run;
use crate::turns::{run_slot, shown};
use crate::values::{as_markup, escape, type_word};

/// Begins a page: the site is ready, then the page, whose heading and summary are known by then.
pub fn begin(run: &Run) {
    if !run.names.begins {
        return;
    }
    fire(run, "site-ready", &[]);
    prepare(run);
    fire(run, "page-ready", &[]);
}

/// Fires a moment: every listener has its turn, and prints nothing.
pub fn fire(run: &Run, name: &str, args: &[(String, Value)]) {
    let registry = run.registry.clone();
    let Some(point) = registry.point(Address::new(Kind::Hook, name)).filter(|point| point.moment) else { return };
    if point.slots.is_empty() || point.dropped.is_some() {
        return;
    }
    run.trace.borrow_mut().points.push(point.address);
    for slot in &point.slots {
        let listener = |run: &Run, callback| {
            let value = call(run, &Call { callback, piped: None, args, point: point.address })?;
            match type_word(&value) {
                "nothing" | "null" => Ok(Value::UNDEFINED),
                _ => {
                    let message = format!("returned {}, and a listener at a moment prints nothing", shown(&value));
                    Err(CallError { message, place: None })
                }
            }
        };
        run_slot(run, point, slot, None, listener);
    }
}

/// Is anything attached to what the host fires before a page?
pub fn begins(registry: &Registry) -> bool {
    let spots = [
        (Kind::Hook, "site-ready"),
        (Kind::Hook, "page-ready"),
        (Kind::Filter, "page-heading"),
        (Kind::Filter, "summary"),
        (Kind::Filter, "root-attributes"),
    ];
    let attached = |(kind, name)| registry.point(Address::new(kind, name)).is_some_and(|point| !point.slots.is_empty());
    spots.into_iter().any(attached)
}

/// Sends the page's heading, summary and root attributes through the host's filters.
fn prepare(run: &Run) {
    let filters = ["page-heading", "summary", "root-attributes"];
    let attached = |name: &&str| {
        let point = run.registry.point(Address::new(Kind::Filter, *name));
        point.is_some_and(|point| !point.slots.is_empty())
    };
    if !filters.iter().any(attached) {
        return;
    }
    let globals = run.globals();
    let there = |key: &str| globals.page.get_attr(key).ok().filter(|value| !value.is_undefined() && !value.is_none());
    let mut changed = Vec::new();
    for (filter, from, to) in [("page-heading", "title", "heading"), ("summary", "summary", "summary")] {
        if let Some(value) = there(from) {
            changed.push((to, flow::fire(run, filter, value, &mut |of| call(run, of))));
        }
    }
    let language = Value::from_pairs([("lang", globals.site.get_attr("language").unwrap_or_default())]);
    let root = flow::fire(run, "root-attributes", language, &mut |of| call(run, of));
    changed.push(("root", Value::from_safe_string(attributes(&root))));
    run.globals.replace(std::sync::Arc::new(Globals { page: globals.page_with(changed), ..(*globals).clone() }));
    // What callbacks know of the page was handed over when the first of them ran.
    if let Some(engine) = run.engine.get() {
        let _ = engine.fix(&run.globals());
    }
}

/// Attributes as they stand in a tag. What is no name of an attribute is left out (HTML, 13.1.2.3).
pub fn attributes(attributes: &Value) -> String {
    let good = |name: &str| !name.is_empty() && name.chars().all(|c| c.is_ascii_alphanumeric() || "-_:.".contains(c));
    let mut parts = Vec::new();
    for (name, value) in pairs(attributes).unwrap_or_default().into_iter().filter(|(name, _)| good(name)) {
        match type_word(&value) {
            "nothing" | "null" => {}
            "boolean" if !value.is_true() => {}
            "boolean" => parts.push(name),
            "markup" => parts.push(format!("{name}=\"{}\"", escape(&value.to_string()))),
            _ => parts.push(format!("{name}=\"{}\"", as_markup(&value))),
        }
    }
    parts.join(" ")
}
