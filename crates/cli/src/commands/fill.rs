//! `fill`: what the preview puts into points.

use anyhow::{Result, bail};
use camino::Utf8Path;
use serde_json::{Map, Value};
use truehook_core::address::{Address, Kind};
use truehook_core::command_line;
use truehook_core::edit::fill::{self, Filled, Holder, Step};
use truehook_core::link::{Point, Registry};
use truehook_core::names::{hint, nearest};
use truehook_core::schema::misfit;
use truehook_core::source::FileId;

use crate::Outcome;
use crate::args::FillArgs;
use crate::writing::{self, Work};
use crate::{given, workshop};

pub fn run(theme: Option<&Utf8Path>, args: &FillArgs) -> Result<Outcome> {
    writing::edit(theme, &args.edit, |registry| {
        if args.address == "sections" {
            let Some(path) = &args.page else {
                bail!("say of which page: truehook fill sections --page / section:…")
            };
            let holder = Holder::Sections(page(registry, path)?);
            return filled(fill::change(registry, &holder, &steps(registry, &holder, args)?)?, Vec::new());
        }
        if args.page.is_some() {
            bail!(
                "--page goes with sections; what a region or area holds is on all pages, or on those for which an item says when="
            );
        }
        let address = workshop::declared(registry, &args.address)?;
        match address.kind {
            Kind::Region | Kind::Area => {
                let holder = Holder::Point(address);
                filled(fill::change(registry, &holder, &steps(registry, &holder, args)?)?, vec![address])
            }
            Kind::Menu => menu(registry, address, args),
            Kind::Option => option(registry, address, args),
            kind => bail!("a {kind} isn't filled; regions, areas, menus, options and the sections of a page are"),
        }
    })
}

fn filled(filled: Filled, points: Vec<Address>) -> Result<Work> {
    Ok(Work { told: filled.told, ..Work::new(filled.plan, points) })
}

/// The file of a page of this theme's own preview.
fn page(registry: &Registry, path: &str) -> Result<FileId> {
    let pages: Vec<(FileId, String)> =
        registry.pages().filter_map(|(file, page)| Some((file, page.path?.name.to_string()))).collect();
    let with_slash = format!("{}/", path.trim_end_matches('/'));
    let Some((file, _)) = pages.iter().find(|(_, known)| known == path || *known == with_slash) else {
        let known: Vec<&str> = pages.iter().map(|(_, path)| path.as_str()).collect();
        bail!("there is no page {path}{}; there are {}", hint(&nearest(path, known.iter().copied())), known.join(", "));
    };
    let layer = registry.project().file(*file).layer;
    if layer != registry.project().top() {
        bail!(
            "{path} is a page of the preview of {}; write one of that path in preview/pages/ to have another here",
            registry.project().layer(layer).name
        );
    }
    Ok(*file)
}

