//! Menus: the entries that the site puts into a menu spot, with the present page marked.

use minijinja::Value;
use serde_json::Value as Json;

use crate::value::{from_json, pairs};

/// The entries of a menu as a page shows them, down to some level.
pub fn entries(menu: &[Json], path: &str, levels: u64) -> Vec<Value> {
    menu.iter().filter_map(|entry| marked(&from_json(entry), path, levels)).collect()
}

/// Marks entries once more: arrangers may have added some.
pub fn finish(entries: &[Value], path: &str) -> Vec<Value> {
    entries.iter().filter_map(|entry| marked(entry, path, u64::MAX)).collect()
}

/// An entry that knows whether it leads to the present page, or to one above it. What is no table is
/// no entry.
fn marked(entry: &Value, path: &str, levels: u64) -> Option<Value> {
    let mut table = pairs(entry)?;
    let take = |table: &mut Vec<(String, Value)>, key: &str| {
        let at = table.iter().position(|(known, _)| known == key)?;
        Some(table.remove(at).1)
    };
    let below = take(&mut table, "entries");
    let below: Vec<Value> = below.and_then(|below| below.try_iter().ok().map(Iterator::collect)).unwrap_or_default();
    // Which entries are above the page shows in those that are cut off, too.
    let below: Vec<Value> = below.iter().filter_map(|entry| marked(entry, path, levels.saturating_sub(1))).collect();
    let href = table.iter().find(|(key, _)| key == "href").map(|(_, href)| href.to_string()).unwrap_or_default();
    let (href, path) = (href.trim_end_matches('/'), path.trim_end_matches('/'));
    let has_href = table.iter().any(|(key, _)| key == "href");
    let current = has_href && href == path;
    let is_above = !href.is_empty() && path.strip_prefix(href).is_some_and(|rest| rest.starts_with('/'));
    let leads =
        |entry: &Value| ["current", "ancestor"].iter().any(|key| entry.get_attr(key).is_ok_and(|is| is.is_true()));
    let was = take(&mut table, "ancestor").is_some_and(|was| was.is_true());
    take(&mut table, "current");
    let ancestor = !current && (is_above || was || below.iter().any(leads));
    let shown = if levels > 1 { below } else { Vec::new() };
    table.push(("entries".into(), Value::from(shown)));
    table.push(("current".into(), Value::from(current)));
    table.push(("ancestor".into(), Value::from(ancestor)));
    Some(Value::from_pairs(table))
}
