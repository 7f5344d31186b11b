//! A template reads a variable that is not there

use crate::address::{Address, Kind};
use crate::command_line;
use crate::link::{Link, PAGE_KEYS, Registry, Renderer, Types, Wanted, menu_partial};
use crate::name::Name;
use crate::names::nearest;
use crate::rules::telling::{list, miss_finding, misses};
use crate::rules::{Example, Finding, Level, Rule};
use crate::scan::{Shape, Verb};
use crate::source::{FileId, FileKind, Place};

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
    of_other_types(registry, found);
    of_entries(registry, found);
    for miss in misses(registry, &RULE) {
        let reference = &registry.references()[miss.references[0]];
        let (message, label, point) = match miss.wanted {
            Wanted::Input(address, name) => {
                let message = format!("`{name}` is read, but `{address}` has no such input");
                (
                    message,
                    format!("declare it: {}", command_line!["declare", address, format!("inputs.{name}.type=string")]),
                    Some(address),
                )
            }
            Wanted::Variable(_, name) => (
                format!("`{name}` is read, but there is no such variable"),
                "nothing of that name is there".to_string(),
                None,
            ),
            Wanted::Option(name) => (
                format!("`options.{name}` is read, but the theme has no such option"),
                format!(
                    "declare it: {}",
                    command_line!["declare", format!("option:{name}"), "type=string", "default=…"]
                ),
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

/// Keys of a list's entries that those don't have.
fn of_entries(registry: &Registry, found: &mut Vec<Finding>) {
    if registry.blind().declarations {
        return;
    }
    for (at, facts) in registry.all_facts().iter().enumerate() {
        let Shape::Template(template) = &facts.shape else { continue };
        let file = FileId(at as u32);
        let mut told: Vec<(Name, Name)> = Vec::new();
        for read in &template.entry_reads {
            let (list, key) = (read.list, read.key.name);
            let Some(known) = entry_keys(registry, file, list) else { continue };
            if known.contains(&key) || told.contains(&(list, key)) {
                continue;
            }
            // What an arranger adds to the entries of a menu is there, too.
            let is_menu = list == "entries";
            let near = nearest(&key, known.iter().map(|key| key.as_str()));
            if is_menu && (near.is_none() || is_named_in_code(registry, key)) {
                continue;
            }
            told.push((list, key));
            let place = Place { file, at: read.key.at };
            let label = match near {
                Some(near) => format!("did you mean `{near}`?"),
                None => format!("an entry has {}", known_list(&known)),
            };
            let message = format!("`{key}` is read of the entries of `{list}`, and those have no such key");
            let finding = Finding::new(&RULE, registry.layer_of(place), message).at(registry, place, label);
            found.push(finding.mend(match near {
                Some(near) => format!("write `{near}`, if that was meant"),
                None => "read what the entries have, or take it away".to_string(),
            }));
        }
    }
}

fn known_list(known: &[Name]) -> String {
    list(&known.iter().map(|key| key.to_string()).collect::<Vec<_>>())
}

/// The keys that the entries of a list have, where that is known.
fn entry_keys(registry: &Registry, file: FileId, list: Name) -> Option<Vec<Name>> {
    let names = |keys: &[&str]| Some(keys.iter().map(|key| Name::from(*key)).collect());
    match list.as_str() {
        "page.entries" | "page.results" => {
            let keys = PAGE_KEYS
                .iter()
                .map(|key| Name::from(*key))
                .chain(registry.type_keys())
                .chain(registry.fed_keys("page"));
            Some(keys.collect())
        }
        "site.banners" => names(&["file", "alt"]),
        "page.trail" => names(&["label", "href"]),
        // A template that renders a menu, in the place of the host's.
        "entries" => {
            let renders =
                |address: Address| registry.point(address)?.renderer.filter(|shown| *shown == Renderer::Template(file));
            let with = || {
                registry.points().filter(|point| point.address.kind == Kind::Partial).any(|point| {
                    let is_with = point.uses.iter().any(|id| registry.use_of(*id).verb == Verb::With);
                    is_with && point.renderer == Some(Renderer::Template(file))
                })
            };
            let is_menu = renders(menu_partial()).is_some() || with();
            is_menu.then(|| names(&["label", "href", "entries", "current", "ancestor"])).flatten()
        }
        _ => None,
    }
}

/// Does a callback name this key?
fn is_named_in_code(registry: &Registry, key: Name) -> bool {
    let project = registry.project();
    let modules = project.file_ids().filter(|file| project.file(*file).kind == FileKind::Module);
    modules.into_iter().any(|file| project.file(file).text().contains(key.as_str()))
}

/// Keys that pages of some types have, read where no page of those types gets.
fn of_other_types(registry: &Registry, found: &mut Vec<Finding>) {
    if registry.blind().placements || registry.blind().declarations {
        return;
    }
    for (at, facts) in registry.all_facts().iter().enumerate() {
        let Shape::Template(template) = &facts.shape else { continue };
        let file = FileId(at as u32);
        let mut told: Vec<Name> = Vec::new();
        for read in template.reads.iter().filter(|read| read.path[0].name == "page") {
            let Some(key) = read.path.get(1) else { continue };
            let Some(with) = registry.types_with(key.name) else { continue };
            let here = registry.unguarded_types(file, read.section);
            if here.is_empty() || !here.and(with).is_empty() || told.contains(&key.name) {
                continue;
            }
            told.push(key.name);
            let place = Place { file, at: key.at };
            found.push(other_type(registry, &RULE, place, key.name, here, with));
        }
    }
}

/// A finding for a key of `page` that no page which gets there has.
pub fn other_type(registry: &Registry, rule: &Rule, place: Place, key: Name, here: Types, with: Types) -> Finding {
    let (here, with) = (list(&registry.type_names(here)), registry.type_names(with));
    let message = format!("`page.{key}` is read where only pages of type {here} get, and those have none");
    let mut finding = Finding::new(rule, registry.layer_of(place), message);
    finding = finding.at(registry, place, format!("pages of type {} have it", list(&with)));
    let types = registry.types().iter().filter(|known| with.contains(&known.name.as_str()));
    for known in types {
        let field = known.keys.iter().find(|field| field.name == key);
        if let Some(field) = field {
            finding = finding.at(registry, Place { file: known.place.file, at: field.at }, "declared here");
        }
    }
    finding.mend("read what these pages have, or take it away")
}
