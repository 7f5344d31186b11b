//! A point is placed, but no type of page gets to the placement

use crate::edit::suggest::Places;
use crate::link::{Absence, Lack, Registry, Remaining, Taken, UseId};
use crate::rules::telling::{list, needing_places};
use crate::rules::usage::at_taken;
use crate::rules::{Example, Finding, Level, Rule};
use crate::scan::Verb;
use crate::source::{FileId, Place};

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "unreached-placement",
    level: Level::Warning,
    links: &[],
    awaited: true,
    summary: "A point is placed, but no type of page gets to the placement",
    explanation: "The placement stands in a block that another template replaces, under a condition that is never met, in a macro that nobody calls, or in a template or component that no page uses.",
    wrong: Example(&[
        (
            "truehook.toml",
            r##"[region.aside]
label = "Beside the text"
"##,
        ),
        (
            "markup/layout.html",
            r##"<!doctype html>
<html lang="en">
<head><title>{{ page.title }}</title>{{ place("hook:document-head") }}</head>
<body>
<main>{{ place("region:main") }}</main>
{% block beside %}{{ place("region:aside") }}{% endblock %}
{{ place("hook:document-end") }}
</body>
</html>
"##,
        ),
        (
            "markup/page.html",
            r##"{% extends "layout.html" %}
{% block beside %}<hr>{% endblock %}
"##,
        ),
    ]),
    right: Example(&[(
        "markup/page.html",
        r##"{% extends "layout.html" %}
{% block beside %}{{ super() }}<hr>{% endblock %}
"##,
    )]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    let places = Places::of(registry);
    let mut by_template: Vec<(FileId, Vec<&Absence>)> = Vec::new();
    for absence in registry.absences() {
        match absence.lack {
            Lack::Unreached { template: Some(file) } => {
                match by_template.iter_mut().find(|(known, _)| *known == file) {
                    Some((_, absences)) => absences.push(absence),
                    None => by_template.push((file, vec![absence])),
                }
            }
            Lack::Unreached { template: None } => found.push(single(registry, &places, absence)),
            _ => {}
        }
    }
    for (file, absences) in by_template {
        found.push(together(registry, file, &absences));
    }
}

fn single(registry: &Registry, places: &Places<'_>, absence: &Absence) -> Finding {
    let message = format!("`{}` is {}, but no type of page gets there", absence.point, absence.point.kind.verb());
    let finding = Finding::new(&RULE, absence.layer, message).about(absence.point);
    if let Some(taken @ Taken::Block { .. }) = absence.taken {
        let finding = needing_places(registry, at_taken(registry, finding, taken), absence.point);
        return finding.mend("put {{ super() }} into the block, or place it there");
    }
    let uses = registry.point(absence.point).map(|point| point.uses.clone()).unwrap_or_default();
    if let Some(finding) = never_met(registry, absence, &uses) {
        return finding;
    }
    let mut uses: Vec<_> = uses.into_iter().map(|id| registry.use_place(id)).collect();
    uses.sort_by_key(|place| registry.layer_of(*place) != absence.layer);
    let own = uses.first().is_some_and(|place| registry.layer_of(*place) == absence.layer);
    let with_uses = |finding: Finding| {
        uses.iter().fold(finding, |finding, place| finding.at(registry, *place, "no page gets here"))
    };
    let finding = match own {
        true => needing_places(registry, with_uses(finding), absence.point),
        false => with_uses(needing_places(registry, finding, absence.point)),
    };
    finding.mend(places.command(absence.point, None))
}

/// All placements stand under conditions that are never met: it is told what these ask for.
fn never_met(registry: &Registry, absence: &Absence, uses: &[UseId]) -> Option<Finding> {
    let placements = uses.iter().filter(|id| registry.use_of(**id).verb == Verb::Place);
    let denied: Vec<(Place, Vec<Remaining>)> =
        placements.map(|id| (registry.use_place(*id), registry.never_met(*id))).collect();
    let (_, first) = denied.first()?;
    if denied.iter().any(|(_, denied)| denied.is_empty()) {
        return None;
    }
    let texts: Vec<String> = first.iter().map(|denied| format!("`{}`", denied.text)).collect();
    let message = format!(
        "`{}` is {}, but under {} never met: {}",
        absence.point,
        absence.point.kind.verb(),
        if texts.len() == 1 { "a condition that is" } else { "conditions that together are" },
        list(&texts)
    );
    let mut finding = Finding::new(&RULE, absence.layer, message).about(absence.point);
    for remaining in denied.iter().flat_map(|(_, denied)| denied) {
        finding = finding.at(registry, remaining.place, "this is never met");
    }
    for (place, _) in &denied {
        finding = finding.at(registry, *place, "so no page gets here");
    }
    Some(needing_places(registry, finding, absence.point).mend("correct the condition, or place it outside of it"))
}

/// Several points that do not show for one reason: nothing gets to the template that places them.
fn together(registry: &Registry, file: FileId, absences: &[&Absence]) -> Finding {
    let points: Vec<String> = absences.iter().map(|absence| format!("`{}`", absence.point)).collect();
    let name = registry.project().shown(file);
    let message = format!(
        "{} {} in {name}, but no type of page uses that template",
        list(&points),
        if points.len() == 1 { "stands" } else { "stand" }
    );
    let layer = absences.iter().map(|absence| absence.layer).max().unwrap_or(registry.project().top());
    let mut finding = Finding::new(&RULE, layer, message).about(absences[0].point);
    for absence in absences {
        finding = needing_places(registry, finding, absence.point);
    }
    for absence in absences {
        let uses = registry.point(absence.point).map(|point| point.uses.clone()).unwrap_or_default();
        for id in uses.into_iter().filter(|id| id.file == file) {
            finding = finding.at(registry, registry.use_place(id), "no page gets here");
        }
    }
    finding.mend(format!("extend or include {} from a template that pages use", registry.project().file(file).name()))
}
