//! Two pages have one path

use rustc_hash::FxHashMap;

use crate::link::Registry;
use crate::rules::{Example, Finding, Level, Rule};
use crate::scan::{Named, Shape};
use crate::source::{FileId, LayerId, Place};

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "doubled-path",
    level: Level::Error,
    links: &[],
    awaited: false,
    summary: "Two pages have one path",
    explanation: "Only one of them can be shown. A page of a lower layer's preview is replaced by one of the same path, and that is no mistake.",
    wrong: Example(&[
        (
            "preview/pages/front.toml",
            r##"path = "/"
type = "front"
title = "Today"
"##,
        ),
        (
            "preview/pages/log.toml",
            r##"path = "/"
type = "list"
title = "Logbook"
"##,
        ),
    ]),
    right: Example(&[(
        "preview/pages/log.toml",
        r##"path = "/log/"
type = "list"
title = "Logbook"
"##,
    )]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    let mut known: FxHashMap<(LayerId, &str), (Named, FileId)> = FxHashMap::default();
    for (at, facts) in registry.all_facts().iter().enumerate() {
        let Shape::Page(page) = &facts.shape else { continue };
        let Some(path) = page.path else { continue };
        let file = FileId(at as u32);
        let layer = registry.project().file(file).layer;
        let first = known.get(&(layer, path.name.as_str().trim_end_matches('/'))).copied();
        if let Some((other, of)) = first {
            let message = format!("two pages have the path `{}`, and only one of them can be shown", path.name);
            let finding = Finding::new(&RULE, layer, message).at(registry, Place { file, at: path.at }, "this one");
            let finding = finding.at(registry, Place { file: of, at: other.at }, "and this one");
            found.push(finding.mend("give one of them another path"));
        }
        known.entry((layer, path.name.as_str().trim_end_matches('/'))).or_insert((path, file));
    }
}
