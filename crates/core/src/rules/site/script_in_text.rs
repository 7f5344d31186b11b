//! The text of a page holds what its host takes out

use crate::link::Registry;
use crate::rules::{Example, Finding, Level, Rule};
use crate::scan::Shape;
use crate::source::Place;

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "script-in-text",
    level: Level::Warning,
    links: &[],
    awaited: false,
    summary: "The text of a page holds what its host takes out",
    explanation: "Scripts, handlers of events and addresses that run as code don't belong into what people write into pages: the host takes them out. A contract that lets them stay says scripts-in-texts = true in its [limits].",
    wrong: Example(&[
        (
            "preview/pages/front.toml",
            r##"path = "/"
type = "front"
title = "Today"
body = "front.md"
"##,
        ),
        ("preview/pages/front.md", "Low water at noon. <b onclick=\"alert(1)\">Boots</b> needed.\n"),
    ]),
    right: Example(&[("preview/pages/front.md", "Low water at noon. <b>Boots</b> needed.\n")]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    if registry.limits().scripts_in_texts {
        return;
    }
    let top = registry.project().top();
    for (file, _) in registry.project().files_of(top) {
        let Shape::Body(body) = &registry.facts(file).shape else { continue };
        for script in &body.scripts {
            let message = format!("`{}` is taken out of the text of this page", script.name);
            let place = Place { file, at: script.at };
            let finding = Finding::new(&RULE, top, message).at(registry, place, "this doesn't reach the page");
            found.push(
                finding.mend("take it away; a script of the theme belongs into media/, declared as [script.NAME]"),
            );
        }
    }
}
