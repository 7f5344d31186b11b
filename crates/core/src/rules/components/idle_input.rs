//! A component has an input that nothing reads

use rustc_hash::FxHashSet;

use crate::address::Kind;
use crate::link::{Callback, Point, Registry, Renderer, Runs, START, Target};
use crate::name::Name;
use crate::read::FileKind;
use crate::rules::{Example, Finding, Level, Rule};
use crate::source::{FileId, Place};

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "idle-input",
    level: Level::Warning,
    links: &[],
    awaited: true,
    summary: "A component has an input that nothing reads",
    explanation: "Whatever is given to it changes nothing. Its template, with those that it includes, its preparers and the callback that renders it are looked at; where one of them hands all inputs on, what is read can't be seen, and nothing is reported. Where a higher layer has another template for the component, it is that one which leaves the input out.",
    wrong: Example(&[
        (
            "truehook.toml",
            r##"[partial.note]
inputs.text = { type = "string", default = "" }
"##,
        ),
        (
            "markup/partials/note.html",
            r##"<p>Boots needed.</p>
"##,
        ),
        (
            "markup/page.html",
            r##"{% extends "layout.html" %}
{% block main %}
  <main>{{ place("region:main") }}</main>
  {{ place("partial:note") }}
{% endblock %}
"##,
        ),
    ]),
    right: Example(&[(
        "markup/partials/note.html",
        r##"<p>{{ text }}</p>
"##,
    )]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    if registry.blind().placements {
        return;
    }
    for point in registry.points().filter(|point| !point.inputs.is_empty()) {
        if reads_all(registry, point) {
            continue;
        }
        let Some((renderer, names)) = read_of(registry, point) else { continue };
        let left_out = left_out(registry, point);
        let unread = point
            .inputs
            .iter()
            .filter(|input| !names.contains(&input.field.name) || left_out.contains(&input.field.name));
        for input in unread {
            let name = input.field.name;
            // What a feature reads is the host's business, and what is meant by a misspelt name is read.
            if registry.is_fed(point.address, name) || registry.is_meant(Target::Input(point.address, name)) {
                continue;
            }
            let (declared, shown) = (registry.layer_of(input.place), registry.layer_of(renderer));
            let overrides = shown > declared;
            let message = match overrides {
                false => format!("nothing reads the input `{name}` of `{}`", point.address),
                true => format!(
                    "{} leaves out the input `{name}` of `{}`",
                    registry.project().shown(renderer.file),
                    point.address
                ),
            };
            let places = [(input.place, "declared here"), (renderer, "this renders it, and does not read it")];
            let mut finding = Finding::new(&RULE, declared.max(shown), message).about(point.address);
            let mut places = places.to_vec();
            places.sort_by_key(|(place, _)| overrides != (*place == renderer));
            for (place, label) in places {
                finding = finding.at(registry, place, label);
            }
            let mend = match point.renderer {
                Some(Renderer::Callback(_)) => format!("read it: ({{ {name} }}) => …, or take the input away"),
                _ => format!("print it with {{{{ {name} }}}}, or take the input away"),
            };
            found.push(finding.mend(mend));
        }
    }
}

/// Does the template of a component read all inputs by itself, and override no other one? Most do.
fn reads_all(registry: &Registry, point: &Point) -> bool {
    let Some(Renderer::Template(file)) = point.renderer else { return false };
    let Some(template) = registry.template(file).filter(|_| !registry.is_override(file)) else { return false };
    let is_read = |name: Name| template.reads.iter().any(|read| read.path[0].name == name);
    point.inputs.iter().all(|input| is_read(input.field.name))
}

/// What renders a component, and the inputs that are read of it; nothing where that can't be seen.
fn read_of(registry: &Registry, point: &Point) -> Option<(Place, FxHashSet<Name>)> {
    let mut names = FxHashSet::default();
    let rendered = match point.renderer? {
        Renderer::Template(file) if point.address.kind != Kind::Template => {
            names.extend(names_read(registry, file));
            Place { file, at: START }
        }
        Renderer::Callback(callback) => {
            names.extend(taken(registry, callback)?);
            Place { file: callback.file, at: registry.export(callback)?.at }
        }
        Renderer::Template(_) => return None,
    };
    for slot in point.slots.iter() {
        if let Runs::Callback(_, callback) = slot.runs {
            names.extend(taken(registry, callback?)?);
        }
    }
    Some((rendered, names))
}

/// What a template leaves out of the one that it overrides: names that are shown there. That callbacks prepare
/// them does not show them.
fn left_out(registry: &Registry, point: &Point) -> FxHashSet<Name> {
    let project = registry.project();
    let Some(Renderer::Template(file)) = point.renderer else { return FxHashSet::default() };
    let over = project.file(file);
    let named = registry.files_named(FileKind::Template, over.name()).iter().copied();
    let lower = named.filter(|other| project.file(*other).layer < over.layer && project.file(*other).path == over.path);
    let below = lower.max_by_key(|other| project.file(*other).layer);
    let Some(below) = below.filter(|_| point.address.kind != Kind::Template) else { return FxHashSet::default() };
    let shown = names_read(registry, file);
    names_read(registry, below).into_iter().filter(|name| !shown.contains(name)).collect()
}

/// The inputs that a callback reads; nothing where it hands all of them on.
fn taken(registry: &Registry, callback: Callback) -> Option<Vec<Name>> {
    let export = registry.export(callback)?;
    export.signature.as_ref()?;
    let inputs = export.takes.iter().filter(|taken| taken.param == 0);
    inputs.map(|taken| taken.path.first().map(|step| step.named.name)).collect()
}

/// All names that a template reads, with those that it extends, includes and imports.
fn names_read(registry: &Registry, file: FileId) -> FxHashSet<Name> {
    let mut files = vec![file];
    let mut names = FxHashSet::default();
    let mut at = 0;
    while at < files.len() {
        let Some(template) = registry.template(files[at]) else { break };
        names.extend(template.reads.iter().map(|read| read.path[0].name));
        let layer = registry.project().file(files[at]).layer;
        for target in template.refs.iter().filter_map(|reference| reference.target) {
            if let Some(other) = registry.resolve_template(&target, layer).filter(|other| !files.contains(other)) {
                files.push(other);
            }
        }
        at += 1;
    }
    names
}
