//! What the site brings, and no page of the theme can show.

use serde_json::{Map, Value as Json};
use truehook_core::address::{Address, Kind};
use truehook_core::link::Registry;
use truehook_core::schema::misfit;
use truehook_core::source::Place;

use crate::record::trace::Failure;

/// The content of points that are not there, are dropped, or are on no page, each with its items by name.
pub fn lost(registry: &Registry, site: &Map<String, Json>) -> Vec<Failure> {
    let fills = site.get("fill").and_then(Json::as_object).into_iter().flatten();
    let found = fills.filter_map(|(written, content)| {
        let why = reason(registry, written)?;
        let items = named(content)?;
        let place = registry.fills().into_iter().find(|(_, _, fill)| fill.to.raw == *written);
        let place = place.map(|(file, _, fill)| shown(registry, Place { file, at: fill.to.at }));
        Some(Failure { place, ..Failure::at(written.clone(), format!("{items} can't be shown: {why}")) })
    });
    found.chain(menus(registry, site)).chain(options(registry, site)).collect()
}

/// Menu spots that are filled with a menu that the site does not have.
fn menus<'r>(registry: &'r Registry, site: &'r Map<String, Json>) -> impl Iterator<Item = Failure> + 'r {
    let has = |menu: &str| site.get("menus").is_some_and(|menus| menus.get(menu).is_some());
    let fills = site.get("fill").and_then(Json::as_object).into_iter().flatten();
    fills.filter_map(move |(written, content)| {
        let menu = content.as_str().filter(|menu| !has(menu))?;
        let point = written.parse::<Address>().ok().and_then(|address| registry.point(address))?;
        let is_shown = point.address.kind == Kind::Menu && point.dropped.is_none() && !point.reached.is_empty();
        let fill = registry.fills().into_iter().find(|(_, _, fill)| fill.to.raw == *written && is_shown)?;
        let place = Some(shown(registry, Place { file: fill.0, at: fill.2.to.at }));
        Some(Failure { place, ..Failure::at(point.address, format!("the site has no menu `{menu}`")) })
    })
}

/// Options for which the site chooses what they can't be.
fn options<'r>(registry: &'r Registry, site: &'r Map<String, Json>) -> impl Iterator<Item = Failure> + 'r {
    let chosen = site.get("options").and_then(Json::as_object).into_iter().flatten();
    chosen.filter_map(|(name, value)| {
        let point = registry.point(Address::new(Kind::Option, name.as_str()))?;
        let why = misfit(point.schema()?, value)?.message;
        let given = registry.choices().into_iter().find(|(_, given)| given.name.name == *name);
        let place = given.map(|(file, given)| shown(registry, Place { file, at: given.at }));
        Some(Failure { place, ..Failure::at(point.address, format!("{why}, so it has its default")) })
    })
}

/// Why nothing that fills this point can be shown.
fn reason(registry: &Registry, written: &str) -> Option<String> {
    let Ok(address) = written.parse::<Address>() else { return Some(format!("`{written}` is no address")) };
    let Some(point) = registry.point(address) else { return Some("no layer declares it".into()) };
    if let Some(by) = point.dropped {
        // What a lower layer's site puts into what a higher one drops is meant to go.
        let own = registry
            .fills()
            .into_iter()
            .any(|(file, _, fill)| fill.to.address == Some(address) && registry.project().file(file).layer >= by.layer);
        let name = registry.project().layer(by.layer).name;
        return own.then(|| format!("{name} has dropped it"));
    }
    // What does not parse is told by itself; what it places is not known.
    if registry.blind().placements {
        return None;
    }
    (point.reached.is_empty() && address.kind.is_filled()).then(|| "no type of page gets to a placement of it".into())
}

/// The items of some content, by what they use; nothing where it has none.
fn named(content: &Json) -> Option<String> {
    let Some(items) = content.as_array() else {
        return content.as_str().map(|menu| format!("the menu `{menu}`"));
    };
    let names: Vec<String> = items
        .iter()
        .map(|item| item.get("use").and_then(Json::as_str).unwrap_or("an item").to_string())
        .map(|name| format!("`{name}`"))
        .collect();
    (!names.is_empty()).then(|| names.join(", "))
}

/// A place as failures show it: the file, the line and the column.
fn shown(registry: &Registry, place: Place) -> (String, usize, usize) {
    let (line, column) = registry.lines(place.file).position(registry.span(place).start);
    (registry.project().shown(place.file), line, column)
}
