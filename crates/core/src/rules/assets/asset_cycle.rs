//! Assets need each other in a circle

use crate::link::Registry;
use crate::rules::{Example, Finding, Level, Rule};

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "asset-cycle",
    level: Level::Error,
    links: &[],
    awaited: false,
    summary: "Assets need each other in a circle",
    explanation: "An asset comes after what it needs. In a circle none can come first, so the order is left to chance.",
    wrong: Example(&[
        (
            "truehook.toml",
            r##"[style.tide]
file = "tide.css"
needs = ["style:table"]

[style.table]
file = "table.css"
needs = ["style:tide"]
"##,
        ),
        ("media/tide.css", "table { width: 100%; }\n"),
        ("media/table.css", "td { padding: 1em; }\n"),
    ]),
    right: Example(&[(
        "truehook.toml",
        r##"[style.tide]
file = "tide.css"
needs = ["style:table"]

[style.table]
file = "table.css"
"##,
    )]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    for cycle in registry.need_cycles() {
        let names: Vec<String> = cycle.steps.iter().map(|(_, asset)| format!("`{asset}`")).collect();
        let layer = cycle.steps.iter().map(|(place, _)| registry.layer_of(*place)).max();
        let message = match names.as_slice() {
            [one] => format!("{one} needs itself"),
            several => format!("{} need each other in a circle", several.join(", ")),
        };
        let mut finding = Finding::new(&RULE, layer.unwrap_or(registry.project().top()), message);
        let mut steps = cycle.steps.clone();
        // What the told layer can mend comes first.
        steps.sort_by_key(|(place, _)| registry.layer_of(*place) != finding.layer);
        for (place, asset) in steps {
            finding = finding.at(registry, place, format!("`{asset}` is needed here"));
        }
        found.push(finding.mend("take one of these needs away"));
    }
}
