//! Commands that change themes, on grown themes: what is done and undone leaves every byte as it was, and a new name
//! changes nothing but the name.

use std::sync::Arc;

use crate::grown::{ROOT, grow, link};
use truehook_core::address::{Address, Kind};
use truehook_core::edit::declare::declare;
use truehook_core::edit::fill::{self, Holder, Step};
use truehook_core::edit::manifest::{self, NewAttachment};
use truehook_core::edit::module::add_stub;
use truehook_core::edit::rename::rename;
use truehook_core::edit::withdraw::{Way, withdraw};
use truehook_core::edit::{Change, Plan, stubs};
use truehook_core::link::Registry;
use truehook_core::read::{FileKind, MemoryFiles, Project};
use truehook_core::rules;
use truehook_core::scan::CallRef;
use truehook_core::source::At;
use truehook_stage::Stage;

const THEMES: u64 = 12;
/// A name that nothing has.
const NEW: &str = "zugzwang";
/// How many things of one sort are renamed in each theme.
const OF_EACH: usize = 3;

/// The files after a plan.
pub fn carried_out(files: &MemoryFiles, registry: &Registry, plan: &Plan) -> MemoryFiles {
    let mut files = files.clone();
    for Change { path, before, after, .. } in plan.changes(registry.project()).expect("the plan can be carried out") {
        assert_eq!(files.get(&path).map(<[u8]>::to_vec), before, "{path}");
        match after {
            Some(after) => files.insert(path, after),
            None => files.remove(&path),
        }
    }
    files
}

pub fn same_bytes(one: &MemoryFiles, other: &MemoryFiles) -> Result<(), String> {
    let texts = |files: &MemoryFiles| -> Vec<(String, String)> {
        files.iter().map(|(path, bytes)| (path.to_string(), String::from_utf8_lossy(bytes).into_owned())).collect()
    };
    let (one, other) = (texts(one), texts(other));
    for (path, text) in &one {
        match other.iter().find(|(known, _)| known == path) {
            None => return Err(format!("{path} is gone")),
            Some((_, then)) if then != text => return Err(format!("{path} was\n{text}\nand is\n{then}")),
            _ => {}
        }
    }
    match other.iter().find(|(path, _)| one.iter().all(|(known, _)| known != path)) {
        Some((path, _)) => Err(format!("{path} came")),
        None => Ok(()),
    }
}

/// All that is found, and all that is shown, with one text in the place of another.
fn seen(registry: Registry, exchange: &dyn Fn(&str) -> String) -> (Vec<String>, Vec<String>) {
    let registry = Arc::new(registry);
    let findings = rules::check(&registry).findings;
    let mut found: Vec<String> =
        findings.iter().map(|finding| exchange(&format!("[{}] {}", finding.rule, finding.message))).collect();
    found.sort();
    let stage = Stage::new(registry);
    let pages = stage.pages().into_iter().filter_map(|page| stage.render(&page.path));
    let shown = pages.map(|page| {
        let failures: Vec<String> = page.failures.iter().map(|failure| failure.message.clone()).collect();
        exchange(&format!("{}\n{failures:?}", page.html))
    });
    (found, shown.collect())
}

/// What can be renamed in a theme, each with its new name, and the bare names that are exchanged.
fn renamable(registry: &Registry) -> Vec<(String, String, String)> {
    let top = registry.project().top();
    let mut found = Vec::new();
    let own = |point: &&truehook_core::link::Point| {
        !matches!(point.address.kind, Kind::Feature | Kind::Template)
            && !point.declared.is_empty()
            && point.declared.iter().all(|declared| declared.layer == top)
    };
    for kind in Kind::ALL {
        let points = registry.points().filter(|point| point.address.kind == kind).filter(own).take(OF_EACH);
        for point in points {
            let name = point.address.name.as_str();
            let (to, bare) = match name.split_once('/') {
                Some((section, own)) => (format!("piece:{section}/{NEW}"), own),
                None => (format!("{kind}:{NEW}"), name),
            };
            found.push((point.address.to_string(), to, bare.to_string()));
            for input in point.inputs.iter().chain(&point.args).take(1) {
                let name = input.field.name.as_str();
                if registry.layer_of(input.place) == top {
                    let address = point.address;
                    found.push((format!("{address}.{name}"), format!("{address}.{NEW}"), name.to_string()));
                }
            }
        }
    }
    for (file, source) in registry.project().files_of(top) {
        if let Some(module) = registry.module(file) {
            for export in module.exports.iter().take(OF_EACH) {
                let from = format!("{}#{}", source.name(), export.name);
                found.push((from, format!("{}#{NEW}", source.name()), export.name.to_string()));
            }
        }
        if source.kind == FileKind::Template {
            found.push((
                source.name().to_string(),
                format!("{NEW}.html"),
                source.name().trim_end_matches(".html").to_string(),
            ));
        }
    }
    found
}

