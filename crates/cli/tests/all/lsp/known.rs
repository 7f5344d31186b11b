//! What editors are told of names, over themes that are grown from a seed and over the examples of all rules.

use std::collections::BTreeSet;

use camino::Utf8Path;
use truehook_core::address::Kind;
use truehook_core::edit::rename::{follow, rename};
use truehook_core::edit::{Change, asked, preview};
use truehook_core::link::{Registry, Target};
use truehook_core::mentions;
use truehook_core::read::{DiskFiles, MemoryFiles, Project};
use truehook_core::rules::{self, ALL};

use crate::grown::{ROOT, grow};

fn demo() -> Registry {
    let folder = concat!(env!("CARGO_MANIFEST_DIR"), "/../../demo/saltmarsh");
    Registry::new(Project::open(&DiskFiles, Utf8Path::new(folder)).unwrap())
}

/// Each mention is found where it stands, stands where its name is written, and is among all mentions of the same.
fn holds(registry: &Registry) -> usize {
    let mut number = 0;
    for file in registry.project().file_ids() {
        let text = registry.project().file(file).text();
        for mention in mentions::in_file(registry, file) {
            number += 1;
            let written = &text[mention.span.range()];
            let name = match mention.target {
                Target::Point(address) => address.name.as_str().rsplit(['/', '.']).next().unwrap().to_string(),
                Target::Export(_, name) | Target::Input(_, name) => name.to_string(),
                _ => String::new(),
            };
            // What a feature feeds on speaks of it in other words.
            let fed = matches!(mention.target, Target::Point(address) if address.kind == Kind::Feature);
            // A global name in a script speaks of the script that gives it.
            let global = registry.script(file).is_some();
            let moved = name == "default" || fed || global;
            assert!(
                moved || written.contains(&name),
                "{}: `{written}` for {:?}",
                registry.project().shown(file),
                mention.target
            );
            let here = mentions::at(registry, file, mention.span.start);
            let shorter =
                |known: &mentions::Mention| known.span.end - known.span.start <= mention.span.end - mention.span.start;
            assert!(!here.is_empty() && here.iter().all(shorter), "{written}");
            let all = mentions::of(registry, mention.target);
            let known = all.iter().any(|known| (known.file, known.span) == (file, mention.span));
            assert!(
                known,
                "{}: `{written}` is not among the mentions of {:?}",
                registry.project().shown(file),
                mention.target
            );
        }
    }
    number
}

#[test]
fn each_mention_is_found_from_each_other() {
    assert!(holds(&demo()) > 500);
    for seed in 0..6 {
        assert!(holds(&grow(seed).registry()) > 60, "{seed}");
    }
}

#[test]
fn declarations_come_first_and_lead_to_themselves() {
    let registry = demo();
    for point in registry.points().filter(|point| !point.declared.is_empty()) {
        let target = Target::Point(point.address);
        let declared = mentions::declarations(&registry, target);
        assert_eq!(declared.len(), point.declared.len(), "{}", point.address);
        assert!(declared.iter().all(|mention| mention.declares));
        let all = mentions::of(&registry, target);
        assert_eq!(all[..declared.len()], declared[..], "{}", point.address);
        // A template is declared by its file's being there.
        for mention in declared.into_iter().filter(|mention| mention.span.start != mention.span.end) {
            let here = mentions::at(&registry, mention.file, mention.span.start);
            assert!(here.iter().any(|known| known.target == target), "{}: {mention:?} {here:?}", point.address);
        }
    }
}

#[test]
fn every_command_that_a_mend_prints_takes_its_finding_away() {
    let mut tried = BTreeSet::new();
    for rule in ALL {
        let files = rule.wrong.files();
        let registry = rule.wrong.registry().unwrap();
        for finding in rules::check(&registry).findings {
            let Some(command) = finding.mend.as_ref().and_then(|mend| asked::command(&mend.text)) else { continue };
            let plan = asked::plan(&registry, &files, command)
                .unwrap_or_else(|error| panic!("{}: {command}: {error}", rule.name));
            let changes = plan.changes(registry.project()).unwrap();
            let after = Registry::new(preview(&files, registry.project(), &changes).unwrap());
            let left = rules::check(&after).findings;
            let same = left.iter().find(|left| left.rule == finding.rule && left.message == finding.message);
            assert!(same.is_none(), "{}: {command} leaves: {}", rule.name, finding.message);
            tried.insert(rule.name);
        }
    }
    assert!(tried.len() >= 8, "{tried:?}");
}

