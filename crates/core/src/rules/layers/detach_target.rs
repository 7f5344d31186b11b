//! Something is detached that is not attached there

use crate::link::{Link, Registry};
use crate::rules::layers::nothing_below;
use crate::rules::{Example, Finding, Level, Rule};

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "detach-target",
    level: Level::Error,
    links: &[Link::DetachToSlot],
    awaited: false,
    summary: "Something is detached that is not attached there",
    explanation: "The detachment does nothing. Most often the callback has another spelling, or the base theme's new release attaches it elsewhere. Only what lower layers attach can be detached; what this layer attaches itself can be taken away.",
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
call = "shingle:notes.js#imprnt"
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
call = "shingle:notes.js#imprint"
"##,
    )]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    nothing_below(registry, &RULE, "detach from", found);
}
