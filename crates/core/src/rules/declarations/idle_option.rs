//! An option that nothing reads

use rustc_hash::FxHashSet;

use crate::address::{Kind, Role};
use crate::link::{Link, Outcome, Registry, Target};
use crate::name::Name;
use crate::names;
use crate::rules::telling::callbacks;
use crate::rules::{Example, Finding, Level, Rule};
use crate::scan::Shape;

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "idle-option",
    level: Level::Warning,
    links: &[],
    awaited: true,
    summary: "An option that nothing reads",
    explanation: "Whatever the site chooses, nothing changes. Templates, conditions and callbacks read options; where one of them hands all options on, what is read can't be seen, and nothing is reported. The options of a theme that others build on may be read there.",
    wrong: Example(&[
        (
            "truehook.toml",
            r##"[option.scheme]
label = "Colour scheme"
type = "string"
enum = ["day", "night"]
default = "day"
"##,
        ),
        (
            "preview/site.toml",
            r##"options = { scheme = "night" }
"##,
        ),
    ]),
    right: Example(&[(
        "markup/page.html",
        r##"{% extends "layout.html" %}
{% block main %}
  <main class="{{ options.scheme }}">{{ place("region:main") }}</main>
{% endblock %}
"##,
    )]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    let blind = registry.blind();
    if blind.placements || blind.declarations || hands_all_on(registry) {
        return;
    }
    // The options that something leads to, but where the site chooses; and what callbacks read.
    let is_option = |target: &Target| matches!(target, Target::Point(address) if address.kind == Kind::Option);
    let asked: FxHashSet<Target> = registry
        .references()
        .iter()
        .filter(|reference| reference.link != Link::ChoiceToOption)
        .filter_map(|reference| match reference.outcome {
            Outcome::Found(found) => Some(found),
            Outcome::Missing { meant, .. } => meant.map(|meant| meant.target),
            Outcome::Unknown => None,
        })
        .filter(is_option)
        .collect();
    let modules = registry.all_facts().iter().filter_map(|facts| match &facts.shape {
        Shape::Module(module) => Some(module),
        _ => None,
    });
    let taken = modules.flat_map(|module| &module.exports).flat_map(|export| &export.takes);
    let taken: FxHashSet<Name> = taken
        .filter_map(|taken| match taken.path.as_slice() {
            [root, option, ..] if root.named.name == "options" => Some(option.named.name),
            _ => None,
        })
        .collect();
    for point in registry.points().filter(|point| point.address.kind == Kind::Option && point.dropped.is_none()) {
        let Some(declared) = point.declared.last().filter(|declared| declared.layer.index() > 0) else { continue };
        let target = Target::Point(point.address);
        let read = asked.contains(&target);
        // A callback that runs nowhere is told by itself, and reads it all the same.
        let by_code = taken.contains(&point.address.name);
        let for_others = point.declared.iter().any(|declared| registry.project().layer(declared.layer).open);
        let misnamed = !names::is_snake(&point.address.name);
        if read || by_code || for_others || misnamed || registry.is_meant(target) {
            continue;
        }
        let message = format!("nothing reads `{}`", point.address);
        let mut finding = Finding::new(&RULE, declared.layer, message).about(point.address);
        finding = finding.at(registry, declared.place, "declared here");
        for reference in registry.references() {
            if reference.link == Link::ChoiceToOption && reference.outcome == Outcome::Found(target) {
                finding = finding.at(registry, reference.from, "chosen here, and read nowhere");
            }
        }
        found.push(finding.mend(format!("read it: {{{{ options.{} }}}}, or take it away", point.address.name)));
    }
}

/// Does something take the options as a whole, or ask for one whose name can't be seen?
fn hands_all_on(registry: &Registry) -> bool {
    let templates = registry.all_facts().iter().any(|facts| match &facts.shape {
        Shape::Template(template) => template
            .reads
            .iter()
            .any(|read| read.path[0].name == "options" && read.path.get(1).is_none_or(|second| second.name.is_empty())),
        _ => false,
    });
    templates
        || callbacks(registry).into_iter().any(|(callback, _, role)| {
            let context = u8::from(role != Some(Role::Listener));
            let takes = registry.export(callback).map_or(&[][..], |export| &export.takes);
            takes.iter().filter(|taken| taken.whole && taken.param == context).any(|taken| {
                let names: Vec<&str> = taken.path.iter().map(|step| step.named.name.as_str()).collect();
                names.is_empty() || names == ["options"]
            })
        })
}
