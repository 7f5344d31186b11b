//! A use of a point does not pass on an argument that has no default

use crate::name::Name;
use indexmap::IndexMap;

use crate::address::Address;
use crate::link::{MissingArgument, Registry};
use crate::rules::{Example, Finding, Level, Rule};
use crate::source::Place;

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "missing-argument",
    level: Level::Error,
    links: &[],
    awaited: true,
    summary: "A use of a point does not pass on an argument that has no default",
    explanation: "The component or callback would have to do without a value that it counts on.",
    wrong: Example(&[
        (
            "truehook.toml",
            r##"[hook.under-text]
args.tide = { type = "string" }
"##,
        ),
        (
            "markup/page.html",
            r##"{% extends "layout.html" %}
{% block main %}
  <main>{{ place("region:main") }}</main>
  {{ place("hook:under-text") }}
{% endblock %}
"##,
        ),
    ]),
    right: Example(&[(
        "markup/page.html",
        r##"{% extends "layout.html" %}
{% block main %}
  <main>{{ place("region:main") }}</main>
  {{ place("hook:under-text", tide="low") }}
{% endblock %}
"##,
    )]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    // The same argument may be missing in many places; that is one finding.
    let mut groups: IndexMap<(Address, Name), Vec<(Place, Place)>> = IndexMap::new();
    for MissingArgument { point: address, name, from, declared } in registry.missing_arguments() {
        groups.entry((*address, *name)).or_default().push((*from, *declared));
    }
    for ((address, name), mut places) in groups {
        places.sort_by_key(|(from, _)| (std::cmp::Reverse(registry.layer_of(*from)), *from));
        let layer =
            places.iter().flat_map(|(from, declared)| [*from, *declared]).map(|place| registry.layer_of(place)).max();
        let message = format!("`{address}` needs `{name}`, which has no default and is not given");
        let mut finding = Finding::new(&RULE, layer.unwrap_or(registry.project().top()), message).about(address);
        for (from, _) in &places {
            finding = finding.at(registry, *from, format!("`{name}` is not given here"));
        }
        found.push(finding.at(registry, places[0].1, "declared here").mend("pass it on, or give it a default"));
    }
}
