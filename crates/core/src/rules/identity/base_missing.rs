//! The base theme, or a companion, is not there

use crate::link::{Link, Registry};
use crate::read::{Trouble, Wanted};
use crate::rules::{Example, Finding, Level, Rule};
use crate::source::Place;

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "base-missing",
    level: Level::Error,
    links: &[Link::LayerToLayer],
    awaited: false,
    summary: "The base theme, or a companion, is not there",
    explanation: "The path is relative to the theme's folder. What the missing layer may declare is not reported as undeclared.",
    wrong: Example(&[(
        "truehook.toml",
        r##"[theme]
name = "example"
label = "Example"
base = { path = "../shingle" }
"##,
    )]),
    right: Example(&[(
        "../shingle/truehook.toml",
        r##"[theme]
name = "shingle"
open = true
"##,
    )]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    for trouble in &registry.project().troubles {
        let Trouble::Missing { path, near } = &trouble.trouble else { continue };
        if trouble.wanted != Wanted::Host {
            let place = Place { file: registry.project().layer(trouble.layer).manifest, at: trouble.at };
            let label =
                near.as_ref().map_or("no truehook.toml is there".to_string(), |near| format!("did you mean `{near}`?"));
            let message = format!(
                "there is no {} in `{path}`",
                if trouble.wanted == Wanted::Base { "base theme" } else { "companion" }
            );
            let finding = Finding::new(&RULE, trouble.layer, message).at(registry, place, label);
            found.push(finding.mend("correct the path, or put the folder there"));
        }
    }
}
