//! A point that every page needs is missing on some types of pages

use indexmap::IndexMap;

use crate::address::Address;
use crate::edit::suggest::Places;
use crate::link::{Absence, Lack, Registry, START, Taken, Types};
use crate::rules::telling::list;
use crate::rules::usage::at_taken;
use crate::rules::{Example, Finding, Level, Rule};
use crate::source::{FileId, Place};

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "required-point",
    level: Level::Error,
    links: &[],
    awaited: true,
    summary: "A point that every page needs is missing on some types of pages",
    explanation: "The host contract marks a few points as required: without them styles, scripts or the page's own text can't get onto the page.",
    wrong: Example(&[(
        "markup/layout.html",
        r##"<!doctype html>
<html lang="en">
<head><title>{{ page.title }}</title>{{ place("hook:document-head") }}</head>
<body>
<main>{{ place("region:main") }}</main>
</body>
</html>
"##,
    )]),
    right: Example(&[(
        "markup/layout.html",
        r##"<!doctype html>
<html lang="en">
<head><title>{{ page.title }}</title>{{ place("hook:document-head") }}</head>
<body>
{% block main %}<main>{{ place("region:main") }}</main>{% endblock %}
{{ place("hook:document-end") }}
</body>
</html>
"##,
    )]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    // Pages that lack one of these points often lack all of them, for one reason.
    let mut groups: IndexMap<(u64, Option<Place>), Vec<&Absence>> = IndexMap::new();
    for absence in registry.absences() {
        if let Lack::Required { types } = absence.lack {
            let block = match absence.taken {
                Some(Taken::Block { block, .. }) => Some(block),
                _ => None,
            };
            groups.entry((types.0, block)).or_default().push(absence);
        }
    }
    for ((types, _), absences) in groups {
        found.push(finding(registry, Types(types), &absences));
    }
}

fn finding(registry: &Registry, types: Types, absences: &[&Absence]) -> Finding {
    let points: Vec<Address> = absences.iter().map(|absence| absence.point).collect();
    let points = points.as_slice();
    let all = registry.templated_types() == types;
    let pages =
        if all { "any page".to_string() } else { format!("pages of type {}", list(&registry.type_names(types))) };
    let named: Vec<String> = points.iter().map(|point| format!("`{point}`")).collect();
    let message = match named.as_slice() {
        [one] => format!("{one} is required, but no template puts it on {pages}"),
        several => format!("{} are required, but no template puts them on {pages}", list(several)),
    };
    let mut finding = Finding::new(&RULE, registry.project().top(), message).about(points[0]);
    if let Some(taken) = absences[0].taken {
        finding = at_taken(registry, finding, taken);
        for declared in points.iter().filter_map(|point| registry.point(*point)).flat_map(|point| &point.declared) {
            finding = finding.at(registry, declared.place, "required here");
        }
        return finding.mend("put {{ super() }} into the block, or place it there");
    }
    let without = registry.types().iter().enumerate().filter(|(at, _)| types.has(*at));
    let mut templates: Vec<FileId> =
        without.filter_map(|(_, page_type)| page_type.templates.first().copied()).collect();
    templates.iter_mut().for_each(|file| *file = registry.chain(*file).pop().unwrap_or(*file));
    templates.sort();
    templates.dedup();
    for file in templates.iter().take(3) {
        finding = finding.at(registry, Place { file: *file, at: START }, "these pages begin with this template");
    }
    for declared in points.iter().filter_map(|point| registry.point(*point)).flat_map(|point| &point.declared) {
        finding = finding.at(registry, declared.place, "required here");
    }
    let own =
        templates.first().copied().filter(|file| registry.project().file(*file).layer == registry.project().top());
    match points {
        // Where those pages begin with several templates, one placement is not enough.
        [point] if templates.len() > 1 || own.is_none() => {
            finding.mend(format!("write {{{{ place(\"{point}\") }}}} into the layout of those pages"))
        }
        [point] => finding.mend(Places::of(registry).command(*point, own)),
        _ => finding.mend("extend a layout that places them, or place them here"),
    }
}
