//! A point is used that no layer declares

use std::cell::LazyCell;
use std::collections::BTreeMap;

use rustc_hash::FxHashMap;
use serde_json::Value;

use crate::address::{Address, Kind};
use crate::command_line;
use crate::link::{Link, Registry, Wanted, component_template};
use crate::name::Name;
use crate::names::GLOBALS;
use crate::rules::telling::{inner_named, miss_finding, misses, written};
use crate::rules::{Example, Finding, Level, Rule};
use crate::scan::{FUNCTIONS, SectionKind};
use crate::shell::line;

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
    let given = LazyCell::new(|| given(registry));
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
            finding = finding.mend(declare(&given, *address));
        }
        found.push(finding);
    }
}

/// What is given to each point that no layer declares: names of inputs or arguments, each with a value where one is
/// written out.
type AllGiven = FxHashMap<Address, BTreeMap<Name, Option<Value>>>;

fn given(registry: &Registry) -> AllGiven {
    let mut found = AllGiven::default();
    let lacks = |address: &Address| registry.point(*address).is_none();
    for miss in registry.misses() {
        let Wanted::Point(name) = miss.wanted else { continue };
        if let Some(address) = name.parse::<Address>().ok().filter(lacks).filter(|address| address.kind.is_component())
        {
            let read = read_by_template(registry, address).into_iter().map(|name| (name, None));
            found.entry(address).or_default().extend(read);
        }
    }
    for used in registry.project().file_ids().flat_map(|file| registry.uses_in(file)) {
        if let Some(address) = used.point.address.filter(lacks) {
            let of_point = found.entry(address).or_default();
            of_point.extend(used.args.iter().map(|argument| (argument.name, None)));
            of_point.extend(used.given.iter().map(|given| (given.name.name, Some(given.value.clone()))));
        }
    }
    for placed in registry.items() {
        if let Some(address) = placed.item.component.address.filter(lacks) {
            // An area takes the title of an item for itself.
            let own = placed.item.inputs.iter().filter(|given| given.name.name != "title");
            found.entry(address).or_default().extend(own.map(|given| (given.name.name, Some(given.value.clone()))));
        }
    }
    found
}

/// What the template that would render a component reads, and nothing but an input can be.
fn read_by_template(registry: &Registry, address: Address) -> Vec<Name> {
    let path = format!("markup/{}", component_template(address));
    let file = registry.project().find(registry.project().top(), &path);
    let Some(template) = file.and_then(|file| registry.template(file)) else { return Vec::new() };
    let is_macro = |name: Name| template.sections.iter().any(|section| section.kind == SectionKind::Macro(name));
    let outside = template
        .reads
        .iter()
        .filter(|read| !matches!(template.sections[usize::from(read.section.0)].kind, SectionKind::Macro(_)));
    let names = outside.map(|read| read.path[0].name);
    let known = |name: &str| GLOBALS.contains(&name) || FUNCTIONS.contains(&name);
    names.filter(|name| !known(name) && !is_macro(*name) && !template.assigned.contains(name)).collect()
}

/// The command that declares a point with what is given to it wherever it is used; each may be left out, since it has a
/// default.
fn declare(given: &AllGiven, address: Address) -> String {
    let table = match address.kind {
        Kind::Hook | Kind::Filter => "args",
        kind if kind.is_component() => "inputs",
        _ => return command_line!["declare", address],
    };
    let given = given.get(&address).into_iter().flatten();
    let fields = given.map(|(name, value)| format!("{table}.{name}={}", field(value.as_ref())));
    line(["declare".to_string(), address.to_string()].into_iter().chain(fields))
}

/// A field that takes a value like this one, in TOML.
fn field(value: Option<&Value>) -> &'static str {
    match value {
        Some(Value::String(_)) => "{ type = \"string\", default = \"\" }",
        Some(Value::Bool(_)) => "{ type = \"boolean\", default = false }",
        Some(Value::Number(number)) if number.is_f64() => "{ type = \"number\", default = 0 }",
        Some(Value::Number(_)) => "{ type = \"integer\", default = 0 }",
        Some(Value::Array(_)) => "{ type = \"array\", default = [] }",
        Some(Value::Object(_)) => "{ type = \"object\", default = {} }",
        Some(Value::Null) | None => "{ default = \"\" }",
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
