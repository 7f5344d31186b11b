//! What the host does before a page is put together, and after it: it fires its moments, and sends the page's own
//! values through its filters.

use minijinja::Value;
use truehook_core::address::{Address, Kind};
use truehook_core::link::relative_path;
use truehook_core::scan::html_addresses;

use crate::host::{Call, CallError, Here};
use crate::points::filters;
use crate::points::media::input_address;
use crate::points::turns::{run_slot, with_defaults};
use crate::site::globals::Globals;
use crate::value::{ValueType, as_attributes, shown};

/// Begins a page: the site is ready, then the page, whose heading and summary are known by then.
pub fn begin(here: &Here<'_>) {
    body(here);
    if !here.page.shared.names.begins {
        return;
    }
    fire(here, "site-ready", &[]);
    prepare(here);
    fire(here, "page-ready", &[]);
}

/// Ends a page: it is put together, and nothing of it changes any more.
pub fn end(here: &Here<'_>) {
    fire(here, "page-done", &[]);
}

/// The page's body, with the addresses of the theme's files as this page needs them: they are written as they
/// count from the theme's folder.
fn body(here: &Here<'_>) {
    let globals = here.page.globals();
    let body = globals.page.get_attr("body").unwrap_or_default();
    let Some(text) = body
        .as_str()
        .filter(|text| ["src", "poster", "href", "data", "style", "background"].iter().any(|word| text.contains(word)))
    else {
        return;
    };
    let mut changed = text.to_string();
    // From the end, so that places stay as they are.
    for address in html_addresses(text).into_iter().rev() {
        let loaded = !address.followed || address.text.starts_with("media/");
        if let Some(path) = relative_path("page", &address.text).filter(|_| loaded) {
            let end = address.text.find(['?', '#']).unwrap_or(address.text.len());
            let shown = input_address(here, &path);
            // A fingerprint stands in the query: what was written there goes on behind it.
            let rest = match shown.contains('?') {
                true => address.text[end..].replacen('?', "&amp;", 1),
                false => address.text[end..].to_string(),
            };
            changed.replace_range(address.range, &format!("{shown}{rest}"));
        }
    }
    if changed != text {
        let body = vec![("body", Value::from_safe_string(changed))];
        here.page.set_globals(Globals { page: globals.page_with(body), ..(*globals).clone() });
    }
}

/// Fires a moment: every listener has its turn, and prints nothing.
pub fn fire(here: &Here<'_>, name: &str, args: &[(String, Value)]) {
    let moment = here.page.registry().point(Address::new(Kind::Hook, name)).filter(|point| point.moment);
    let Some(point) = moment else { return };
    if point.slots.is_empty() || here.page.is_gone(point) {
        return;
    }
    here.page.trace.borrow_mut().point(point.address);
    let args = &*with_defaults(point, args);
    for slot in point.slots.iter() {
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
    here.page.set_globals(Globals { page: globals.page_with(changed.clone()), ..(*globals).clone() });
    // What callbacks know of the page was handed over when the first of them ran.
    here.calls.renew(&changed);
}
