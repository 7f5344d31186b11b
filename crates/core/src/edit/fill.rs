//! What the preview puts into points: items, menus and their entries, options.

use serde_json::Value;

use super::lists::{List, Removed};
use super::{EditError, Plan, tree};
use crate::address::{Address, Kind};
use crate::link::Registry;
use crate::scan::Item;
use crate::source::FileId;

/// The site's file, below a theme's folder.
const SITE: &str = "preview/site.toml";

/// A list of the preview.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Holder {
    /// The items of a region or area.
    Point(Address),
    /// The entries of a menu.
    Menu(String),
    /// The sections of a page, by its file.
    Sections(FileId),
}

/// What is done to a list. Places are counted from 0: the last number in its list, those before it the items around.
#[derive(Clone, Debug, PartialEq)]
pub enum Step {
    /// One more item, at the list's end where no place is given.
    Add(Value, Option<Vec<usize>>),
    /// An item goes to another place.
    Move(Vec<usize>, Vec<usize>),
    /// An item goes.
    Remove(Vec<usize>),
    /// Keys of an item are set; those without a value go.
    Set(Vec<usize>, Vec<(String, Option<Value>)>),
}

/// A change of the preview, and what people are to know of it.
#[derive(Clone, Debug, Default)]
pub struct Filled {
    /// The changes.
    pub plan: Plan,
    /// What was taken over from a lower layer.
    pub told: Vec<String>,
}

/// Changes a list of the preview. A list that only a lower layer has is taken over first.
///
/// # Errors
/// Where the preview can't be edited, or there is no such place.
pub fn change(registry: &Registry, holder: &Holder, steps: &[Step]) -> Result<Filled, EditError> {
    let keys: Vec<String> = match holder {
        Holder::Point(point) => vec!["fill".into(), point.to_string()],
        Holder::Menu(menu) => vec!["menus".into(), menu.clone()],
        Holder::Sections(_) => vec!["sections".into()],
    };
    let inner = if matches!(holder, Holder::Menu(_)) { "entries" } else { "holds" };
    let list = List { keys, inner };
    let mut filled = Filled::default();
    let file = match holder {
        Holder::Sections(file) => Some(*file),
        _ => own_site(registry),
    };
    let below = match holder {
        Holder::Sections(_) => None,
        _ => inherited(registry, &list.keys),
    };
    filled.plan = planned(registry, file, |plain| stepped(plain, &list, steps, &below, &mut filled.told))?;
    Ok(filled)
}

/// Fills a menu spot with a menu that isn't there yet.
///
/// # Errors
/// Where the preview can't be edited, or there is no such place.
pub fn new_menu(registry: &Registry, spot: Address, menu: &str, steps: &[Step]) -> Result<Filled, EditError> {
    let list = List { keys: vec!["menus".into(), menu.to_string()], inner: "entries" };
    let plan = planned(registry, own_site(registry), |plain| {
        let text = stepped(plain, &list, steps, &None, &mut Vec::new())?;
        set(&text, &["fill", &spot.to_string()], &Value::from(menu))
    })?;
    Ok(Filled { plan, told: Vec::new() })
}

/// The text after some steps. `below` is what a lower layer has in the list, and its name.
fn stepped(
    plain: &str,
    list: &List<'_>,
    steps: &[Step],
    below: &Option<(String, Value)>,
    told: &mut Vec<String>,
) -> Result<String, EditError> {
    let mut text = plain.to_string();
    for step in steps {
        if list.count(&text).is_none() {
            text = begin(&text, list, below, step, told)?;
            // The first item comes with the list that is made for it.
            if below.is_none() && matches!(step, Step::Add(..)) {
                continue;
            }
        }
        text = carry_out(&text, list, step, below.is_none())?;
        // What says what the lower layer says, once it was taken over, needs not be said.
        if let (Some((_, value)), Step::Remove(_)) = (below, step)
            && list.value(&text).as_ref() == Some(value)
        {
            text = without(&text, &list.keys)?;
        }
    }
    Ok(text)
}

/// Fills a menu spot with one of the site's menus.
///
/// # Errors
/// Where the preview can't be edited.
pub fn with_menu(registry: &Registry, spot: Address, menu: &str) -> Result<Plan, EditError> {
    say(registry, None, &[], &[(spot, menu.to_string())])
}

