//! A callback changes what it is given, which can't be changed

use rustc_hash::FxHashSet;

use crate::link::Registry;
use crate::rules::telling::callbacks;
use crate::rules::{Example, Finding, Level, Rule};
use crate::source::Place;

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "frozen-value",
    level: Level::Error,
    links: &[],
    awaited: false,
    summary: "A callback changes what it is given, which can't be changed",
    explanation: "What a callback is given is a copy that can't be changed: the line throws, and what the callback would have added is missing from the page. A new table or list is returned in its place.",
    wrong: Example(&[
        (
            "truehook.toml",
            r##"[[attach]]
to = "region:main"
call = "notes.js#last"
"##,
        ),
        (
            "code/notes.js",
            r##"export function last(items) {
  items.reverse();
  return items;
}
"##,
        ),
    ]),
    right: Example(&[(
        "code/notes.js",
        r##"export function last(items) {
  return items.toReversed();
}
"##,
    )]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    let mut told = FxHashSet::default();
    for (callback, point, _) in callbacks(registry) {
        let Some(first) = registry.export(callback).and_then(|export| export.writes.first()) else { continue };
        let place = Place { file: callback.file, at: *first };
        if !told.insert(place) {
            continue;
        }
        let message =
            format!("`{}` changes what it is given, which can't be changed", registry.callback_name(callback));
        let layer = registry.project().file(callback.file).layer;
        let finding = Finding::new(&RULE, layer, message).about(point.address).at(registry, place, "this throws");
        let finding = finding.at_declaration(registry, point.address, "this is what it runs at");
        found.push(
            finding.mend("return a new table or list: { ...inputs, heading }, [...items, item], items.toSorted()"),
        );
    }
}
