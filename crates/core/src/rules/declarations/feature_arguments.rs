//! The arguments of a feature are not what it takes

use serde_json::Value;

use crate::link::{Feature, Fed, Feed, Given, OFFERED, Point, Registry};
use crate::names::nearest;
use crate::rules::{Example, Finding, Level, Rule, switch_on};
use crate::schema::{fault, misfit};
use crate::source::Place;

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "feature-arguments",
    level: Level::Error,
    links: &[],
    awaited: true,
    summary: "The arguments of a feature are not what it takes",
    explanation: "The host says which arguments a feature takes. One that it does not know, or that has another type, is not used, and the feature works with its defaults or not at all.",
    wrong: Example(&[(
        "truehook.toml",
        r##"[feature.newsfeed]
count = "twenty"
"##,
    )]),
    right: Example(&[(
        "truehook.toml",
        r##"[feature.newsfeed]
count = 20
"##,
    )]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    for point in registry.points().filter(|point| registry.is_offered(point)) {
        let Some(feature) = &point.feature else { continue };
        offer(registry, point, feature, found);
        for given in &feature.given {
            arguments(registry, point, feature, given, found);
        }
        let last = feature.given.last().filter(|_| point.dropped.is_none() && !feature.given.is_empty());
        if let Some(last) = last {
            lacking(registry, point, feature, last.place, found);
        }
    }
}

/// What the host itself says of the feature.
fn offer(registry: &Registry, point: &Point, feature: &Feature, found: &mut Vec<Finding>) {
    let Some(declared) = point.declared.first() else { return };
    let mut tell = |message: String, key: &str, label: &str| {
        let finding = Finding::new(&RULE, declared.layer, message).about(point.address);
        found.push(finding.at_part(registry, declared.place, &[key.to_string()], label));
    };
    for key in &feature.strange {
        let label = match nearest(key, OFFERED) {
            Some(near) => format!("did you mean `{near}`?"),
            None => "a host says arguments, default and feeds".to_string(),
        };
        tell(format!("the offer of `{}` has no key `{key}`", point.address), key, &label);
    }
    let schema = feature.schema.clone().unwrap_or(Value::Null);
    if let Some(why) = fault(&schema) {
        tell(format!("this is no JSON Schema: {why}"), "arguments", "what a feature takes is said in JSON Schema");
    } else if schema.get("required").is_none()
        && feature.always.as_object().is_some_and(|always| !always.is_empty())
        && let Some(wrong) = misfit(&schema, &feature.always)
    {
        tell(
            format!("the default of `{}` is not what it takes: {}", point.address, wrong.message),
            "default",
            "this does not fit",
        );
    }
    for Fed { feed, place, argument } in &feature.feeds {
        if let Some(argument) = argument.filter(|argument| feature.property(argument).is_none()) {
            let message = format!("`{}` takes no `{argument}`, which is to feed `{feed}`", point.address);
            let finding = Finding::new(&RULE, declared.layer, message).about(point.address);
            found.push(finding.at(registry, *place, "no argument of that name is there"));
        }
        let (Feed::Point(address) | Feed::Input(address, _)) = feed else { continue };
        if registry.point(*address).is_none() {
            let message = format!("`{}` feeds `{address}`, which no layer declares", point.address);
            let finding = Finding::new(&RULE, declared.layer, message).about(point.address);
            found.push(finding.at(registry, *place, "nothing of that name is there"));
        }
    }
}

/// What one layer gives.
fn arguments(registry: &Registry, point: &Point, feature: &Feature, given: &Given, found: &mut Vec<Finding>) {
    let layer = registry.layer_of(given.place);
    for (key, value) in given.arguments.as_object().into_iter().flatten() {
        let steps = [key.clone()];
        let asked = point.address.with_argument(key.as_str().into());
        let Some(property) = feature.property(key) else {
            if registry.blind().declarations {
                continue;
            }
            let known: Vec<&str> = feature.takes().collect();
            let label = match nearest(key, known.iter().copied()) {
                Some(near) => format!("did you mean `{near}`?"),
                None if known.is_empty() => "it takes no arguments".to_string(),
                None => format!("it takes {}", known.join(", ")),
            };
            let message = format!("`{}` takes no `{key}`", point.address);
            let finding = Finding::new(&RULE, layer, message).about(point.address);
            let finding = finding.at_part(registry, given.place, &steps, label);
            found.push(declared_below(registry, point, finding));
            continue;
        };
        // What is taken away needs no other value.
        let Some(value) = feature.meant_by(key, value).map(without_dropped) else { continue };
        let wrong = misfit(property, &value).map(|wrong| (wrong.message, wrong.steps));
        let wrong = wrong.or_else(|| Some((no_folder(registry, property, &value)?, Vec::new())));
        let wrong = wrong.or_else(|| no_type(registry, property, &value));
        let wrong = wrong.or_else(|| same_label(property, &value));
        if let Some((why, below)) = wrong {
            let steps: Vec<String> = steps.into_iter().chain(below).collect();
            let message = format!("this is no `{key}` for `{}`: {why}", point.address);
            let finding = Finding::new(&RULE, layer, message).about(asked);
            let finding = finding.at_part(registry, given.place, &steps, "this does not fit");
            found.push(declared_below(registry, point, finding));
        }
    }
}

