//! A feature that the host does not offer

use crate::link::{Link, Registry, Wanted};
use crate::rules::telling::{miss_finding, misses};
use crate::rules::{Example, Finding, Level, Rule};

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "unknown-feature",
    level: Level::Error,
    links: &[Link::FeatureToOffer],
    awaited: false,
    summary: "A feature that the host does not offer",
    explanation: "A theme switches on what its host offers. What the host does not know does nothing, and nobody tells.",
    wrong: Example(&[(
        "truehook.toml",
        r##"[feature.newsfed]
"##,
    )]),
    right: Example(&[(
        "truehook.toml",
        r##"[feature.newsfeed]
"##,
    )]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    for miss in misses(registry, &RULE) {
        let Wanted::Point(name) = miss.wanted else { continue };
        let message = format!("`{name}` is switched on or asked for, but the host does not offer it");
        let finding = miss_finding(registry, &RULE, miss, message, "the host offers nothing like it");
        let mut finding = finding;
        for reference in miss.references.iter().map(|at| registry.references()[*at]) {
            let span = registry.span(reference.from);
            let fed = finding.places.iter_mut().find(|place| (place.file, place.span) == (reference.from.file, span));
            if let (Some(place), Link::FeedToFeature) = (fed, reference.link) {
                place.label = format!("`{}` needs it", reference.written);
            }
        }
        let finding = match finding.mend {
            None => finding.mend("take it away; truehook list feature shows what the host offers"),
            Some(_) => finding,
        };
        found.push(Finding { point: Some(name.to_string()), ..finding });
    }
}