#[test]
fn what_is_left_to_people_is_no_command() {
    for text in [
        "truehook attach ADDRESS notes.js#today",
        "truehook place hook:x --in TEMPLATE --inside SELECTOR",
        "declare it: truehook declare option:tone type=string default=…",
        "truehook show hook:x",
        "write `hook:x`",
    ] {
        assert_eq!(asked::command(text), None, "{text}");
    }
    assert_eq!(asked::command("do this: truehook declare hook:x"), Some("truehook declare hook:x"));
    let registry = demo();
    for text in
        ["truehook declare", "truehook place hook:x", "truehook declare 'hook:x", "truehook adopt a.html --sideways"]
    {
        assert!(asked::plan(&registry, &DiskFiles, text).is_err(), "{text}");
    }
}

fn write(files: &mut MemoryFiles, changes: &[Change]) {
    for change in changes {
        match &change.after {
            Some(bytes) => files.insert(change.path.clone(), bytes.clone()),
            None => files.remove(&change.path),
        }
    }
}

/// The files in which a text stands, outside of what is kept of originals.
fn naming(files: &MemoryFiles, text: &str) -> Vec<String> {
    let all = files.iter().filter(|(path, _)| !path.as_str().contains("/adopted/"));
    all.filter(|(_, bytes)| String::from_utf8_lossy(bytes).contains(text)).map(|(path, _)| path.to_string()).collect()
}

#[test]
fn themes_above_follow_a_new_name() {
    let mut renamed = 0;
    for seed in 0..40 {
        let grown = grow(seed);
        let base = Utf8Path::new("/grown/shore");
        if grown.files.get(&base.join("truehook.toml")).is_none() {
            continue;
        }
        let open = |files: &MemoryFiles, root: &Utf8Path| Registry::new(Project::open(files, root).unwrap());
        let below = open(&grown.files, base);
        let own = |kind: Kind| matches!(kind, Kind::Hook | Kind::Filter | Kind::Region | Kind::Area | Kind::Menu);
        let top = below.project().top();
        let points = below.points().filter(|point| point.layer() == Some(top) && own(point.address.kind));
        let Some(point) = points.max_by_key(|point| naming(&grown.files, &format!("\"{}\"", point.address)).len())
        else {
            continue;
        };
        let (from, to) = (point.address.to_string(), format!("{}:quite-another", point.address.kind));
        let Ok(renaming) = rename(&below, &from, &to) else { continue };
        let above = open(&grown.files, Utf8Path::new(ROOT));
        let before: Vec<String> = rules::check(&above)
            .findings
            .iter()
            .map(|finding| finding.rule.to_string())
            .filter(|rule| rule != "stale-copy")
            .collect();
        let followed = follow(&above, &below.project().layer(top).root, &from, &to).unwrap();
        let mut files = grown.files.clone();
        write(&mut files, &renaming.plan.changes(below.project()).unwrap());
        write(&mut files, &followed.plan.changes(above.project()).unwrap());
        assert_eq!(naming(&files, &format!("\"{from}\"")), Vec::<String>::new(), "seed {seed}: {from}");
        let after = rules::check(&open(&files, Utf8Path::new(ROOT))).findings;
        // A copy follows, but what it was taken from has changed.
        let stale = "stale-copy";
        let after: Vec<String> =
            after.iter().map(|finding| finding.rule.to_string()).filter(|rule| rule != stale).collect();
        assert_eq!(after, before, "seed {seed}: {from}");
        renamed += 1;
    }
    assert!(renamed >= 10, "{renamed}");
}

#[test]
fn a_theme_that_does_not_build_on_it_stays_as_it_is() {
    let registry = demo();
    let followed = follow(&registry, Utf8Path::new("/nowhere"), "hook:under-masthead", "hook:other").unwrap();
    assert!(followed.plan.edits.is_empty() && followed.plan.created.is_empty());
}