/// Chooses an option.
///
/// # Errors
/// Where the preview can't be edited.
pub fn choose(registry: &Registry, option: &str, value: &Value) -> Result<Plan, EditError> {
    say(registry, None, &[(option, value)], &[])
}

/// Says the site's language, some of its options, and which menus fill some spots.
///
/// # Errors
/// Where the preview can't be edited.
pub fn say(
    registry: &Registry,
    language: Option<&str>,
    options: &[(&str, &Value)],
    menus: &[(Address, String)],
) -> Result<Plan, EditError> {
    planned(registry, own_site(registry), |plain| {
        let mut text = plain.to_string();
        if let Some(language) = language {
            text = set(&text, &["language"], &Value::from(language))?;
        }
        for (option, value) in options {
            text = set(&text, &["options", option], value)?;
        }
        for (spot, menu) in menus {
            text = set(&text, &["fill", &spot.to_string()], &Value::from(menu.as_str()))?;
        }
        Ok(text)
    })
}

/// The menu that fills a spot, as far as one does.
pub fn menu_of(registry: &Registry, spot: Address) -> Option<String> {
    let (_, value) =
        registry.sites().rev().find_map(|(file, site)| Some((file, site.value.get("fill")?.get(spot.to_string())?)))?;
    value.as_str().map(str::to_string)
}

/// The component that an item around some place is, counted from 0; nothing at the top of a list.
pub fn holder(registry: &Registry, list: &Holder, around: &[usize]) -> Option<Address> {
    let (key, value) = match list {
        Holder::Point(point) => {
            let fill = |value: &Value| Some(value.get("fill")?.get(point.to_string())?.clone());
            ("holds", registry.sites().rev().find_map(|(_, site)| fill(&site.value))?)
        }
        Holder::Sections(file) => ("holds", registry.page(*file)?.value.get("sections")?.clone()),
        Holder::Menu(_) => return None,
    };
    let mut items = value;
    let mut found = None;
    for number in around {
        let item = items.get(number)?.clone();
        found = registry.item_component(item.get("use")?.as_str()?, found);
        items = item.get(key).cloned().unwrap_or_default();
    }
    found
}

/// An item, as the preview has it, of a component that offers it.
pub fn offered(item: &Item) -> Value {
    let mut table = serde_json::Map::new();
    table.insert("use".into(), item.component.raw.as_str().into());
    table.extend(item.inputs.iter().map(|given| (given.name.name.to_string(), given.value.clone())));
    if !item.holds.is_empty() {
        table.insert("holds".into(), item.holds.iter().map(offered).collect());
    }
    Value::Object(table)
}

fn own_site(registry: &Registry) -> Option<FileId> {
    let top = registry.project().top();
    registry.sites().map(|(file, _)| file).find(|file| registry.project().file(*file).layer == top)
}

/// The plan that changes a file of the preview, which may be new.
fn planned(
    registry: &Registry,
    file: Option<FileId>,
    change: impl FnOnce(&str) -> Result<String, EditError>,
) -> Result<Plan, EditError> {
    let mut plan = Plan::default();
    let project = registry.project();
    let Some(file) = file else {
        plan.created.push((SITE.into(), change("")?));
        return Ok(plan);
    };
    let mut empty = false;
    let edits = tree::text_edits(file, project.file(file).text(), |plain| {
        let after = change(plain)?;
        empty = after.is_empty();
        Ok(after)
    });
    let edits = edits.map_err(|error| EditError::new(format!("{}: {error}", project.shown(file))))?;
    match empty {
        true => plan.removed.push(file),
        false => plan.edits = edits,
    }
    Ok(plan)
}

/// What a lower layer's preview has at some keys, and the layer's name.
fn inherited(registry: &Registry, keys: &[String]) -> Option<(String, Value)> {
    let top = registry.project().top();
    let mut lower = registry.sites().rev().filter(|(file, _)| registry.project().file(*file).layer != top);
    lower.find_map(|(file, site)| {
        let value = keys.iter().try_fold(&site.value, |value, key| value.get(key))?;
        let layer = registry.project().layer(registry.project().file(file).layer).name.to_string();
        value.is_array().then(|| (layer, value.clone()))
    })
}