/// What is to be done to a list of items.
fn steps(registry: &Registry, list: &Holder, args: &FillArgs) -> Result<Vec<Step>> {
    if let Some(step) = taken(args)? {
        return Ok(vec![step]);
    }
    if let Some(at) = &args.set {
        return Ok(vec![set(registry, list, &place(at)?, &args.items)?]);
    }
    let at = args.at.as_deref().map(place).transpose()?;
    let Some((component, typed)) = args.items.split_first() else {
        bail!("say what to fill it with, as in piece:note, or --move or --remove what it holds");
    };
    let around = at.as_deref().and_then(|at| at.split_last()).map(|(_, around)| around).unwrap_or_default();
    let holder = fill::holder(registry, list, around);
    let Some(address) = registry.item_component(component, holder).filter(|address| registry.point(*address).is_some())
    else {
        let known: Vec<String> = registry
            .points()
            .filter(|point| point.address.kind.is_component())
            .map(|point| point.address.to_string())
            .collect();
        let near = nearest(component, known.iter().map(String::as_str)).map(str::to_string);
        bail!("there is no component {component}{}; there are {}", hint(&near), known.join(", "));
    };
    let Some(point) = registry.point(address) else { bail!("no layer declares `{address}`") };
    let mut item = match &args.offer {
        None => Map::from_iter([("use".to_string(), Value::from(component.as_str()))]),
        Some(label) => {
            let offers = point.offers.as_deref().unwrap_or_default();
            let labels: Vec<&str> =
                offers.iter().filter_map(|(_, offer)| offer.label.as_ref()).map(|label| label.as_str()).collect();
            let offer = offers.iter().find(|(_, offer)| offer.label.is_some_and(|known| known.as_str() == label));
            let Some((_, offer)) = offer else {
                let there =
                    if labels.is_empty() { "it has none".into() } else { format!("it has {}", labels.join(", ")) };
                bail!("{address} has no offer `{label}`{}; {there}", hint(&nearest(label, labels.iter().copied())));
            };
            match fill::offered(&offer.item) {
                Value::Object(item) => item,
                _ => Map::new(),
            }
        }
    };
    let typed: Vec<&str> = typed.iter().map(String::as_str).collect();
    for (name, value) in inputs(point, list, holder.is_none(), &typed)? {
        item.insert(name, value);
    }
    // What a component holds stands behind its inputs, where people look for it.
    if let Some(holds) = item.shift_remove("holds") {
        item.insert("holds".into(), holds);
    }
    Ok(vec![Step::Add(Value::Object(item), at)])
}

/// The inputs of an item, and what else may be said of it there.
fn inputs(point: &Point, list: &Holder, outermost: bool, typed: &[&str]) -> Result<Vec<(String, Value)>> {
    let text = Value::from_iter([("type", "string")]);
    let mut also: Vec<(&str, Option<&Value>)> = vec![("when", Some(&text)), ("extent", Some(&text))];
    if outermost && matches!(list, Holder::Point(point) if point.kind == Kind::Area) {
        also.push(("title", Some(&text)));
    }
    given::to_point(point, typed, &also)
}

/// What is to be changed of an item that is there.
fn set(registry: &Registry, list: &Holder, at: &[usize], typed: &[String]) -> Result<Step> {
    if typed.is_empty() {
        bail!("say what to change, as in text=Boots; KEY= takes an input away");
    }
    let (gone, given): (Vec<&str>, Vec<&str>) =
        typed.iter().map(String::as_str).partition(|pair| pair.find('=') == Some(pair.len() - 1));
    let gone = gone.into_iter().map(|pair| (pair.trim_end_matches('=').to_string(), None));
    let mut keys: Vec<(String, Option<Value>)> = gone.collect();
    let component = fill::holder(registry, list, at).and_then(|address| registry.point(address));
    match component {
        Some(point) => {
            keys.extend(inputs(point, list, at.len() == 1, &given)?.into_iter().map(|(key, value)| (key, Some(value))));
        }
        // An entry of a menu.
        None => {
            for pair in given {
                let Some((key, value)) = pair.split_once('=') else {
                    bail!("`{pair}` is no KEY=VALUE, as in label=Home")
                };
                if !["label", "href"].contains(&key) {
                    bail!("an entry has label and href, and no `{key}`{}", hint(&nearest(key, ["label", "href"])));
                }
                keys.push((key.to_string(), Some(value.into())));
            }
        }
    }
    Ok(Step::Set(at.to_vec(), keys))
}

/// What moves or goes.
fn taken(args: &FillArgs) -> Result<Option<Step>> {
    let step = match (args.r#move.as_deref(), args.remove.as_deref()) {
        (Some([from, to]), _) => Step::Move(place(from)?, place(to)?),
        (_, Some(at)) => Step::Remove(place(at)?),
        _ => return Ok(None),
    };
    if !args.items.is_empty() || args.offer.is_some() || args.at.is_some() {
        bail!("--move and --remove are about what is there; add something by itself");
    }
    Ok(Some(step))
}

