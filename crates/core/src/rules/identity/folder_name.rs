//! A theme is not called like its folder

use crate::link::Registry;
use crate::names::is_kebab;
use crate::rules::{Example, Finding, Level, Rule};
use crate::source::{LayerId, Place};

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "folder-name",
    level: Level::Error,
    links: &[],
    awaited: false,
    summary: "A theme is not called like its folder",
    explanation: "Other themes, and the host, find a theme by its folder and speak of it by its name; they have to be the same.",
    wrong: Example(&[(
        "truehook.toml",
        r##"[theme]
name = "sample"
label = "Example"
"##,
    )]),
    right: Example(&[(
        "truehook.toml",
        r##"[theme]
name = "example"
label = "Example"
"##,
    )]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    for (at, layer) in registry.project().layers.iter().enumerate() {
        let Some(manifest) = registry.manifest(layer.manifest).filter(|manifest| !manifest.broken) else { continue };
        let Some(name) = manifest.identity.as_ref().and_then(|identity| identity.name) else { continue };
        let Some(folder) = layer.root.file_name() else { continue };
        if layer.built_in || name.name == folder || !is_kebab(&name.name) {
            continue;
        }
        let message = format!("the {} is called `{}`, its folder `{folder}`", layer.role.word(), name.name);
        let place = Place { file: layer.manifest, at: name.at };
        let finding =
            Finding::new(&RULE, LayerId(at as u16), message).at(registry, place, "the two have to be the same");
        found.push(finding.mend(format!("write name = \"{folder}\", or rename the folder to {}", name.name)));
    }
}
