//! A style sheet or script of the theme that nothing loads

use crate::command_line;
use crate::link::{Outcome, Registry, Target, Wanted};
use crate::names::is_kebab;
use crate::rules::{Example, Finding, Level, Rule};
use crate::scan::{ScriptShape, Shape};
use crate::source::{FileId, FileKind, Span};

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "idle-file",
    level: Level::Warning,
    links: &[],
    awaited: true,
    summary: "A style sheet or script of the theme that nothing loads",
    explanation: "A file in media/ is on a page only where it is declared as a style or script, or something loads it by its name. That a name stands anywhere in another file of the theme is enough to be quiet.",
    wrong: Example(&[("media/tide.css", "table { width: 100%; }\n")]),
    right: Example(&[
        (
            "truehook.toml",
            r##"[style.tide]
file = "tide.css"
"##,
        ),
        ("media/tide.css", "table { width: 100%; }\n"),
    ]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    let project = registry.project();
    let top = project.top();
    // What others build on may be loaded by those.
    if project.layer(top).open || registry.blind().declarations || registry.partly() {
        return;
    }
    let candidates: Vec<FileId> = project
        .file_ids()
        .filter(|file| project.file(*file).layer == top && kind(project.file(*file).kind).is_some())
        .filter(|file| project.file(*file).path.as_str().starts_with("media/"))
        .collect();
    if candidates.is_empty() {
        return;
    }
    let loaded = |file: FileId| {
        let leads =
            |target: Target| registry.references().iter().any(|reference| reference.outcome == Outcome::Found(target));
        // What a misspelt name was meant for is told there.
        leads(Target::File(file))
            || registry.is_meant(Target::File(file))
            || registry.points().any(|point| registry.asset_file(point) == Some(file))
    };
    for file in candidates {
        let source = project.file(file);
        let name = source.path.file_name().unwrap_or_default();
        // What does not parse, and what a script lacks that this one would give, is told by itself.
        let shape = &registry.facts(file).shape;
        if loaded(file) || shape.is_broken() || is_needed(registry, shape) || is_named(registry, file, name) {
            continue;
        }
        let Some(word) = kind(source.kind) else { continue };
        let stem = source.path.file_stem().unwrap_or_default();
        // A need of what this would be declared as is told by itself.
        let declared = format!("{word}:{stem}");
        if registry.misses().iter().any(|miss| matches!(miss.wanted, Wanted::Point(name) if name == declared.as_str()))
        {
            continue;
        }
        let message = format!("nothing loads {}", source.path);
        let finding = Finding::new(&RULE, top, message).at_span(file, Span::new(0, 0), "no page gets this file");
        let below = source.path.as_str().trim_start_matches("media/");
        found.push(finding.mend(match is_kebab(stem) {
            true => command_line!["declare", declared, format!("file={below}")],
            false => format!("declare it as a {word}, or take the file away"),
        }));
    }
}

/// Does another script use what this one gives?
fn is_needed(registry: &Registry, shape: &Shape) -> bool {
    let Shape::Script(script) = shape else { return false };
    let uses = |other: &ScriptShape| other.uses.iter().any(|used| script.defines.contains(&used.name));
    registry.all_facts().iter().any(|facts| match &facts.shape {
        Shape::Script(other) => uses(other),
        Shape::Template(template) => template.scripts.iter().any(|inline| uses(&inline.script)),
        _ => false,
    })
}

/// What such a file is declared as.
fn kind(kind: FileKind) -> Option<&'static str> {
    match kind {
        FileKind::Style => Some("style"),
        FileKind::Script => Some("script"),
        _ => None,
    }
}

/// Does its name stand in another file of any layer?
fn is_named(registry: &Registry, file: FileId, name: &str) -> bool {
    let finder = memchr::memmem::Finder::new(name);
    let project = registry.project();
    project.file_ids().any(|other| other != file && finder.find(project.file(other).text().as_bytes()).is_some())
}
