//! A point is used that this layer or one below has dropped

use crate::link::{By, Link, Registry};
use crate::rules::telling::references_from;
use crate::rules::{Example, Finding, Level, Rule};
use crate::source::Place;

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "dropped-in-use",
    level: Level::Error,
    links: &[],
    awaited: false,
    summary: "A point is used that this layer or one below has dropped",
    explanation: "A dropped point emits nothing and is never filled. References from the layers below the one that drops it are quiet; from that layer on, they are mistakes.",
    wrong: Example(&[
        (
            "truehook.toml",
            r##"[region.aside]
label = "Beside the text"
dropped = true
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
    ]),
    right: Example(&[(
        "markup/page.html",
        r##"{% extends "layout.html" %}
"##,
    )]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    for point in registry.points() {
        let Some(By { layer: by, place }) = point.dropped else { continue };
        let mut uses = references_from(registry, point.address, by);
        // Where a feature is dropped, it is named, and that is no use of it.
        let says = |found: &&crate::link::Reference| {
            found.link == Link::FeatureToOffer && found.layer == by && found.from.file == place.file
        };
        uses.retain(|found| !says(found));
        if let Some(layer) = uses.iter().map(|found| found.layer).max() {
            let verb = match uses[0].link {
                Link::AttachmentToPoint => "attached to",
                Link::FillToPoint => "filled",
                Link::ItemToComponent | Link::AttachmentToPartial => "used",
                _ => point.address.kind.verb(),
            };
            let name = registry.project().layer(by).name;
            let message = format!("`{}` is {verb}, but {name} has dropped it", point.address);
            let mut finding = Finding::new(&RULE, layer, message).about(point.address);
            for used in uses.iter().filter(|found| found.layer == layer) {
                finding = finding.at(registry, used.from, "this shows nothing");
            }
            found.push(finding.at(registry, place, "dropped here").mend("take it away, or don't drop the point"));
        }
        // What the preview of a layer below puts there shows nowhere in this theme; its site may have other content.
        let below = point.fills.iter().filter(|(file, _)| registry.project().file(*file).layer < by);
        for (file, fill) in below {
            let Some(fill) = registry.fill_of(*file, *fill) else { continue };
            let owner = registry.project().layer(registry.project().file(*file).layer).name;
            let message = format!("{owner} fills `{}`, which is dropped, so its content shows nowhere", point.address);
            let finding = Finding { level: Level::Note, ..Finding::new(&RULE, by, message).about(point.address) };
            let finding = finding.at(registry, place, "dropped here");
            let finding = finding.at(registry, Place { file: *file, at: fill.to.at }, "this shows nowhere");
            found.push(finding.mend("fill another point with it in preview/site.toml, if it is to show"));
        }
        if point.required {
            let message = format!("`{}` is required, so it can't be dropped", point.address);
            let finding = Finding::new(&RULE, by, message).about(point.address).at(registry, place, "dropped here");
            found.push(finding.at(registry, point.declared[0].place, "required here").mend("take `dropped` away"));
        }
    }
}