/// Renames one thing there and back. True where it can be renamed.
fn there_and_back(files: &MemoryFiles, root: &str, from: &str, to: &str, bare: &str) -> bool {
    let open = |files: &MemoryFiles| Registry::new(Project::open(files, root.into()).expect("the theme opens"));
    let registry = open(files);
    let Ok(there) = rename(&registry, from, to) else { return false };
    let changed = carried_out(files, &registry, &there.plan);
    let after = open(&changed);
    let back = rename(&after, to, from).unwrap_or_else(|error| panic!("{from} to {to} can't go back: {error}"));
    let again = carried_out(&changed, &after, &back.plan);
    if let Err(why) = same_bytes(files, &again) {
        panic!("{from} to {to} and back: {why}");
    }
    if there.told.is_empty() {
        let before = seen(registry, &|text| text.to_string());
        let then = seen(after, &|text| text.replace(NEW, bare));
        assert_eq!(before.0, then.0, "{from} to {to}: what is found");
        assert_eq!(before.1, then.1, "{from} to {to}: what is shown");
    }
    true
}

#[test]
fn a_new_name_changes_nothing_but_the_name_and_the_old_one_brings_every_byte_back() {
    let asked = std::env::var("TRUEHOOK_THEMES").ok().and_then(|text| text.parse::<u64>().ok());
    let first = if asked.is_some() { fastrand::u64(1 << 20..1 << 32) } else { 0 };
    println!("from seed {first}");
    let (mut renamed, mut refused) = (0, Vec::new());
    for seed in first..first + asked.unwrap_or(THEMES) {
        let files = grow(seed).files;
        for (from, to, bare) in renamable(&link(&files)) {
            match there_and_back(&files, ROOT, &from, &to, &bare) {
                true => renamed += 1,
                false => refused.push(from),
            }
        }
    }
    println!("{renamed} renamed, {} refused: {refused:?}", refused.len());
    assert!(renamed > refused.len() * 3, "{renamed} renamed, {refused:?} refused");
}

/// What is declared for each kind of point, beside its name.
fn keys(kind: Kind) -> Vec<(String, String)> {
    let keys: &[(&str, &str)] = match kind {
        Kind::Area => &[("wrap", "<p class=\"x\">{{ title }}{{ body }}</p>")],
        Kind::Option => &[("type", "boolean"), ("default", "true")],
        Kind::Section => {
            &[("inputs.text.type", "string"), ("inputs.text.default", "it's \"so\""), ("holds", "[\"piece:*\"]")]
        }
        Kind::Partial => &[("inputs.text.type", "string"), ("inputs.text.default", "")],
        Kind::Piece => &[("render", "made.js#piece"), ("inputs.text", "{ type = \"string\", default = \"\" }")],
        Kind::Hook => &[("about", "Somewhere")],
        _ => &[],
    };
    keys.iter()
        .map(|(key, value)| (key.to_string(), value.to_string()))
        .filter(|(_, value)| !value.is_empty())
        .collect()
}

/// The same files with something about how they are written that must not be lost.
fn written_otherwise(files: &MemoryFiles, manner: u64) -> MemoryFiles {
    let mut other = MemoryFiles::new();
    for (path, bytes) in files.iter() {
        let text = String::from_utf8_lossy(bytes).into_owned();
        let own = path.starts_with(ROOT) && (path.extension() == Some("toml") || path.extension() == Some("js"));
        other.insert(
            path,
            match manner % 4 {
                1 if own => text.replace('\n', "\r\n"),
                2 if own => text.trim_end_matches('\n').to_string(),
                3 if own => format!("\u{feff}{text}"),
                _ => text,
            },
        );
    }
    other
}

#[test]
fn what_is_declared_and_withdrawn_leaves_every_byte_as_it_was() {
    for seed in 0..THEMES {
        let files = written_otherwise(&grow(seed).files, seed);
        let registry = link(&files);
        for kind in Kind::ALL.into_iter().filter(|kind| !matches!(kind, Kind::Feature | Kind::Template)) {
            let point = Address::new(kind, NEW);
            let there = declare(&registry, point, &keys(kind)).unwrap();
            let changed = carried_out(&files, &registry, &there);
            let after = link(&changed);
            assert!(after.point(point).is_some(), "{point}");
            let back = withdraw(&after, point, Way::Alone).unwrap_or_else(|error| panic!("{point}: {error}"));
            assert_eq!(back.told, [""; 0], "{point}");
            same_bytes(&files, &carried_out(&changed, &after, &back.plan))
                .unwrap_or_else(|why| panic!("{seed}: {point}: {why}"));
        }
    }
}

