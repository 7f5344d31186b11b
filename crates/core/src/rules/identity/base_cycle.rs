//! A theme builds, in the end, on itself

use crate::link::Registry;
use crate::read::Trouble;
use crate::rules::{Example, Finding, Level, Rule};
use crate::source::Place;

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "base-cycle",
    level: Level::Error,
    links: &[],
    awaited: false,
    summary: "A theme builds, in the end, on itself",
    explanation: "A circle of bases has no lowest theme, so nothing could be inherited from it. The base that closes the circle is left out, and what it would have declared is not there.",
    wrong: Example(&[
        (
            "truehook.toml",
            r##"[theme]
name = "example"
label = "Example"
base = { path = "../shingle" }
"##,
        ),
        (
            "../shingle/truehook.toml",
            r##"[theme]
name = "shingle"
open = true
base = { path = "../example" }
"##,
        ),
    ]),
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
        let Trouble::Cycle { way } = &trouble.trouble else { continue };
        let message = format!("a theme can't build on itself: {}", way.join(" → "));
        let place = Place { file: registry.project().layer(trouble.layer).manifest, at: trouble.at };
        let mut finding = Finding::new(&RULE, registry.project().top(), message);
        for link in registry.project().links.iter().filter(|link| link.layer == registry.project().top()) {
            let place = Place { file: registry.project().layer(link.layer).manifest, at: link.at };
            finding = finding.at(registry, place, "the way begins here");
        }
        found.push(finding.at(registry, place, "this closes the circle").mend("take one of the two `base` keys away"));
    }
}
