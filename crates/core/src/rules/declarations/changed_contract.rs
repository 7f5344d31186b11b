//! A redeclaration breaks what the layers below count on

use crate::link::{BreachKind, Registry};
use crate::rules::{Example, Finding, Level, Rule};

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "changed-contract",
    level: Level::Error,
    links: &[],
    awaited: false,
    summary: "A redeclaration breaks what the layers below count on",
    explanation: "Templates and callbacks below were written for the old declaration. Inputs can be added if they have a default; an input can't be given another type, and neither can a filter's value or an option.",
    wrong: Example(&[
        (
            "../shingle/truehook.toml",
            r##"[theme]
name = "shingle"
label = "Shingle"
open = true

[partial.note]
inputs.days = { type = "integer", default = 1 }
"##,
        ),
        (
            "../shingle/markup/partials/note.html",
            r##"<p>{{ days }} days</p>
"##,
        ),
        (
            "truehook.toml",
            r##"[theme]
name = "example"
label = "Example"
base = { path = "../shingle" }

[partial.note]
inputs.days = { type = "string", default = "one" }
"##,
        ),
    ]),
    right: Example(&[
        (
            "truehook.toml",
            r##"[theme]
name = "example"
label = "Example"
base = { path = "../shingle" }

[partial.note]
inputs.days = { default = 2 }
inputs.spot = { type = "string", default = "the creek" }
"##,
        ),
        (
            "markup/partials/note.html",
            r##"<p>{{ days }} days at {{ spot }}</p>
"##,
        ),
    ]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    for breach in registry.breaches() {
        let point = breach.point;
        let (message, label, mend) = match breach.kind {
            BreachKind::Type { name, old, new } => {
                let what = name.map_or_else(|| "its value".to_string(), |name| format!("`{name}`"));
                let message =
                    format!("`{point}` is declared again, and {what} is {new} where the layers below have {old}");
                (
                    message,
                    format!("{old} is what the layers below count on"),
                    match name {
                        Some(_) => "keep the type, or declare an input of another name",
                        None => "keep the type, or declare a filter of another name",
                    },
                )
            }
            BreachKind::NoDefault(name) => {
                let message = format!("`{point}` is declared again with `{name}`, which has no default");
                (message, "nothing below passes it on".to_string(), "give it a default")
            }
        };
        let finding = Finding::new(&RULE, registry.layer_of(breach.place), message).about(point);
        let finding = finding.at(registry, breach.place, label).at(registry, breach.before, "declared here below");
        found.push(finding.mend(mend));
    }
}