#[test]
fn what_is_attached_and_detached_leaves_every_byte_as_it_was() {
    for seed in 0..THEMES {
        let files = written_otherwise(&grow(seed).files, seed);
        let registry = link(&files);
        let modules: Vec<&str> = registry
            .project()
            .files_of(registry.project().top())
            .filter(|(_, file)| file.kind == FileKind::Module)
            .map(|(_, file)| file.name())
            .collect();
        for point in registry.points().filter(|point| point.address.kind.role().is_some()).take(8) {
            for file in modules.iter().take(1).copied().chain(["made.js"]) {
                let what = format!("{file}#{NEW}");
                let call = CallRef::parse(&what, At::default()).unwrap();
                let mut there = Plan::default();
                add_stub(&registry, point.address, &call, &mut there).unwrap();
                let new =
                    NewAttachment { to: point.address.to_string(), what: what.clone(), ..NewAttachment::default() };
                there.edits.push(manifest::attach(registry.project(), &new).unwrap());
                let changed = carried_out(&files, &registry, &there);
                let after = link(&changed);
                let slots = &after.point(point.address).unwrap().slots;
                let slot = slots.iter().find(|slot| after.first_name(slot).ends_with(NEW)).expect("it is attached");
                let taken = manifest::take_away(after.project(), slot.place.file, after.span(slot.place)).unwrap();
                let mut back = Plan::of(vec![taken]);
                stubs::remove_of_slot(&after, point.address, slot.place, &mut back).unwrap();
                same_bytes(&files, &carried_out(&changed, &after, &back))
                    .unwrap_or_else(|why| panic!("{seed}: {what} at {}: {why}", point.address));
            }
        }
    }
}

#[test]
fn what_is_filled_in_and_taken_out_leaves_every_byte_as_it_was() {
    let mut filled = 0;
    for seed in 0..THEMES {
        let files = written_otherwise(&grow(seed).files, seed);
        let registry = link(&files);
        let item = serde_json::json!({ "use": "piece:any", "text": "it's \"so\"", "n": 3, "list": [true, {}] });
        for point in registry.points() {
            let holder = match point.address.kind {
                Kind::Region | Kind::Area => Holder::Point(point.address),
                Kind::Menu => match fill::menu_of(&registry, point.address) {
                    Some(menu) => Holder::Menu(menu),
                    None => continue,
                },
                _ => continue,
            };
            for at in [None, Some(vec![0]), Some(vec![1]), Some(vec![0, 0])] {
                let step = Step::Add(item.clone(), at.clone());
                let Ok(there) = fill::change(&registry, &holder, &[step]) else { continue };
                // What was taken over from below stays, since it may be meant.
                if !there.told.is_empty() {
                    continue;
                }
                let changed = carried_out(&files, &registry, &there.plan);
                let after = link(&changed);
                let place = at.clone().unwrap_or_else(|| vec![count(&after, &holder) - 1]);
                let back = fill::change(&after, &holder, &[Step::Remove(place)]).unwrap();
                same_bytes(&files, &carried_out(&changed, &after, &back.plan))
                    .unwrap_or_else(|why| panic!("{seed}: {holder:?} {at:?}: {why}"));
                filled += 1;
            }
        }
    }
    assert!(filled > 50, "only {filled}");
}

/// How many items the checked theme's preview has there.
fn count(registry: &Registry, holder: &Holder) -> usize {
    let (_, site) = registry.sites().last().unwrap();
    let list = match holder {
        Holder::Menu(menu) => &site.value["menus"][menu],
        Holder::Point(point) => &site.value["fill"][point.to_string()],
        _ => unreachable!(),
    };
    list.as_array().unwrap().len()
}

#[test]
fn nothing_leads_to_what_was_withdrawn_with_all_that_hung_on_it_or_moved_elsewhere() {
    let (mut done, mut refused) = (0, Vec::new());
    for seed in 0..THEMES {
        let files = grow(seed).files;
        let registry = link(&files);
        let top = registry.project().top();
        let own = |point: &&truehook_core::link::Point| {
            !matches!(point.address.kind, Kind::Feature | Kind::Template)
                && point.declared.iter().all(|declared| declared.layer == top)
        };
        for point in registry.points().filter(|point| !point.declared.is_empty()).filter(own) {
            let other = registry.points().find(|other| {
                other.address.kind == point.address.kind
                    && other.address != point.address
                    && !other.declared.is_empty()
                    && other.address.inner().is_none()
            });
            let to = other.filter(|_| point.address.inner().is_none()).map(|other| Way::To(other.address));
            for way in [Some(Way::Along), to].into_iter().flatten() {
                let withdrawn = match withdraw(&registry, point.address, way) {
                    Ok(withdrawn) => withdrawn,
                    Err(error) => {
                        refused.push(error.to_string());
                        continue;
                    }
                };
                let after = link(&carried_out(&files, &registry, &withdrawn.plan));
                assert!(
                    after.point(point.address).is_none_or(|gone| gone.declared.is_empty()),
                    "{seed}: {}",
                    point.address
                );
                let address = format!("`{}`", point.address);
                let about: Vec<String> = rules::check(&after)
                    .findings
                    .iter()
                    .filter(|finding| finding.message.contains(&address) || finding.rule.ends_with("-syntax"))
                    .map(|finding| format!("[{}] {}", finding.rule, finding.message))
                    .collect();
                assert_eq!(about, [""; 0], "{seed}: {} {way:?}", point.address);
                done += 1;
            }
        }
    }
    println!("{done} withdrawn, {} refused: {refused:#?}", refused.len());
    assert!(done > refused.len() * 3, "{done} withdrawn, {refused:#?}");
}
