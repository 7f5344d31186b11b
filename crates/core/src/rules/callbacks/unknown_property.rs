//! A callback reads a property that is not there

use indexmap::IndexMap;

use crate::command_line;
use crate::link::{CONTEXT, Callback, Link, Registry, Renderer, Runs, Types, Wanted};
use crate::rules::telling::{list, miss_finding, misses};
use crate::rules::usage::unknown_variable::other_type;
use crate::rules::{Example, Finding, Level, Rule};
use crate::source::Place;

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "unknown-property",
    level: Level::Error,
    links: &[Link::PropertyToName],
    awaited: true,
    summary: "A callback reads a property that is not there",
    explanation: "It would be undefined. The context holds page, site, options, theme, args and point; args holds what the point declares, and what a preparer is given are the inputs of its component. Properties are followed however they are read: `({ page })`, `c.page.title`, `const { tide } = args`, `args[\"tide\"]`.",
    wrong: Example(&[
        (
            "code/notes.js",
            r##"export function today({ page, site }) { return `${page.titel}: ${site.title}`; }
"##,
        ),
        (
            "truehook.toml",
            r##"[[attach]]
to = "hook:document-end"
call = "notes.js#today"
"##,
        ),
    ]),
    right: Example(&[(
        "code/notes.js",
        r##"export function today({ page, site }) { return `${page.title}: ${site.title}`; }
"##,
    )]),
    check,
};

/// Keys that pages of some types have, read by callbacks that run on no page of those types.
fn of_other_types(registry: &Registry, found: &mut Vec<Finding>) {
    if registry.blind().placements || registry.blind().declarations {
        return;
    }
    // On which pages each callback runs, wherever it is attached.
    let mut runs: IndexMap<Callback, Types> = IndexMap::new();
    for point in registry.points() {
        for slot in point.slots.iter() {
            if let Runs::Callback(_, Some(callback)) = slot.runs {
                let here = point.reached.and(registry.types_where(slot.when.as_ref()));
                let types = runs.entry(callback).or_default();
                *types = types.or(here);
            }
        }
        if let Some(Renderer::Callback(callback)) = point.renderer {
            let types = runs.entry(callback).or_default();
            *types = types.or(point.reached);
        }
    }
    for (callback, here) in runs.into_iter().filter(|(_, here)| !here.is_empty()) {
        let takes = registry.export(callback).map_or(&[][..], |export| &export.takes);
        let mut told = Vec::new();
        for taken in takes {
            let [root, key, ..] = taken.path.as_slice() else { continue };
            let key = key.named;
            let Some(with) = registry.types_with(key.name).filter(|_| root.named.name == "page") else { continue };
            if here.and(with).is_empty() && !told.contains(&key.name) {
                told.push(key.name);
                let place = Place { file: callback.file, at: key.at };
                found.push(other_type(registry, &RULE, place, key.name, here, with));
            }
        }
    }
}

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    of_other_types(registry, found);
    for miss in misses(registry, &RULE) {
        let name = registry.references()[miss.references[0]].written;
        let (message, label, point) = match miss.wanted {
            Wanted::Input(address, name) => {
                let known = registry.point(address).map_or(&[][..], |point| point.passed());
                let known: Vec<String> = known.iter().map(|input| format!("`{}`", input.field.name)).collect();
                let word = if address.kind.is_component() { "input" } else { "argument" };
                let label = match known.as_slice() {
                    [] => format!("it has no {word}s"),
                    known => format!("there is {}", list(known)),
                };
                (format!("`{name}` is read, but `{address}` has no such {word}"), label, Some(address))
            }
            Wanted::Variable(_, name) if !name.contains('.') => {
                let message = format!("`{name}` is read of the context, which holds no such thing");
                (message, format!("it holds {}", list(&CONTEXT)), None)
            }
            Wanted::Variable(_, name) => {
                (format!("`{name}` is read, but there is no such property"), "it is undefined".to_string(), None)
            }
            Wanted::Option(name) => (
                format!("`options.{name}` is read, but the theme has no such option"),
                format!(
                    "declare it: {}",
                    command_line!["declare", format!("option:{name}"), "type=string", "default=…"]
                ),
                None,
            ),
            _ => (format!("there is no `{name}`"), String::new(), None),
        };
        let mut finding = miss_finding(registry, &RULE, miss, message, &label);
        if let Some(point) = point {
            finding = finding.about(point).at_declaration(registry, point, "this is what it runs at");
        }
        if finding.mend.is_none() {
            finding = finding.mend("read only what is there");
        }
        found.push(finding);
    }
}
