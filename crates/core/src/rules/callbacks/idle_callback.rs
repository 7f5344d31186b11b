//! A function is exported, but never attached

use crate::link::{Registry, Target};
use crate::rules::{Example, Finding, Level, Rule};
use crate::source::Place;

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "idle-callback",
    level: Level::Warning,
    links: &[],
    awaited: true,
    summary: "A function is exported, but never attached",
    explanation: "It is written and never runs. What a module exports is attached to a point, renders a component, or is imported by another module. Themes that others build on are left alone.",
    wrong: Example(&[(
        "code/notes.js",
        r##"export function today() { return "Low water"; }
"##,
    )]),
    right: Example(&[(
        "truehook.toml",
        r##"[[attach]]
to = "hook:document-end"
call = "notes.js#today"
"##,
    )]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    if registry.blind().declarations || registry.blind().imports {
        return;
    }
    for (file, source) in registry.project().files_of(registry.project().top()) {
        let Some(module) = registry.module(file).filter(|_| registry.is_idle_reported(file)) else { continue };
        for export in module.exports.iter().filter(|export| !export.no_function) {
            if registry.is_referred(Target::Export(file, export.name)) {
                continue;
            }
            let name = format!("{}#{}", source.name(), export.name);
            let message = format!("`{name}` is exported, but attached to nothing");
            let finding = Finding::new(&RULE, source.layer, message);
            let finding = finding.at(registry, Place { file, at: export.at }, "this never runs");
            found.push(finding.mend("attach it to a point, or take it away"));
        }
    }
}
