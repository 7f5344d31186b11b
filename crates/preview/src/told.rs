//! What the drawer shows of a page, as JSON.

use std::collections::BTreeSet;

use serde::Serialize;
use serde_json::{Value, json};
use truehook_core::address::{Address, Kind};
use truehook_core::link::Registry;
use truehook_core::rules::Finding;
use truehook_core::view::{DeskView, FindingView, offers};
use truehook_stage::map::{Node, What};
use truehook_stage::{Failure, Step, Trace};

use crate::room::{Now, Room, Theme};
use crate::state::{Shown, locked};
use crate::view::{View, menus};

/// A finding, with what can be done about it here.
#[derive(Serialize)]
struct Told {
    /// By which it is called when it is to be mended.
    number: usize,
    #[serde(flatten)]
    view: FindingView,
    /// Can it be mended without asking?
    mendable: bool,
    /// Has it to do with this page?
    here: bool,
}

/// All that is known of a page.
pub fn told(room: &Room, now: &Now, path: &str, view: &View) -> Value {
    let mut told = json!({
        "version": 1,
        "number": now.number,
        "token": room.token,
        "page": path,
        "undo": locked(&room.done).last().map(|done| done.what.clone()),
    });
    let theme = match &now.theme {
        Ok(theme) => theme,
        Err(why) => {
            told["trouble"] = Value::from(why.as_str());
            return told;
        }
    };
    let view = view.fitting(&theme.registry);
    let held = theme.broken.then(|| room.last_good(path, &view)).flatten();
    let shown = held.clone().or_else(|| theme.find(path).and_then(|page| room.page(theme, &page.path, &view).ok()));
    let own = theme.registry.project().layer(theme.registry.project().top());
    let site = theme.site();
    let findings = findings(theme, shown.as_deref());
    // What a finding tells of is told once.
    let is_told = |failure: &&Failure| {
        let about =
            |point: &String| findings.iter().any(|told| told.here && told.view.message.contains(&format!("`{point}`")));
        let there = |(file, line, _): &(String, usize, usize)| {
            let mut places = findings.iter().flat_map(|told| &told.view.places);
            places.any(|found| found.place.file == *file && found.place.line == *line)
        };
        failure.place.as_ref().is_some_and(there)
            || failure.source.is_none() && failure.place.is_none() && failure.point.as_ref().is_some_and(about)
    };
    let failures = shown.iter().flat_map(|shown| &shown.page.failures).filter(|failure| !is_told(failure));
    let of_site = site.failures.iter().filter(|failure| held.is_none() && !is_told(failure));
    let failures: Vec<Value> = failures.chain(of_site).map(failure).collect();
    let entries = [
        ("theme", Value::from(own.name.as_str())),
        ("held", Value::from(held.is_some())),
        ("findings", json!(findings)),
        ("failures", json!(failures)),
        ("points", shown.as_ref().map(|shown| points(&theme.registry, shown)).unwrap_or_default()),
        ("pages", site.pages.iter().map(|page| json!({ "path": page.path, "title": page.title, "type": page.page_type, "sample": page.sample })).collect()),
        ("view", json!(view)),
        ("languages", json!(languages(&theme.registry))),
        ("options", json!(DeskView::new(&theme.registry).options)),
        ("chosen", theme.registry.site_values().get("options").cloned().unwrap_or_default()),
        ("menus", json!(menus(&theme.registry))),
        ("spots", json!(spots(&theme.registry))),
    ];
    for (key, value) in entries {
        told[key] = value;
    }
    told
}

fn failure(failure: &Failure) -> Value {
    let place = failure.place.as_ref().map(|(file, line, column)| format!("{file}:{line}:{column}"));
    json!({ "message": failure.message, "point": failure.point, "source": failure.source, "place": place })
}

fn languages(registry: &Registry) -> Vec<String> {
    let site = registry.site_values();
    let own = site.get("language").and_then(Value::as_str).unwrap_or("en").to_string();
    let all: BTreeSet<String> = registry.languages().into_iter().map(str::to_string).chain([own]).collect();
    all.into_iter().collect()
}

/// The spots for menus, with what fills each.
fn spots(registry: &Registry) -> Vec<Value> {
    let spots = registry.points().filter(|point| point.address.kind == Kind::Menu && point.dropped.is_none());
    let spot = |address: Address, label: Option<&str>| json!({ "address": address.to_string(), "label": label, "menu": truehook_core::edit::fill::menu_of(registry, address) });
    spots.map(|point| spot(point.address, point.label.as_ref().map(|label| label.as_str()))).collect()
}