/// The text with a list that wasn't there: what a lower layer has in it, else the item that is to be added.
fn begin(
    plain: &str,
    list: &List<'_>,
    below: &Option<(String, Value)>,
    step: &Step,
    told: &mut Vec<String>,
) -> Result<String, EditError> {
    let keys: Vec<&str> = list.keys.iter().map(String::as_str).collect();
    match (below, step) {
        (Some((layer, value)), _) => {
            let what = keys.last().copied().unwrap_or_default();
            told.push(format!("what the preview of {layer} has in {what} is written here, too: this takes its place"));
            let items = value.as_array().map(Vec::as_slice).unwrap_or_default();
            let items: Option<Vec<String>> = items.iter().map(tree::inline).collect();
            let rows: String = items.unwrap_or_default().iter().map(|item| format!("  {item},\n")).collect();
            set_text(plain, &keys, &format!("[\n{rows}]"))
        }
        (None, Step::Add(value, None)) => set_text(plain, &keys, &format!("[ {} ]", text_of(value)?)),
        (None, Step::Add(value, Some(at))) if at[..] == [0] => {
            set_text(plain, &keys, &format!("[ {} ]", text_of(value)?))
        }
        _ => Err(EditError::new(format!("nothing is in {} yet", keys.last().copied().unwrap_or_default()))),
    }
}

fn carry_out(text: &str, list: &List<'_>, step: &Step, may_go: bool) -> Result<String, EditError> {
    match step {
        Step::Add(value, at) => list.insert(text, at.as_deref(), &text_of(value)?),
        Step::Remove(at) => {
            let Removed { text, list_too, .. } = list.remove(text, at)?;
            if list_too && may_go { without(&text, &list.keys) } else { Ok(text) }
        }
        Step::Set(at, keys) => {
            let text_of = |value: &Option<Value>| value.as_ref().map(text_of).transpose();
            let keys = keys.iter().map(|(key, value)| Ok((key.clone(), text_of(value)?)));
            list.set(text, at, &keys.collect::<Result<Vec<_>, EditError>>()?)
        }
        Step::Move(from, to) => {
            let Removed { text, item, .. } = list.remove(text, from)?;
            list.insert(&text, Some(to), &item)
        }
    }
}

fn text_of(value: &Value) -> Result<String, EditError> {
    tree::inline(value).ok_or_else(|| EditError::new("TOML has no word for null"))
}

fn set(plain: &str, keys: &[&str], value: &Value) -> Result<String, EditError> {
    set_text(plain, keys, &text_of(value)?)
}

/// The text with a value at some keys; the table of the first one is made where it isn't there.
fn set_text(plain: &str, keys: &[&str], value: &str) -> Result<String, EditError> {
    tree::changed(plain, |document| {
        if let [table, _, ..] = keys
            && document.get(table).is_none()
        {
            let mut made = toml_edit::Table::new();
            let gap = if document.is_empty() { "" } else { "\n" };
            made.decor_mut().set_prefix(gap);
            document.insert(table, toml_edit::Item::Table(made));
        }
        tree::set(document.as_table_mut(), keys, tree::value(value)?)
    })
}

/// The text without a list, and without the table that held nothing else.
fn without(plain: &str, keys: &[String]) -> Result<String, EditError> {
    let keys: Vec<&str> = keys.iter().map(String::as_str).collect();
    tree::changed(plain, |document| {
        tree::unset(document.as_table_mut(), &keys);
        // Spots are not filled with a menu that is gone.
        if let ["menus", menu] = keys[..]
            && let Some(fills) = document.get_mut("fill").and_then(toml_edit::Item::as_table_like_mut)
        {
            let spots = fills.iter().filter(|(_, value)| value.as_str() == Some(menu));
            let spots: Vec<String> = spots.map(|(spot, _)| spot.to_string()).collect();
            spots.iter().for_each(|spot| drop(fills.remove(spot)));
        }
        for table in ["menus", "fill"] {
            let held = document.get(table).and_then(toml_edit::Item::as_table_like);
            if held.is_some_and(toml_edit::TableLike::is_empty) {
                document.remove(table);
            }
        }
        Ok(())
    })
}

/// Kinds of points that the preview can fill.
pub fn is_filled(kind: Kind) -> bool {
    matches!(kind, Kind::Region | Kind::Area | Kind::Menu | Kind::Option)
}
