//! An item, or a callback, gives an input that its component does not have

use crate::link::{Link, Registry, Wanted};
use crate::rules::telling::{miss_finding, misses};
use crate::rules::{Example, Finding, Level, Rule};

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "unknown-input",
    level: Level::Error,
    links: &[Link::ItemKeyToInput, Link::ChoiceToOption, Link::ReturnToInput],
    awaited: true,
    summary: "An item, or a callback, gives an input that its component does not have",
    explanation: "The value gets lost on its way to the page. The same goes for an option that the site chooses and the theme does not have, and for what a preparer returns.",
    wrong: Example(&[
        (
            "truehook.toml",
            r##"[partial.note]
inputs.text = { type = "string", default = "" }
"##,
        ),
        (
            "markup/partials/note.html",
            r##"<p>{{ text }}</p>
"##,
        ),
        (
            "preview/site.toml",
            r##"[fill]
"region:main" = [ { use = "partial:note", txet = "Boots needed." } ]
"##,
        ),
    ]),
    right: Example(&[(
        "preview/site.toml",
        r##"[fill]
"region:main" = [ { use = "partial:note", text = "Boots needed." } ]
"##,
    )]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    for miss in misses(registry, &RULE) {
        if let Wanted::Option(name) = miss.wanted {
            let message = format!("the site chooses `{name}`, but the theme has no such option");
            found.push(miss_finding(registry, &RULE, miss, message, "nothing reads this"));
            continue;
        }
        let Wanted::Input(address, name) = miss.wanted else { continue };
        let message = format!("`{address}` has no input `{name}`");
        let mut finding = miss_finding(registry, &RULE, miss, message, "nothing reads this").about(address);
        if let (None, Some(declared)) = (miss.meant, registry.point(address).and_then(|point| point.declared.last())) {
            finding = finding.at(registry, declared.place, "its inputs are declared here");
        }
        found.push(finding);
    }
}
