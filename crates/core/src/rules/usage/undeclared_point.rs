//! A point is used that no layer declares

use crate::address::{Address, Kind};
use crate::command_line;
use crate::link::{Link, Registry};
use crate::rules::telling::{inner_named, miss_finding, misses, written};
use crate::rules::{Example, Finding, Level, Rule};

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "undeclared-point",
    level: Level::Error,
    links: &[
        Link::PlaceToPoint,
        Link::PlaceToComponent,
        Link::ThroughToFilter,
        Link::AttachmentToPoint,
        Link::AttachmentToPartial,
        Link::HoldsToComponent,
        Link::ItemToComponent,
    ],
    awaited: false,
    summary: "A point is used that no layer declares",
    explanation: "It shows nothing. Most often the name is misspelt, or the base theme's new release has another name for it.",
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
  {{ place("region:asid") }}
{% endblock %}
"##,
        ),
    ]),
    right: Example(&[(
        "markup/page.html",
        r##"{% extends "layout.html" %}
{% block main %}
  <main>{{ place("region:main") }}</main>
  {{ place("region:aside") }}
{% endblock %}
"##,
    )]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    for miss in misses(registry, &RULE) {
        let name = written(registry, miss);
        let verb = match miss.link {
            Link::AttachmentToPoint => "attached to",
            Link::AttachmentToPartial | Link::ItemToComponent => "used",
            Link::ThroughToFilter => "sent through",
            _ => "placed",
        };
        // A section's own piece is there, and told as what may not be held elsewhere.
        if inner_named(registry, name).is_some() {
            continue;
        }
        let address = name.parse::<Address>();
        let (message, label) = match &address {
            Err(error) => (error.to_string(), "an address belongs here".to_string()),
            Ok(address) if registry.point(*address).is_some() => {
                (format!("`{name}` can't be {verb}"), wrong_kind(*address, miss.link))
            }
            Ok(_) if miss.link == Link::AttachmentToPoint => {
                let message = format!("something is attached to `{name}`, but no layer declares it");
                (message, "not declared anywhere".to_string())
            }
            Ok(_) => (format!("`{name}` is {verb}, but no layer declares it"), "not declared anywhere".to_string()),
        };
        let mut finding = miss_finding(registry, &RULE, miss, message, &label);
        finding.point = address.as_ref().ok().map(Address::to_string);
        if let (Ok(address), None) = (&address, &finding.mend) {
            finding = finding.mend(command_line!["declare", address]);
        }
        found.push(finding);
    }
}

/// What to do instead with a point that is there, but of a kind that can't be used like this.
fn wrong_kind(address: Address, link: Link) -> String {
    match link {
        Link::AttachmentToPartial | Link::ItemToComponent => "a component belongs here".into(),
        Link::ThroughToFilter => "a filter belongs here".into(),
        _ if address.kind == Kind::Filter => format!("write {{{{ value | through(\"{address}\") }}}}"),
        _ => format!("a {} is not placed; the page's type chooses it", address.kind),
    }
}
