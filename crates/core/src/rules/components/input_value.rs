//! A value does not fit the input, argument or option that it is given to

use serde_json::Value;

use crate::address::{Address, Kind, Role};
use crate::link::{Input, Point, Registry};
use crate::rules::telling::callbacks;
use crate::rules::{Example, Finding, Level, Rule};
use crate::scan::{Given, Returned};
use crate::schema::misfit;
use crate::source::{FileId, Place};

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "input-value",
    level: Level::Error,
    links: &[],
    awaited: false,
    summary: "A value does not fit the input, argument or option that it is given to",
    explanation: "What is given has to fit what the input, argument or option is declared to be: in the preview, in offers, and wherever a template or callback writes a value out.",
    wrong: Example(&[
        (
            "truehook.toml",
            r##"[region.aside]
label = "Beside the text"

[partial.hours]
inputs.days = { type = "integer", default = 2, minimum = 1 }
"##,
        ),
        (
            "markup/partials/hours.html",
            r##"<p>{{ days }}</p>
"##,
        ),
        (
            "markup/page.html",
            r##"{% extends "layout.html" %}
{% block main %}
  <main>{{ place("region:main") }}</main>
  {{ place("region:aside") }}
{% endblock %}
"##,
        ),
        (
            "preview/site.toml",
            r##"[fill]
"region:aside" = [ { use = "partial:hours", days = 0 } ]
"##,
        ),
    ]),
    right: Example(&[(
        "preview/site.toml",
        r##"[fill]
"region:aside" = [ { use = "partial:hours", days = 3 } ]
"##,
    )]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    items(registry, found);
    uses(registry, found);
    returned(registry, found);
    for (file, page) in registry.pages() {
        for given in &page.keys {
            let types = registry.types().iter().filter(|known| page.page_type.is_none_or(|own| own.name == known.name));
            let mut fields = types.flat_map(|known| known.keys.iter().map(move |field| (known, field)));
            let Some((known, field)) = fields.find(|(_, field)| field.name == given.name.name) else { continue };
            let (place, declared) = (Place { file, at: given.at }, Place { file: known.place.file, at: field.at });
            let what = format!("`page.{}`", field.name);
            found.extend(finding(registry, place, &given.value, &what, &field.schema, declared));
        }
    }
    for (file, given) in registry.choices() {
        let address = Address::new(Kind::Option, given.name.name);
        let Some((schema, declared)) = registry.point(address).and_then(|option| option.value.as_ref()) else {
            continue;
        };
        let what = format!("the option `{}`", given.name.name);
        let finding = finding(registry, Place { file, at: given.at }, &given.value, &what, schema, *declared);
        found.extend(finding.map(|finding| finding.about(address)));
    }
}

/// What items give to their components.
fn items(registry: &Registry, found: &mut Vec<Finding>) {
    for placed in registry.items() {
        let Some(point) = placed.component.and_then(|component| registry.point(component)) else { continue };
        for given in &placed.item.inputs {
            found.extend(passed(registry, placed.file, given, point, &point.inputs));
        }
    }
}

/// What templates and callbacks write out: arguments, inputs, and values that they send through filters.
fn uses(registry: &Registry, found: &mut Vec<Finding>) {
    for point in registry.points() {
        for id in &point.uses {
            let used = registry.use_of(*id);
            if let (Some(sent), Some((schema, declared))) = (&used.sent, &point.value) {
                let place = Place { file: id.file, at: sent.at };
                let finding = finding(registry, place, &sent.value, &format!("`{}`", point.address), schema, *declared);
                found.extend(finding.map(|finding| finding.about(point.address)));
            }
            for given in &used.given {
                found.extend(passed(registry, id.file, given, point, point.passed()));
            }
        }
    }
}

/// What preparers write out where they return.
fn returned(registry: &Registry, found: &mut Vec<Finding>) {
    let mut told = Vec::new();
    for (callback, point, role) in callbacks(registry) {
        let Some(export) = registry.export(callback).filter(|_| role == Some(Role::Preparer)) else { continue };
        for given in export.returns.iter().flat_map(Returned::given) {
            if !told.contains(&(callback.file, given.at)) {
                let finding = passed(registry, callback.file, given, point, &point.inputs);
                told.extend(finding.iter().map(|_| (callback.file, given.at)));
                found.extend(finding);
            }
        }
    }
}

/// A finding for what is passed on to a point.
fn passed(registry: &Registry, file: FileId, given: &Given, point: &Point, inputs: &[Input]) -> Option<Finding> {
    let input = inputs.iter().find(|input| input.field.name == given.name.name)?;
    let what = format!("`{}` of `{}`", given.name.name, point.address);
    let place = Place { file, at: given.at };
    let finding = finding(registry, place, &given.value, &what, &input.field.schema, input.place)?;
    Some(finding.about(point.address))
}

/// A finding for a value that does not fit.
fn finding(
    registry: &Registry,
    place: Place,
    value: &Value,
    what: &str,
    schema: &Value,
    declared: Place,
) -> Option<Finding> {
    let wrong = misfit(schema, value)?;
    let message = format!("this is no value for {what}: {}", wrong.message);
    let finding = Finding::new(&RULE, registry.layer_of(place), message);
    let finding = finding.at_part(registry, place, &wrong.steps, "this does not fit");
    Some(finding.at(registry, declared, "what it may be is declared here"))
}
