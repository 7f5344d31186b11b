//! A value does not fit the input, argument or option that it is given to

use rustc_hash::FxHashSet;
use serde_json::Value;

use crate::address::{Address, Kind, Role};
use crate::link::{Breach, BreachKind, Input, Link, Point, Registry, Wanted};
use crate::names::{certain, nearest};
use crate::rules::conditions::condition_constant::conditions;
use crate::rules::telling::{callbacks, list, miss_finding, misses, rewrite, writing};
use crate::rules::{Example, Finding, Level, Rule};
use crate::scan::{Compared, Given, Returned, Shape};
use crate::schema::{Misfit, misfit};
use crate::source::{FileId, Place};

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "input-value",
    level: Level::Error,
    links: &[Link::ValueToEntry],
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
    for miss in misses(registry, &RULE) {
        let Wanted::Entry(asked, name) = miss.wanted else { continue };
        let message = format!("`{name}` is no entry of `{asked}`");
        let finding = miss_finding(registry, &RULE, miss, message, "there is no such entry").about(asked);
        found.push(finding.at_declaration(registry, asked.whole(), "its entries are here"));
    }
    items(registry, found);
    uses(registry, found);
    returned(registry, found);
    compared(registry, found);
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
            for given in used.given.iter().filter(|_| point.address.kind == Kind::Menu) {
                let word = match given.name.name.as_str() {
                    "class" => "string",
                    "bare" => "boolean",
                    _ => continue,
                };
                let schema = serde_json::json!({ "type": word });
                let what = format!("`{}` of `{}`", given.name.name, point.address);
                let declared = point.declared.last().map(|declared| declared.place);
                let place = Place { file: id.file, at: given.at };
                let finding = finding(registry, place, &given.value, &what, &schema, declared.unwrap_or(place));
                found.extend(finding.map(|finding| finding.about(point.address)));
            }
            for given in &used.given {
                found.extend(passed(registry, id.file, given, point, point.passed()));
            }
        }
    }
}

/// What filters and preparers write out where they return.
fn returned(registry: &Registry, found: &mut Vec<Finding>) {
    let mut told = FxHashSet::default();
    for (callback, point, role) in callbacks(registry) {
        if let (Some(Role::Filter), Some((schema, declared))) = (role, &point.value) {
            // A text that is given for markup is text, whatever it says.
            let markup = schema.get("type").is_some_and(|word| word == "markup");
            for returned in registry.export(callback).iter().flat_map(|export| &export.returns).filter(|_| !markup) {
                let Returned::Value(at, value) = returned else { continue };
                let place = Place { file: callback.file, at: *at };
                let finding = finding(registry, place, value, &format!("`{}`", point.address), schema, *declared);
                found.extend(finding.map(|finding| finding.about(point.address)));
            }
        }
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

/// What options and types of pages are compared with, and can never be.
fn compared(registry: &Registry, found: &mut Vec<Finding>) {
    if registry.blind().declarations {
        return;
    }
    for (at, facts) in registry.all_facts().iter().enumerate() {
        let all = match &facts.shape {
            Shape::Template(template) => &template.compared,
            Shape::Module(module) => &module.compared,
            _ => continue,
        };
        found.extend(all.iter().filter_map(|one| never(registry, FileId(at as u32), one)));
    }
    for (file, when, point) in conditions(registry) {
        // One that can never hold is told as a whole.
        if when.compared.is_empty() || !registry.can_hold(when) {
            continue;
        }
        for one in &when.compared {
            let finding = never(registry, file, one);
            found.extend(finding.map(|finding| match point {
                Some(point) => finding.about(point),
                None => finding,
            }));
        }
    }
}

/// A finding for a value that an option or the type of a page never has.
fn never(registry: &Registry, file: FileId, compared: &Compared) -> Option<Finding> {
    let place = Place { file, at: compared.value.at };
    let value = &compared.value.value;
    let name = compared.name.as_str();
    // As a rule it is the name of a type.
    let known = value.as_str().filter(|_| name == "page.type");
    if let Some(at) = known.and_then(|text| registry.types().iter().position(|known| known.name == *text)) {
        let here =
            registry.template(file).map(|_| registry.unguarded_types(file, compared.section)).unwrap_or_default();
        if here.is_empty() || here.has(at) {
            return None;
        }
        let message = format!("`page.type` is never {value} here");
        let label = format!("only pages of type {} get here", list(&registry.type_names(here)));
        let finding = Finding::new(&RULE, registry.layer_of(place), message).at(registry, place, label);
        return Some(finding.mend("compare it with a type that gets here, or take the question away"));
    }
    let closed = registry.closed_values(name);
    let words: Vec<&str> = closed.iter().flatten().filter_map(Value::as_str).collect();
    let option = name.strip_prefix("options.").and_then(|option| registry.point(Address::new(Kind::Option, option)));
    match (&closed, option) {
        _ if value.is_null() => return None,
        (Some(closed), _) if closed.contains(value) => return None,
        (None, Some(option)) => {
            misfit(option.schema()?, value)?;
        }
        (None, None) => return None,
        _ => {}
    }
    let message = format!("`{name}` is never {value}");
    let near = value.as_str().and_then(|text| nearest(text, words.iter().copied()));
    let label = match (near, words.as_slice()) {
        (Some(near), _) => format!("did you mean `{near}`?"),
        (None, []) => "it never has this value".to_string(),
        (None, words) => format!("it is one of {}", list(words)),
    };
    // What a layer has made of an option holds for those below.
    let layer = option
        .and_then(|option| option.layer())
        .map_or(registry.layer_of(place), |layer| layer.max(registry.layer_of(place)));
    let mut finding = Finding::new(&RULE, layer, message).at(registry, place, label);
    if let Some(option) = option {
        finding =
            finding.about(option.address).at_declaration(registry, option.address, "what it may be is declared here");
    }
    finding.mend = near.map(|near| {
        let safe = value.as_str().is_some_and(|text| certain(text, words.iter().copied()).is_some());
        writing(near, safe, [value.as_str().and_then(|old| rewrite(registry, place, old, near))])
    });
    Some(finding)
}

/// A finding for what is passed on to a point.
fn passed(registry: &Registry, file: FileId, given: &Given, point: &Point, inputs: &[Input]) -> Option<Finding> {
    let input = inputs.iter().find(|input| input.field.name == given.name.name)?;
    let wrong = misfit(&input.field.schema, &given.value)?;
    // What a layer has made of it against those below is told there.
    let changed = |breach: &Breach| {
        breach.point == point.address
            && matches!(breach.kind, BreachKind::Type { name: Some(name), .. } if name == given.name.name)
    };
    if registry.breaches().iter().any(changed) {
        return None;
    }
    let what = format!("`{}` of `{}`", given.name.name, point.address);
    let place = Place { file, at: given.at };
    Some(told(registry, place, &wrong, &what, input.place).about(point.address))
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
    misfit(schema, value).map(|wrong| told(registry, place, &wrong, what, declared))
}

fn told(registry: &Registry, place: Place, wrong: &Misfit, what: &str, declared: Place) -> Finding {
    let message = format!("this is no value for {what}: {}", wrong.message);
    let finding = Finding::new(&RULE, registry.layer_of(place), message);
    let finding = finding.at_part(registry, place, &wrong.steps, "this does not fit");
    finding.at(registry, declared, "what it may be is declared here")
}
