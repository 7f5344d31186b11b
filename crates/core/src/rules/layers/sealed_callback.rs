//! Something is detached or replaced that the layer below has sealed

use crate::link::{Registry, SealedHit};
use crate::rules::{Example, Finding, Level, Rule};

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "sealed-callback",
    level: Level::Error,
    links: &[],
    awaited: false,
    summary: "Something is detached or replaced that the layer below has sealed",
    explanation: "A sealed attachment is one that the layer below has to rely on. It stays as it is, and what was asked for here does nothing.",
    wrong: Example(&[
        (
            "../shingle/code/notes.js",
            r##"export function imprint() { return "Marsh Lane 4"; }
export function motto() { return "Tides and mud"; }
"##,
        ),
        (
            "../shingle/truehook.toml",
            r##"[theme]
name = "shingle"
label = "Shingle"
open = true

[[attach]]
to = "hook:document-end"
call = "notes.js#imprint"
sealed = true

[[attach]]
to = "hook:document-end"
call = "notes.js#motto"
"##,
        ),
        (
            "truehook.toml",
            r##"[theme]
name = "example"
label = "Example"
base = { path = "../shingle" }

[[detach]]
from = "hook:document-end"
call = "shingle:notes.js#imprint"
"##,
        ),
    ]),
    right: Example(&[(
        "truehook.toml",
        r##"[theme]
name = "example"
label = "Example"
base = { path = "../shingle" }

[[detach]]
from = "hook:document-end"
call = "shingle:notes.js#motto"
"##,
    )]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    for SealedHit { point, attempt, slot } in registry.sealed_hits() {
        let layer = registry.project().layer(registry.layer_of(*slot)).name;
        let message = format!("what {layer} attaches to `{point}` is sealed, so it stays as it is");
        let finding = Finding::new(&RULE, registry.layer_of(*attempt), message).about(*point);
        let finding = finding.at(registry, *attempt, "this does nothing").at(registry, *slot, "sealed here");
        found.push(finding.mend("take this away, or ask the layer below to open it"));
    }
}