/// A place as people count it, from 1: `2`, or `2.1` for the first thing that the second one holds.
fn place(text: &str) -> Result<Vec<usize>> {
    let number = |part: &str| part.parse::<usize>().ok().filter(|number| *number > 0 && *number < 100_000);
    match text.split('.').map(number).collect::<Option<Vec<usize>>>() {
        Some(numbers) => Ok(numbers.into_iter().map(|number| number - 1).collect()),
        None => {
            bail!("`{text}` is no place; they are counted from 1, and 2.1 is the first thing that the second one holds")
        }
    }
}

fn menu(registry: &Registry, spot: Address, args: &FillArgs) -> Result<Work> {
    let menus: Vec<String> = registry.menus().iter().map(|(menu, _)| menu.name.to_string()).collect();
    if let ([menu], None, None) = (&args.items[..], &args.set, taken(&FillArgs { items: Vec::new(), ..args.clone() })?)
        && !menu.contains('=')
    {
        if !menus.contains(menu) {
            let near = nearest(menu, menus.iter().map(String::as_str)).map(str::to_string);
            let there = if menus.is_empty() { "it has none".into() } else { format!("it has {}", menus.join(", ")) };
            bail!("the site has no menu `{menu}`{}; {there}; LABEL=HREF adds an entry", hint(&near));
        }
        return Ok(Work::new(fill::with_menu(registry, spot, menu)?, vec![spot]));
    }
    if args.offer.is_some() {
        bail!("offers are of components, and a menu holds entries: {}", command_line!["fill", spot, "LABEL=HREF"]);
    }
    let steps = match taken(args)? {
        Some(step) => vec![step],
        None => match &args.set {
            Some(at) => vec![set(registry, &Holder::Menu(String::new()), &place(at)?, &args.items)?],
            None => entries(spot, args)?,
        },
    };
    if let Some(name) = fill::menu_of(registry, spot) {
        return filled(fill::change(registry, &Holder::Menu(name), &steps)?, vec![spot]);
    }
    // A menu of the spot's own name, where no other has that.
    let mut name = spot.name.to_string();
    for number in 2.. {
        if !menus.contains(&name) {
            break;
        }
        name = format!("{}-{number}", spot.name);
    }
    filled(fill::new_menu(registry, spot, &name, &steps)?, vec![spot])
}

/// Entries of a menu: LABEL=HREF.
fn entries(spot: Address, args: &FillArgs) -> Result<Vec<Step>> {
    if args.items.is_empty() {
        bail!("say what to fill it with: LABEL=HREF, as in Logbook=/log/, or one of the site's menus");
    }
    let at = args.at.as_deref().map(place).transpose()?;
    let mut steps = Vec::new();
    for (number, text) in args.items.iter().enumerate() {
        let Some((label, href)) = text.split_once('=').filter(|(label, href)| !label.is_empty() && !href.is_empty())
        else {
            bail!("`{text}` is no entry of {spot}: LABEL=HREF, as in Logbook=/log/");
        };
        let entry = Map::from_iter([("label".to_string(), label.into()), ("href".to_string(), href.into())]);
        let at = at.clone().map(|mut at| {
            if let Some(last) = at.last_mut() {
                *last += number;
            }
            at
        });
        steps.push(Step::Add(Value::Object(entry), at));
    }
    Ok(steps)
}

fn option(registry: &Registry, option: Address, args: &FillArgs) -> Result<Work> {
    let [text] = &args.items[..] else {
        bail!("say what the site chooses: {}", command_line!["fill", option, "VALUE"])
    };
    if args.r#move.is_some() || args.remove.is_some() || args.at.is_some() || args.offer.is_some() || args.set.is_some()
    {
        bail!("an option has one value: {}", command_line!["fill", option, "VALUE"]);
    }
    let schema = registry.point(option).and_then(|point| point.schema());
    let value = given::typed_value(text, schema);
    if let Some(wrong) = schema.and_then(|schema| misfit(schema, &value)) {
        bail!("{option} can't be that: {}", wrong.message);
    }
    Ok(Work::new(fill::choose(registry, option.name.as_str(), &value)?, vec![option]))
}
