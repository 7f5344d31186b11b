//! The arguments of a feature are not what it takes

use serde_json::Value;

use crate::link::{Feature, Feed, OFFERED, Point, Registry};
use crate::names::nearest;
use crate::rules::{Example, Finding, Level, Rule};
use crate::schema::{fault, misfit};
use crate::source::Place;

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "feature-arguments",
    level: Level::Error,
    summary: "The arguments of a feature are not what it takes",
    explanation: "The host says which arguments a feature takes. One that it does not know, or that has another type, is not used, and the feature works with its defaults or not at all.",
    wrong: Example(&[(
        "truehook.toml",
        r##"[feature.feeds]
count = "twenty"
"##,
    )]),
    right: Example(&[(
        "truehook.toml",
        r##"[feature.feeds]
count = 20
"##,
    )]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    for point in registry.points.values().filter(|point| registry.is_offered(point)) {
        let Some(feature) = &point.feature else { continue };
        offer(registry, point, feature, found);
        for (place, arguments) in &feature.given {
            given(registry, point, feature, *place, arguments, found);
        }
        if let (Some((place, _)), true) = (feature.given.last(), registry.is_on(point.address)) {
            lacking(registry, point, feature, *place, found);
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
    } else if let Some(wrong) = misfit(&schema, &feature.default).filter(|_| schema.get("required").is_none()) {
        tell(
            format!("the default of `{}` is not what it takes: {}", point.address, wrong.message),
            "default",
            "this does not fit",
        );
    }
    for (feed, place) in &feature.feeds {
        let (Feed::Point(address) | Feed::Input(address, _)) = feed else { continue };
        if registry.point(*address).is_none() {
            let message = format!("`{}` feeds `{address}`, which no layer declares", point.address);
            let finding = Finding::new(&RULE, declared.layer, message).about(point.address);
            found.push(finding.at(registry, *place, "nothing of that name is there"));
        }
    }
}

/// What one layer gives.
fn given(
    registry: &Registry,
    point: &Point,
    feature: &Feature,
    place: Place,
    arguments: &Value,
    found: &mut Vec<Finding>,
) {
    let schema = feature.schema.clone().unwrap_or(Value::Null);
    let table = schema.get("properties").and_then(Value::as_object);
    let known: Vec<&str> = table.into_iter().flatten().map(|(key, _)| key.as_str()).collect();
    let layer = registry.layer_of(place);
    for (key, value) in arguments.as_object().into_iter().flatten() {
        let steps = [key.clone()];
        let Some(property) = table.and_then(|table| table.get(key)) else {
            let label = match nearest(key, known.iter().copied()) {
                Some(near) => format!("did you mean `{near}`?"),
                None if known.is_empty() => "it takes no arguments".to_string(),
                None => format!("it takes {}", known.join(", ")),
            };
            let message = format!("`{}` takes no `{key}`", point.address);
            let finding = Finding::new(&RULE, layer, message).about(point.address);
            let finding = finding.at_part(registry, place, &steps, label);
            found.push(declared_below(registry, point, finding));
            continue;
        };
        let wrong = misfit(property, value).map(|wrong| (wrong.message, wrong.steps));
        let wrong = wrong.or_else(|| Some((no_folder(registry, property, value)?, Vec::new())));
        if let Some((why, below)) = wrong {
            let steps: Vec<String> = steps.into_iter().chain(below).collect();
            let message = format!("this is no `{key}` for `{}`: {why}", point.address);
            let finding = Finding::new(&RULE, layer, message).about(point.address);
            let finding = finding.at_part(registry, place, &steps, "this does not fit");
            found.push(declared_below(registry, point, finding));
        }
    }
}

/// What is needed and given by no layer.
fn lacking(registry: &Registry, point: &Point, feature: &Feature, place: Place, found: &mut Vec<Finding>) {
    let given = feature.effective();
    let needed = feature.schema.as_ref().and_then(|schema| schema.get("required")?.as_array());
    for key in needed.into_iter().flatten().filter_map(Value::as_str) {
        if given.get(key).is_none() {
            let message = format!("`{}` needs `{key}`", point.address);
            let finding = Finding::new(&RULE, registry.layer_of(place), message).about(point.address);
            let finding = finding.at(registry, place, format!("`{key}` belongs here"));
            found.push(declared_below(registry, point, finding));
        }
    }
}

fn declared_below(registry: &Registry, point: &Point, finding: Finding) -> Finding {
    match point.declared.first() {
        Some(offer) => finding.at(registry, offer.place, "the host says here what it takes"),
        None => finding,
    }
}

/// What is wrong with a folder that is named.
fn no_folder(registry: &Registry, property: &Value, value: &Value) -> Option<String> {
    let folder = value.as_str().filter(|_| property.get("format").is_some_and(|format| format == "folder"))?;
    let inside = format!("{}/", folder.trim_end_matches('/'));
    let media = registry.project.layers.iter().flat_map(|layer| &layer.media).map(|path| path.as_str());
    let files = registry.project.files.iter().map(|file| file.path.as_str());
    let there = media.chain(files).any(|path| path.starts_with(&inside));
    (!there).then(|| format!("there is no file in a folder `{folder}`"))
}
