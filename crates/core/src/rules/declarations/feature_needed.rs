//! A feature is used, but not switched on

use super::feature_unshown::would_show;
use crate::address::Address;
use crate::command_line;
use crate::link::{Link, Reference, Registry, Wanted};
use crate::read::FileKind;
use crate::rules::telling::{list, miss_finding, misses};
use crate::rules::{Example, Finding, Level, Rule};

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "feature-needed",
    level: Level::Warning,
    links: &[Link::FeedToFeature],
    awaited: false,
    summary: "A feature is used, but not switched on",
    explanation: "What a feature feeds stays empty until the theme switches it on: a variable that is always absent, a colour that is not set, a message that is never translated.",
    wrong: Example(&[(
        "markup/page.html",
        r##"{% extends "layout.html" %}
{% block main %}
  <ol>{% for step in page.trail %}<li>{{ step.label }}</li>{% endfor %}</ol>
  <main>{{ place("region:main") }}</main>
{% endblock %}
"##,
    )]),
    right: Example(&[(
        "truehook.toml",
        r##"[feature.breadcrumbs]
"##,
    )]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    for miss in misses(registry, &RULE) {
        if let Wanted::Property(feature, name) = miss.wanted {
            let message = format!("`{name}` is read, but `{feature}` does not set it");
            found.push(miss_finding(registry, &RULE, miss, message, "this has no value").about(feature));
            continue;
        }
        let Wanted::Feature(feature) = miss.wanted else { continue };
        // A copy of a lower layer's template asks what that one asked.
        if miss.references.iter().all(|at| is_of_copy(registry, &registry.references()[*at])) {
            continue;
        }
        let mut uses: Vec<String> = Vec::new();
        for at in &miss.references {
            let word = format!("`{}`", registry.references()[*at].written);
            if !uses.contains(&word) {
                uses.push(word);
            }
        }
        uses.truncate(3);
        let verb = if uses.len() == 1 { "needs" } else { "need" };
        // A question for a feature names the feature itself.
        let message = match uses.as_slice() {
            [only] if *only == format!("`{feature}`") => {
                format!("`{feature}` is asked for, but the theme does not switch it on")
            }
            _ => format!("{} {verb} `{feature}`, which the theme does not switch on", list(&uses)),
        };
        let finding = miss_finding(registry, &RULE, miss, message, "nothing comes of this").about(feature);
        let finding = finding.at_declaration(registry, feature, "the host offers it here");
        found.push(finding.mend(switch_on(registry, feature)));
    }
}

/// Does this stand in a template that was taken over as a copy?
fn is_of_copy(registry: &Registry, reference: &Reference) -> bool {
    let source = registry.project().file(reference.from.file);
    let manifests = registry.manifests().into_iter().filter(|(layer, _)| *layer == source.layer);
    let mut copies = manifests.filter_map(|(_, file)| registry.manifest(file)).flat_map(|manifest| &manifest.adopted);
    source.kind == FileKind::Template && copies.any(|copy| copy.template.name.as_str() == source.name())
}

/// What switches a feature on, or gives it one argument: a command where that is enough.
pub fn switch_on(registry: &Registry, asked: Address) -> String {
    let Some(point) = registry.point(asked) else { return command_line!["declare", asked] };
    let (address, name) = (point.address, point.address.name);
    if point.dropped.is_some() {
        return format!("take `dropped` away from [feature.{name}]");
    }
    let Some(feature) = point.feature.as_deref() else { return command_line!["declare", address] };
    let has_default =
        |argument: &&str| feature.property(argument).is_some_and(|schema| schema.get("default").is_some());
    let with = |argument: &str| command_line!["declare", address, format!("{argument}=true")];
    let needed = feature.schema.as_ref().and_then(|schema| schema.get("required")?.as_array());
    let needed: Vec<String> =
        needed.into_iter().flatten().filter_map(|key| Some(format!("`{}`", key.as_str()?))).collect();
    match asked.argument() {
        Some((_, argument)) if has_default(&argument) => with(argument),
        Some((_, argument)) => format!("give [feature.{name}] its `{argument}` in truehook.toml"),
        None if !needed.is_empty() => format!("add [feature.{name}] with its {} to truehook.toml", list(&needed)),
        None if !feature.is_by_argument() => command_line!["declare", address],
        // By itself the bare table does nothing.
        None => {
            match feature.takes().filter(has_default).find(|argument| would_show(registry, point, feature, argument)) {
                Some(argument) => with(argument),
                None => {
                    let all: Vec<String> = feature.takes().map(|argument| format!("`{argument}`")).collect();
                    format!("give [feature.{name}] an argument in truehook.toml: {}", list(&all))
                }
            }
        }
    }
}
