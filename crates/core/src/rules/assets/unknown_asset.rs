//! An asset is needed that no layer declares

use crate::address::Kind;
use crate::link::{Link, Registry};
use crate::rules::telling::{miss_finding, misses, written};
use crate::rules::{Example, Finding, Level, Rule};

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "unknown-asset",
    level: Level::Error,
    links: &[Link::NeedToAsset],
    awaited: false,
    summary: "An asset is needed that no layer declares",
    explanation: "What a component or asset needs is brought to the page with it. A need that leads nowhere brings nothing, and the page looks or works wrong without a word.",
    wrong: Example(&[
        (
            "truehook.toml",
            r##"[style.tide]
file = "tide.css"
needs = ["style:plian"]
"##,
        ),
        ("media/tide.css", "table { width: 100%; }\n"),
    ]),
    right: Example(&[(
        "truehook.toml",
        r##"[style.tide]
file = "tide.css"
needs = ["style:plain"]
"##,
    )]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    for miss in misses(registry, &RULE) {
        let name = written(registry, miss);
        let message = format!("`{name}` is needed, but no layer declares it");
        let finding = miss_finding(registry, &RULE, miss, message, "nothing of that name is there");
        found.push(Finding { point: Some(name.to_string()), ..finding });
    }
    for point in registry.points().filter(|point| matches!(point.address.kind, Kind::Style | Kind::Script)) {
        let Some(layer) = point.layer().filter(|_| point.asset.as_ref().is_some_and(|asset| asset.file.is_none()))
        else {
            continue;
        };
        let message = format!("`{}` names no file", point.address);
        let finding = Finding::new(&RULE, layer, message).about(point.address);
        let finding = finding.at_declaration(registry, point.address, "`file` belongs here, as in \"tide.css\"");
        found.push(finding.mend("add the file, relative to media/"));
    }
}
