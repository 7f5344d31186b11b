//! A condition can never hold

use crate::address::Address;
use crate::link::Registry;
use crate::rules::{Example, Finding, Level, Rule};
use crate::scan::Condition;
use crate::source::{FileId, Place};

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "condition-constant",
    level: Level::Warning,
    links: &[],
    awaited: false,
    summary: "A condition can never hold",
    explanation: "What it belongs to never runs or shows. Types of pages are a closed set, and so are the values of options that list them.",
    wrong: Example(&[
        (
            "code/notes.js",
            r##"export function today() { return "Low water"; }
"##,
        ),
        (
            "truehook.toml",
            r##"[[attach]]
to = "hook:document-end"
call = "notes.js#today"
when = "page.type == 'home'"
"##,
        ),
    ]),
    right: Example(&[(
        "truehook.toml",
        r##"[[attach]]
to = "hook:document-end"
call = "notes.js#today"
when = "page.type == 'front'"
"##,
    )]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    if registry.blind().declarations {
        return;
    }
    for (file, when, point) in conditions(registry) {
        if registry.can_hold(when) {
            continue;
        }
        let place = Place { file, at: when.at };
        let layer = registry.layer_of(place);
        let mut finding = Finding::new(&RULE, layer, format!("`{}` can never hold", when.text));
        finding.point = point.map(|point| point.to_string());
        let types: Vec<&str> = registry.types().iter().map(|known| known.name.as_str()).collect();
        let label = match when.text.contains("page.type") {
            true => format!("the types of pages are {}", types.join(", ")),
            false => "whatever the page".to_string(),
        };
        found.push(finding.at(registry, place, label).mend("correct it, or take it away"));
    }
}

/// All conditions, with the points that they are about.
pub fn conditions(registry: &Registry) -> Vec<(FileId, &Condition, Option<Address>)> {
    let mut conditions: Vec<(FileId, &Condition, Option<Address>)> = Vec::new();
    for point in registry.points() {
        for slot in point.slots.iter().filter(|slot| !slot.switched_off) {
            conditions.extend(slot.when.iter().map(|when| (slot.place.file, when, Some(point.address))));
        }
    }
    for point in registry.points() {
        if let Some((asset, file)) = point.asset.as_ref().and_then(|asset| Some((asset, asset.when_file?))) {
            conditions.extend(asset.when.iter().map(|when| (file, when, Some(point.address))));
        }
    }
    for placed in registry.items() {
        conditions.extend(placed.item.when.iter().map(|when| (placed.file, when, placed.holder)));
    }
    conditions
}
