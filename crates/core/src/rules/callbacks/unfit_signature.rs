//! A callback asks for more than its point passes

use rustc_hash::FxHashSet;

use crate::address::Role;
use crate::link::Registry;
use crate::rules::telling::callbacks;
use crate::rules::{Example, Finding, Level, Rule};
use crate::source::Place;

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "unfit-signature",
    level: Level::Error,
    links: &[],
    awaited: true,
    summary: "A callback asks for more than its point passes",
    explanation: "A listener gets the context; a filter, an arranger and a preparer get a value and the context, and so does a callback that renders a component. Anything else is undefined.",
    wrong: Example(&[
        (
            "code/notes.js",
            r##"export function today(words, { page }) { return `${page.title}: ${words}`; }
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
        r##"export function today({ page }) { return page.title; }
"##,
    )]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    let mut told = FxHashSet::default();
    for (callback, point, role) in callbacks(registry) {
        let Some(signature) = registry.export(callback).and_then(|export| export.signature.as_ref()) else { continue };
        let takes = if role == Some(Role::Listener) { 1 } else { 2 };
        // Attached to several points, a callback is told of once.
        let Some(extra) = signature.params.get(takes).filter(|_| !told.contains(&callback)) else { continue };
        told.insert(callback);
        let name = registry.callback_name(callback);
        let word = if takes == 1 { "one argument, the context" } else { "two arguments, a value and the context" };
        let message = format!("`{name}` gets {word}, and asks for more");
        let layer = registry.project().file(callback.file).layer;
        let place = Place { file: callback.file, at: *extra };
        let finding = Finding::new(&RULE, layer, message).about(point.address);
        let finding = finding.at(registry, place, "nothing is passed here");
        let finding = finding.at_declaration(registry, point.address, "this is what it is attached to");
        found.push(finding.mend("ask only for what is there"));
    }
}