/// The findings, those of this page first.
fn findings(theme: &Theme, shown: Option<&Shown>) -> Vec<Told> {
    let (mut names, mut files) = (BTreeSet::new(), BTreeSet::new());
    if let Some(shown) = shown {
        gather(&shown.root, &mut names, &mut files);
    }
    let project = theme.registry.project();
    let concerns = |finding: &Finding| {
        let about = finding.point.as_ref().is_some_and(|point| names.contains(point));
        about || finding.places.iter().any(|place| files.contains(&project.file(place.file).path.to_string()))
    };
    let top = project.top();
    let told = theme.checked().findings.iter().enumerate().map(|(number, finding)| Told {
        number,
        view: FindingView::new(&theme.registry, finding),
        mendable: finding.mend.as_ref().is_some_and(|mend| {
            let own = mend.edits.iter().all(|edit| project.file(edit.file).layer == top);
            mend.safe && !mend.edits.is_empty() && own
        }),
        here: concerns(finding),
    });
    let (mut here, elsewhere): (Vec<_>, Vec<_>) = told.partition(|told| told.here);
    here.extend(elsewhere);
    here
}

/// The names of all that is on a page, and the files that it comes from.
fn gather(node: &Node, names: &mut BTreeSet<String>, files: &mut BTreeSet<String>) {
    names.insert(node.name.clone());
    files.extend(node.place.as_ref().map(|place| place.file.clone()));
    node.children.iter().for_each(|child| gather(child, names, files));
}

/// What the preview's files put into a region or area, in their order.
fn held(registry: &Registry, address: Address) -> Vec<String> {
    let site = registry.site_values();
    let items = site.get("fill").and_then(|fill| fill.get(address.to_string())?.as_array().cloned());
    let used = |item: Value| item.get("use").and_then(Value::as_str).unwrap_or_default().to_string();
    items.into_iter().flatten().map(used).collect()
}

/// The points of a page in its order, what runs at each, and what each holds.
fn points(registry: &Registry, shown: &Shown) -> Value {
    let mut found = Vec::new();
    collect(registry, &shown.page.trace, &shown.root, 0, &mut found);
    Value::from(found)
}

/// So many letters of a value are shown.
const LETTERS: usize = 400;

/// What a step was given and what it gave, where that is another thing.
fn changed(trace: &Trace, point: &str, step: &str) -> Option<Value> {
    let is_it = |known: &&Step| *known.name == *step && known.point.to_string() == point;
    let values = trace.steps.iter().find(is_it)?.values.as_ref()?;
    let short = |text: &str| match text.char_indices().nth(LETTERS) {
        Some((end, _)) => format!("{}…", &text[..end]),
        None => text.to_string(),
    };
    (values.before != values.after).then(|| json!({ "before": short(&values.before), "after": short(&values.after) }))
}

fn collect(registry: &Registry, trace: &Trace, node: &Node, depth: usize, found: &mut Vec<Value>) {
    let is_point = matches!(node.what, What::Point | What::Item);
    if is_point {
        let steps = node.children.iter().filter(|child| child.what == What::Step);
        let step = |step: &Node| {
            let changed = changed(trace, &node.name, &step.name);
            json!({ "name": step.name, "label": step.label, "state": step.state.word(), "reason": step.reason, "changed": changed })
        };
        let address = node.name.parse::<Address>().ok();
        let spot = address.filter(|address| matches!(address.kind, Kind::Region | Kind::Area));
        let spot = spot.filter(|_| node.what == What::Point);
        found.push(json!({
            "depth": depth,
            "address": node.name,
            "what": node.what,
            "label": node.label,
            "state": node.state.word(),
            "reason": node.reason,
            "place": node.place.as_ref().map(|place| format!("{}:{}", place.file, place.line)),
            "steps": steps.map(step).collect::<Vec<_>>(),
            "items": spot.map(|address| held(registry, address)),
            "offers": spot.map(|address| {
                offers(registry, address).into_iter().map(|(component, label)| json!({ "component": component.to_string(), "label": label })).collect::<Vec<_>>()
            }),
        }));
    }
    let depth = depth + usize::from(is_point);
    node.children.iter().for_each(|child| collect(registry, trace, child, depth, found));
}
