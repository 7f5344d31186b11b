//! What is known of the values that templates and conditions read.

use indexmap::IndexSet;
use rustc_hash::FxBuildHasher;
use serde_json::{Map, Value};

use super::habits;
use super::names::Names;
use super::reference::{Meaning, Meant, Outcome, Target, Wanted};
use crate::address::{Address, Kind};
use crate::name::Name;
use crate::names;
use crate::scan::Named;
use crate::source::At;

/// The keys of `page`, beside those of single types.
pub const PAGE_KEYS: [&str; 8] = ["path", "type", "title", "heading", "body", "root", "sections", "data"];
/// The keys of `site`.
pub const SITE_KEYS: [&str; 6] = ["title", "motto", "language", "now", "menus", "data"];
/// The keys of `theme`.
pub const THEME_KEYS: [&str; 5] = ["name", "label", "about", "version", "picture"];

/// What is known of the values that templates and conditions read.
#[derive(Default, PartialEq)]
pub(super) struct Known {
    pub page: Vec<Name>,
    site: Vec<Name>,
    options: IndexSet<Name, FxBuildHasher>,
    page_data: Option<Value>,
    site_data: Option<Value>,
}

/// A name on a path that isn't there: its position, and what was most likely meant.
pub(super) struct Stray {
    pub step: usize,
    pub near: Option<String>,
    pub certain: bool,
}

impl Known {
    pub fn learn(names: Names<'_>) -> Known {
        let keys = names.declared.types.iter().flat_map(|page_type| &page_type.keys).map(|field| field.name);
        let page = PAGE_KEYS.iter().map(Name::from).chain(keys).chain(names.declared.fed_keys("page")).collect();
        let site = SITE_KEYS.iter().map(Name::from).chain(names.declared.fed_keys("site")).collect();
        let has_preview = names.ground.sites().next().is_some() || names.ground.pages().next().is_some();
        let seen = has_preview && !names.ground.blind.site;
        let mut page_data = Value::Object(Map::new());
        for (_, shape) in names.ground.pages() {
            lay_over(&mut page_data, shape.value.get("data"));
        }
        let mut site_data = Value::Object(Map::new());
        for (_, site) in names.ground.sites() {
            lay_over(&mut site_data, site.value.get("data"));
        }
        let options = names.declared.names(Kind::Option).map(Name::from).collect();
        Known { page, site, options, page_data: seen.then_some(page_data), site_data: seen.then_some(site_data) }
    }
}

pub(super) fn missing_name(path: &[Named], stray: Stray) -> Outcome {
    let wanted = Wanted::Name(joined(&path[..=stray.step]));
    missing(path, stray, wanted)
}

/// A name that isn't there. An option is asked for in many ways, and is one thing.
pub(super) fn missing(path: &[Named], stray: Stray, wanted: Wanted) -> Outcome {
    let option = stray.step == 1 && path[0].name == "options";
    let target = |near: &str| match option {
        true => Target::Point(Address::new(Kind::Option, near)),
        false => Target::Given,
    };
    let meant = stray.near.map(|near| {
        Meant::from(Meaning { written: near.as_str().into(), target: target(&near), certain: stray.certain })
    });
    let wanted = if option { Wanted::Option(path[1].name) } else { wanted };
    Outcome::Missing { wanted, meant }
}

/// What a name that is there leads to.
pub(super) fn given(path: &[Named]) -> Target {
    match path {
        [root, option, ..] if root.name == "options" && !option.name.is_empty() => {
            Target::Point(Address::new(Kind::Option, option.name))
        }
        _ => Target::Given,
    }
}

/// Where the name stands that leads there.
pub(super) fn named_at(path: &[Named]) -> At {
    if matches!(given(path), Target::Point(_)) { path[1].at } else { path[0].at }
}

/// The first name on a path that isn't there.
pub(super) fn stray(names: Names<'_>, known: &Known, path: &[Named], top: bool) -> Option<Stray> {
    let step = path.get(1).filter(|step| !step.name.is_empty())?;
    // Most names are there; only for one that isn't are all of them gathered.
    let known_page = |name: Name| known.page.contains(&name);
    let there = match path[0].name.as_str() {
        "page" => known_page(step.name),
        "site" => known.site.contains(&step.name),
        "theme" => THEME_KEYS.contains(&step.name.as_str()),
        "options" => known.options.contains(&step.name),
        _ => false,
    };
    let keys: Vec<&str> = match path[0].name.as_str() {
        _ if there => Vec::new(),
        "page" => known.page.iter().map(|key| key.as_str()).collect(),
        "site" => known.site.iter().map(|key| key.as_str()).collect(),
        "theme" => THEME_KEYS.to_vec(),
        _ => return Some(stray_option(names, &step.name)),
    };
    if !there {
        return Some(stray_among(1, &step.name, &keys));
    }
    if step.name != "data" || !top {
        return None;
    }
    let mut value = match path[0].name.as_str() {
        "page" => known.page_data.as_ref()?,
        _ => known.site_data.as_ref()?,
    };
    for (at, step) in path.iter().enumerate().skip(2) {
        let table = value.as_object()?;
        if step.name.is_empty() {
            return None;
        }
        let keys: Vec<&str> = table.keys().map(String::as_str).collect();
        match table.get(step.name.as_str()) {
            Some(next) => value = next,
            None => return Some(stray_among(at, &step.name, &keys)),
        }
    }
    None
}

fn stray_option(names: Names<'_>, name: &str) -> Stray {
    let near = names.near_point(Kind::Option, name);
    let certain = near.as_ref().is_some_and(|near| near.certain);
    Stray { step: 1, near: near.map(|near| near.written), certain }
}

fn stray_among(step: usize, name: &str, keys: &[&str]) -> Stray {
    let near = habits::key(name, keys).or_else(|| names::nearest(name, keys.iter().copied())).map(str::to_string);
    Stray { step, near, certain: names::certain(name, keys.iter().copied()).is_some() }
}

/// Merges the tables of a value into those of another.
fn lay_over(value: &mut Value, over: Option<&Value>) {
    let (Some(table), Some(Value::Object(over))) = (value.as_object_mut(), over) else { return };
    for (key, over) in over {
        match table.get_mut(key) {
            Some(known) if known.is_object() => lay_over(known, Some(over)),
            _ => {
                table.insert(key.clone(), over.clone());
            }
        }
    }
}

pub(super) fn joined(path: &[Named]) -> Name {
    if let [one] = path {
        return one.name;
    }
    let steps: Vec<&str> = path.iter().map(|step| step.name.as_str()).filter(|step| !step.is_empty()).collect();
    steps.join(".").as_str().into()
}
