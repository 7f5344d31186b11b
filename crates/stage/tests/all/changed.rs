//! Commands that change themes, on grown themes: what is done and undone leaves every byte as it was, and a new name
//! changes nothing but the name.

use std::sync::Arc;

use crate::grown::{ROOT, grow, link};
use truehook_core::address::Kind;
use truehook_core::edit::rename::rename;
use truehook_core::edit::{Change, Plan};
use truehook_core::link::Registry;
use truehook_core::read::{FileKind, MemoryFiles, Project};
use truehook_core::rules;
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
