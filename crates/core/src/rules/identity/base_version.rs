//! The base theme, or a companion, is not of a version that the theme works with

use crate::link::{Registry, START};
use crate::read::{Trouble, Wanted};
use crate::rules::{Example, Finding, Level, Rule};
use crate::source::Place;

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "base-version",
    level: Level::Error,
    links: &[],
    awaited: false,
    summary: "The base theme, or a companion, is not of a version that the theme works with",
    explanation: "It is used all the same, so the other findings are those of the version that is there.",
    wrong: Example(&[
        (
            "truehook.toml",
            r##"[theme]
name = "example"
label = "Example"
base = { path = "../shingle", version = "^2" }
"##,
        ),
        (
            "../shingle/truehook.toml",
            r##"[theme]
name = "shingle"
version = "1.4.0"
open = true
"##,
        ),
    ]),
    right: Example(&[(
        "truehook.toml",
        r##"[theme]
name = "example"
label = "Example"
base = { path = "../shingle", version = "^1.2" }
"##,
    )]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    for trouble in &registry.project().troubles {
        let Trouble::Version { found: layer, version, wanted } = &trouble.trouble else { continue };
        if trouble.wanted == Wanted::Host {
            continue;
        }
        let layer = registry.project().layer(*layer);
        // A manifest that can't be read states nothing.
        if registry.facts(layer.manifest).shape.is_broken() {
            continue;
        }
        let name = if layer.built_in { "standard" } else { layer.name.as_str() };
        let has = if version.is_empty() { "states no version".to_string() } else { format!("is version {version}") };
        let message = format!("`{name}` {has}, but {wanted} is asked for");
        let place = Place { file: registry.project().layer(trouble.layer).manifest, at: trouble.at };
        let end = Place { file: layer.manifest, at: START };
        let finding = Finding::new(&RULE, trouble.layer, message)
            .at(registry, place, format!("{wanted} is asked for here"))
            .at(registry, end, "this is what is there");
        found.push(finding.mend("try this version and widen the range, or get one that fits"));
    }
}
