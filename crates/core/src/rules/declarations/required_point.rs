//! A point that every page needs is missing on some types of pages

use crate::link::{Lack, Registry, START};
use crate::rules::support::list;
use crate::rules::usage::place_command;
use crate::rules::{Example, Finding, Level, Rule};
use crate::source::Place;

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "required-point",
    level: Level::Error,
    summary: "A point that every page needs is missing on some types of pages",
    explanation: "The host contract marks a few points as required: without them styles, scripts or the page's own text can't get onto the page.",
    wrong: Example(&[(
        "markup/layout.html",
        r##"<!doctype html>
<html lang="en">
<head>{{ place("hook:document-head") }}</head>
<body>
<main>{{ place("region:main") }}</main>
</body>
</html>
"##,
    )]),
    right: Example(&[]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    for absence in &registry.absences {
        let Lack::Required { types } = absence.lack else { continue };
        let Some(point) = registry.point(absence.point) else { continue };
        let names = registry.type_names(types);
        let all = registry.templated_types() == types;
        let pages = if all { "any page".to_string() } else { format!("pages of type {}", list(&names)) };
        let message = format!("`{}` is required, but no template puts it on {pages}", absence.point);
        let mut finding = Finding::new(&RULE, absence.layer, message).about(absence.point);
        let without = registry.types.iter().enumerate().filter(|(at, _)| types.has(*at));
        let mut templates: Vec<_> = without.filter_map(|(_, page_type)| page_type.templates.first()).collect();
        templates.dedup();
        for file in templates.into_iter().take(3) {
            let root = registry.chain(*file).pop().unwrap_or(*file);
            finding = finding.at(registry, Place { file: root, at: START }, "these pages begin with this template");
        }
        for declared in &point.declared {
            finding = finding.at(registry, declared.place, "required here");
        }
        found.push(finding.mend(place_command(registry, absence.point, None)));
    }
}
