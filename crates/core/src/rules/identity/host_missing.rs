//! The host contract is not there

use crate::link::Registry;
use crate::read::{Trouble, Wanted};
use crate::rules::{Example, Finding, Level, Rule};
use crate::source::Place;

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "host-missing",
    level: Level::Error,
    links: &[],
    awaited: false,
    summary: "The host contract is not there",
    explanation: "Without it nobody knows which points and types of pages there are, so nothing is reported that it may offer. The contract named standard is built in.",
    wrong: Example(&[(
        "truehook.toml",
        r##"[theme]
name = "example"
label = "Example"
host = { contract = "../tideline" }
"##,
    )]),
    right: Example(&[(
        "truehook.toml",
        r##"[theme]
name = "example"
label = "Example"
host = { contract = "standard" }
"##,
    )]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    for trouble in &registry.project().troubles {
        let Trouble::Missing { path, near } = &trouble.trouble else { continue };
        if trouble.wanted == Wanted::Host {
            let place = Place { file: registry.project().layer(trouble.layer).manifest, at: trouble.at };
            let label =
                near.as_ref().map_or("no truehook.toml is there".to_string(), |near| format!("did you mean `{near}`?"));
            let message = format!("there is no host contract `{path}`");
            let finding = Finding::new(&RULE, trouble.layer, message).at(registry, place, label);
            found.push(
                finding.mend(
                    "give the path of a folder whose manifest opens with [host], or write contract = \"standard\"",
                ),
            );
        }
    }
}
