//! A template reads a variable that is not there

use crate::address::{Address, Kind};
use crate::link::{Link, Registry, Wanted};
use crate::rules::telling::{miss_finding, misses};
use crate::rules::{Example, Finding, Level, Rule};

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "unknown-variable",
    level: Level::Error,
    links: &[Link::VariableToName],
    awaited: false,
    summary: "A template reads a variable that is not there",
    explanation: "It would print nothing. A template sees page, site, theme and options; that of a component sees its declared inputs too, and an include what its includer sees.",
    wrong: Example(&[(
        "markup/page.html",
        r##"{% extends "layout.html" %}
{% block main %}
  <main>{{ place("region:main") }}</main>
  <h1>{{ page.titel }}</h1>
{% endblock %}
"##,
    )]),
    right: Example(&[(
        "markup/page.html",
        r##"{% extends "layout.html" %}
{% block main %}
  <main>{{ place("region:main") }}</main>
  <h1>{{ page.title }}</h1>
{% endblock %}
"##,
    )]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    for miss in misses(registry, &RULE) {
        let reference = &registry.references()[miss.references[0]];
        let (message, label, point) = match miss.wanted {
            Wanted::Input(address, name) => {
                let message = format!("`{name}` is read, but `{address}` has no such input");
                (message, format!("declare it: truehook declare {address} inputs.{name}.type=string"), Some(address))
            }
            Wanted::Variable(_, name) => (
                format!("`{name}` is read, but there is no such variable"),
                "nothing of that name is there".to_string(),
                None,
            ),
            Wanted::Option(name) => (
                format!("`options.{name}` is read, but the theme has no such option"),
                format!("declare it: truehook declare option:{name} type=string default=…"),
                Some(Address::new(Kind::Option, name)),
            ),
            _ => (format!("there is no `{}`", reference.written), String::new(), None),
        };
        let mut finding = miss_finding(registry, &RULE, miss, message, &label);
        finding.point = point.map(|point| point.to_string());
        if let (Some(point), None) = (point, miss.meant) {
            let place = registry.point(point).and_then(|point| point.declared.last()).map(|declared| declared.place);
            finding = place
                .into_iter()
                .fold(finding, |finding, place| finding.at(registry, place, "its inputs are declared here"));
        }
        found.push(finding);
    }
}
