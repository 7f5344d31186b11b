//! The theme ships what the host bundles

use crate::address::Kind;
use crate::link::{Point, Registry, START};
use crate::rules::{Example, Finding, Level, Rule};
use crate::scan::Shape;
use crate::source::{FileId, FileKind, Place};

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "host-copy",
    level: Level::Warning,
    links: &[],
    awaited: false,
    summary: "The theme ships what the host bundles",
    explanation: "What the host bundles is kept up to date by the host, and is on a page once however many ask for it. A copy grows old, and meets the original on the same page.",
    wrong: Example(&[
        (
            "truehook.toml",
            r##"[script.loaded]
file = "loaded.js"
"##,
        ),
        ("media/loaded.js", "function PageLoaded(act) {\n  document.addEventListener(\"DOMContentLoaded\", act);\n}\n"),
    ]),
    right: Example(&[
        ("truehook.toml", "[script.dial]\nfile = \"dial.js\"\nneeds = [\"script:page-loaded\"]\n"),
        ("media/loaded.js", ""),
        ("media/dial.js", "PageLoaded(() => {});\n"),
    ]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    let bundled: Vec<(&Point, FileId)> = registry
        .points()
        .filter(|point| point.declared.first().is_some_and(|declared| declared.layer.index() == 0))
        .filter_map(|point| Some((point, registry.asset_file(point)?)))
        .filter(|(_, file)| registry.project().file(*file).layer.index() == 0)
        .collect();
    for (at, file) in registry.project().files.iter().enumerate() {
        let id = FileId(at as u32);
        if file.layer.index() == 0 || !matches!(file.kind, FileKind::Style | FileKind::Script) {
            continue;
        }
        let Some((point, why)) =
            bundled.iter().find_map(|(point, own)| Some((*point, same(registry, id, point, *own)?)))
        else {
            continue;
        };
        let word = if point.address.kind == Kind::Style { "style sheet" } else { "script" };
        let message = format!("this {word} {why}, which the host bundles as `{}`", point.address);
        let finding = Finding::new(&RULE, file.layer, message).about(point.address);
        let finding = finding.at(registry, Place { file: id, at: START }, "the copy");
        let finding = finding.at_declaration(registry, point.address, "the host bundles it here");
        found.push(
            finding.mend(format!("say needs = [\"{}\"] where it is used, and take the file away", point.address)),
        );
    }
}

/// In what a file is a copy of a bundled one; nothing where it is none.
fn same(registry: &Registry, file: FileId, point: &Point, bundled: FileId) -> Option<String> {
    let words = |file: FileId| registry.project().file(file).text().split_whitespace();
    if words(file).eq(words(bundled)) {
        return Some("is a copy of one".to_string());
    }
    let Shape::Script(script) = &registry.facts(file).shape else { return None };
    let given = point.asset.iter().flat_map(|asset| &asset.gives).map(|(name, _)| *name);
    let own = given.into_iter().find(|name| script.defines.contains(name))?;
    Some(format!("defines `{own}`"))
}
