//! The site fills a point that is not there

use crate::address::{Address, Kind};
use crate::command_line;
use crate::link::{Link, Registry};
use crate::rules::telling::{miss_finding, misses, written};
use crate::rules::{Example, Finding, Level, Rule};

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "fill-target",
    level: Level::Error,
    links: &[Link::FillToPoint],
    awaited: false,
    summary: "The site fills a point that is not there",
    explanation: "What was put into it would vanish from the page. Most often the name is misspelt, or the theme that the site comes from had such a region and this one has not.",
    wrong: Example(&[
        (
            "truehook.toml",
            r##"[region.aside]
label = "Beside the text"

[partial.note]
about = "A note"
"##,
        ),
        (
            "markup/partials/note.html",
            r##"<p>Boots needed.</p>
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
"region:asid" = [ { use = "partial:note" } ]
"##,
        ),
    ]),
    right: Example(&[(
        "preview/site.toml",
        r##"[fill]
"region:aside" = [ { use = "partial:note" } ]
"##,
    )]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    for miss in misses(registry, &RULE) {
        let name = written(registry, miss);
        let (message, label, mend) = match name.parse::<Address>() {
            Err(error) => {
                let mend = "name a region, an area or a menu spot, as in `region:aside`";
                (error.to_string(), "an address belongs here", mend.to_string())
            }
            Ok(address) if !address.kind.is_filled() => {
                let mend = match address.kind {
                    Kind::Hook => "take it away; a partial can be attached to a hook in the manifest",
                    _ => "take it away",
                };
                (format!("{} can't be filled", address.kind.one()), "a region belongs here", mend.to_string())
            }
            Ok(_) => {
                let message = format!("`{name}` is filled, but no layer declares it");
                (message, "this content would vanish", command_line!["declare", name])
            }
        };
        let mut finding = miss_finding(registry, &RULE, miss, message, label);
        finding.point = Some(name.to_string());
        if finding.mend.is_none() {
            finding = finding.mend(mend);
        }
        found.push(finding);
    }
}