/// A value without the entries that it takes away from the layers below.
fn without_dropped(value: Value) -> Value {
    match value {
        Value::Object(table) => {
            let stays = |entry: &Value| entry.get("dropped") != Some(&Value::Bool(true));
            table.into_iter().filter(|(_, entry)| stays(entry)).collect()
        }
        other => other,
    }
}

/// What is needed and given by no layer.
fn lacking(registry: &Registry, point: &Point, feature: &Feature, place: Place, found: &mut Vec<Finding>) {
    let given = feature.effective();
    let mut tell = |message: String, label: String| {
        let finding = Finding::new(&RULE, registry.layer_of(place), message).about(point.address);
        found.push(declared_below(registry, point, finding.at(registry, place, label)));
    };
    let needed = feature.schema.as_ref().and_then(|schema| schema.get("required")?.as_array());
    for key in needed.into_iter().flatten().filter_map(Value::as_str) {
        if given.get(key).is_none() {
            tell(format!("`{}` needs `{key}`", point.address), format!("`{key}` belongs here"));
        }
    }
    // An argument that is wrong is told by itself.
    let silent = feature.given.iter().all(|given| given.arguments.as_object().is_none_or(|table| table.is_empty()));
    if feature.is_by_argument() && given.is_empty() && silent {
        let message = format!("`{}` does nothing without an argument", point.address);
        let label = format!("it takes {}", feature.takes().collect::<Vec<_>>().join(", "));
        let finding = Finding::new(&RULE, registry.layer_of(place), message).about(point.address);
        let finding = declared_below(registry, point, finding.at(registry, place, label));
        found.push(finding.mend(switch_on(registry, point.address)));
    }
}

fn declared_below(registry: &Registry, point: &Point, finding: Finding) -> Finding {
    match point.declared.first() {
        Some(offer) => finding.at(registry, offer.place, "the host says here what it takes"),
        None => finding,
    }
}

/// What is wrong with a list of types of pages, and the steps to it.
fn no_type(registry: &Registry, property: &Value, value: &Value) -> Option<(String, Vec<String>)> {
    property.get("items")?.get("format").filter(|format| *format == "type")?;
    let known = || registry.types().iter().map(|page_type| page_type.name.as_str());
    let at = value.as_array()?.iter().position(|name| !known().any(|known| name == known))?;
    let name = value.get(at)?.as_str()?;
    let near = nearest(name, known()).map_or(String::new(), |near| format!("; did you mean `{near}`?"));
    Some((format!("there is no type of page `{name}`{near}"), vec![at.to_string()]))
}

/// Two entries of a table that editors would choose from by one label, and the steps to the second.
fn same_label(property: &Value, value: &Value) -> Option<(String, Vec<String>)> {
    property.get("additionalProperties")?.get("properties")?.get("label")?;
    let mut seen: Vec<(&str, &String)> = Vec::new();
    for (name, entry) in value.as_object()? {
        let Some(label) = entry.get("label").and_then(Value::as_str) else { continue };
        if let Some((_, first)) = seen.iter().find(|(known, _)| *known == label) {
            return Some((format!("`{first}` and `{name}` have the same label, “{label}”"), vec![name.clone()]));
        }
        seen.push((label, name));
    }
    None
}

/// What is wrong with a folder that is named.
fn no_folder(registry: &Registry, property: &Value, value: &Value) -> Option<String> {
    let folder = value.as_str().filter(|_| property.get("format").is_some_and(|format| format == "folder"))?;
    let inside = format!("{}/", folder.trim_end_matches('/'));
    let media = registry.project().layers.iter().flat_map(|layer| &layer.media).map(|path| path.as_str());
    let files = registry.project().files.iter().map(|file| file.path.as_str());
    let there = media.chain(files).any(|path| path.starts_with(&inside));
    (!there).then(|| format!("there is no file in a folder `{folder}`"))
}
