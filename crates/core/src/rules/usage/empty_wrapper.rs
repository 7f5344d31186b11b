//! An element stays empty where nothing fills what it holds

use crate::address::{Address, Kind};
use crate::command_line;
use crate::link::{Asks, Circumstance, Registry, Types, UseId};
use crate::rules::usage::around::{braces, element_around};
use crate::rules::{Example, Finding, Level, Rule};
use crate::scan::Verb;

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "empty-wrapper",
    level: Level::Warning,
    links: &[],
    awaited: true,
    summary: "An element stays empty where nothing fills what it holds",
    explanation: "The element holds nothing but a region, area or menu spot, which a site may leave empty. Then an empty box, or an empty landmark that screen readers announce, is left on the page.",
    wrong: Example(&[
        (
            "truehook.toml",
            r##"[region.aside]
label = "Beside the text"
"##,
        ),
        (
            "markup/page.html",
            r##"{% extends "layout.html" %}
{% block main %}
  <main>{{ place("region:main") }}</main>
  <aside>{{ place("region:aside") }}</aside>
{% endblock %}
"##,
        ),
    ]),
    right: Example(&[(
        "markup/page.html",
        r##"{% extends "layout.html" %}
{% block main %}
  <main>{{ place("region:main") }}</main>
  {% if filled("region:aside") %}<aside>{{ place("region:aside") }}</aside>{% endif %}
{% endblock %}
"##,
    )]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    for point in registry.points() {
        let may_be_empty = matches!(point.address.kind, Kind::Region | Kind::Area | Kind::Menu) && !point.required;
        for id in point.uses.iter().filter(|_| may_be_empty && point.dropped.is_none()) {
            let used = registry.use_of(*id);
            if used.chance.is_conditional() || used.verb != Verb::Place || registry.template(id.file).is_none() {
                continue;
            }
            if is_guarded(registry, *id, point.address) {
                continue;
            }
            let place = registry.use_place(*id);
            let text = registry.project().file(id.file).text();
            let around = braces(text, registry.span(place)).and_then(|range| element_around(text, range));
            let Some((name, span)) = around else { continue };
            let message = format!("<{name}> is empty where nothing fills `{}`", point.address);
            let finding = Finding::new(&RULE, registry.layer_of(place), message).about(point.address);
            let finding = finding.at_span(id.file, span, "this stays on the page");
            let finding = finding.at(registry, place, "and this may be nothing");
            let project = registry.project();
            let own = project.file(id.file).layer == project.top();
            let mend = match own {
                true => command_line!["place", point.address, "--in", project.file(id.file).name(), "--guard"],
                false => format!("put it into {{% if filled(\"{}\") %}} … {{% endif %}}", point.address),
            };
            found.push(finding.mend(mend));
        }
    }
}

/// Does each page that gets to a placement ask before whether the point is filled, as around the call of the macro in
/// which it stands?
fn is_guarded(registry: &Registry, id: UseId, point: Address) -> bool {
    let groups = registry.use_conditions(id);
    let guarded = groups.iter().fold(Types::default(), |types, group| types.or(group.types));
    let asks = |group: &Circumstance| group.all().any(|remaining| remaining.asks == Asks::Filled(point));
    !groups.is_empty() && registry.use_reached(id).without(guarded).is_empty() && groups.iter().all(asks)
}
