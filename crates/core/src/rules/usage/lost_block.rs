//! A block, or markup outside of blocks, that no page shows since the template extends another one

use crate::link::{Link, Miss, Registry, Wanted};
use crate::name::Name;
use crate::rules::telling::{list, miss_finding, misses};
use crate::rules::usage::at_counterpart;
use crate::rules::{Example, Finding, Level, Rule};
use crate::scan::{Named, SectionId, SectionKind, Shape, TemplateVerb};
use crate::source::{FileId, Place, Span};

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "lost-block",
    level: Level::Error,
    links: &[Link::BlockToBlock],
    awaited: false,
    summary: "A block, or markup outside of blocks, that no page shows since the template extends another one",
    explanation: "A template that extends another one shows that one, with its own blocks in the place of the blocks there. A block that nothing it extends has is shown nowhere, and neither is what stands outside of blocks. A copy of a layout that leaves out a block takes it from all templates that fill it.",
    wrong: Example(&[
        (
            "markup/layout.html",
            r##"<!doctype html>
<html lang="en">
<head><title>{{ page.title }}</title>{{ place("hook:document-head") }}</head>
<body>
<main>{{ place("region:main") }}</main>
{% block beside %}{% endblock %}
{{ place("hook:document-end") }}
</body>
</html>
"##,
        ),
        (
            "markup/page.html",
            r##"{% extends "layout.html" %}
{% block besied %}<aside>Low water at noon</aside>{% endblock %}
"##,
        ),
    ]),
    right: Example(&[(
        "markup/page.html",
        r##"{% extends "layout.html" %}
{% block beside %}<aside>Low water at noon</aside>{% endblock %}
"##,
    )]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    for miss in misses(registry, &RULE) {
        let Wanted::Block(parent, name) = miss.wanted else { continue };
        found.push(lost(registry, miss, parent, name.as_str()));
    }
    for (at, facts) in registry.all_facts().iter().enumerate() {
        let Shape::Template(template) = &facts.shape else { continue };
        let file = FileId(at as u32);
        found.extend(template.outside.first().map(|_| outside(registry, file, &template.outside)));
        found.extend(template.called.iter().filter_map(|called| uncalled(registry, file, called)));
    }
}

/// A block that nothing shows.
fn lost(registry: &Registry, miss: &Miss, parent: FileId, name: &str) -> Finding {
    let file = registry.references()[miss.references[0]].from.file;
    let chain = registry.chain(file);
    let shown = registry.project().shown(parent);
    let layer_of = |file: FileId| registry.project().file(file).layer;
    // A copy that a higher layer made of what this extends is what took the block away.
    let copy =
        chain[1..].iter().copied().filter(|other| layer_of(*other) > miss.layer).max_by_key(|other| layer_of(*other));
    let Some(copy) = copy else {
        let otherwise = format!("{shown} has no such block");
        let message = format!("the block `{name}` is in nothing that this template extends, so no page shows it");
        let mut finding = miss_finding(registry, &RULE, miss, message, &otherwise);
        if miss.meant.is_none() {
            finding = with_blocks(registry, finding, &chain[1..]);
        }
        let known: Vec<String> = chain[1..].iter().flat_map(|file| blocks(registry, *file)).collect();
        if finding.mend.is_none() {
            finding = finding.mend(match known.as_slice() {
                [] => format!("put {{% block {name} %}}{{% endblock %}} into {shown}"),
                known => format!("put it into {shown}, or fill one that is there: {}", list(known)),
            });
        }
        return at_extends(registry, finding, file);
    };
    let copied = registry.project().shown(copy);
    let message = format!("{copied} has no block `{name}`, which {} fills", registry.project().shown(file));
    let mut finding = Finding::new(&RULE, layer_of(copy), message);
    let kind = registry.project().file(copy).kind;
    let lower = registry.files_named(kind, registry.project().file(copy).name()).iter().rev().copied();
    let original = lower.filter(|other| layer_of(*other) < layer_of(copy)).find_map(|other| {
        let sections = &registry.template(other)?.sections;
        let block = sections.iter().flat_map(|section| &section.blocks).find(|block| block.name == *name)?;
        Some(Place { file: other, at: block.at })
    });
    finding = match original {
        Some(original) => {
            at_counterpart(registry, finding, original, copy).at(registry, original, "the original has it here")
        }
        None => at_extends(registry, finding, copy),
    };
    for at in &miss.references {
        finding = finding.at(registry, registry.references()[*at].from, "filled here, and shown nowhere");
    }
    finding.mend(format!("put {{% block {name} %}}{{% endblock %}} into {copied}"))
}

/// Adds the blocks that there are in templates.
fn with_blocks(registry: &Registry, mut finding: Finding, files: &[FileId]) -> Finding {
    for file in files {
        let sections = registry.template(*file).map_or(&[][..], |template| &template.sections);
        for block in sections.iter().flat_map(|section| &section.blocks) {
            finding = finding.at(registry, Place { file: *file, at: block.at }, "this block is there");
        }
    }
    finding
}

/// The names of a template's blocks.
fn blocks(registry: &Registry, file: FileId) -> Vec<String> {
    let sections = registry.template(file).map_or(&[][..], |template| &template.sections);
    sections.iter().flat_map(|section| &section.blocks).map(|block| format!("`{}`", block.name)).collect()
}

/// Adds where a template says what it extends.
fn at_extends(registry: &Registry, finding: Finding, file: FileId) -> Finding {
    let refs = registry.template(file).map_or(&[][..], |template| &template.refs);
    match refs.iter().find(|reference| reference.verb == TemplateVerb::Extends) {
        Some(extends) => finding.at(registry, Place { file, at: extends.at }, "this is what it extends"),
        None => finding,
    }
}

/// What stands outside of blocks.
fn outside(registry: &Registry, file: FileId, places: &[crate::source::At]) -> Finding {
    let layer = registry.project().file(file).layer;
    let message = "what stands outside of blocks is not shown, since this template extends another one";
    let mut finding = Finding::new(&RULE, layer, message);
    for (at, place) in places.iter().enumerate() {
        let label = if at == 0 { "no page shows this" } else { "nor this" };
        finding = finding.at(registry, Place { file, at: *place }, label);
    }
    at_extends(registry, finding, file).mend("move it into a block, or take it away")
}

/// What a template hands to a macro that does not print it: `{% call card() %}…{% endcall %}`, without `caller()`.
fn uncalled(registry: &Registry, file: FileId, called: &Named) -> Option<Finding> {
    let (shown, section) = macro_named(registry, file, called.name)?;
    let says = &registry.template(shown)?.sections[usize::from(section.0)];
    if says.mentions.iter().any(|mention| mention.name == "caller") {
        return None;
    }
    let text = registry.project().file(shown).text();
    let place = Place { file, at: called.at };
    let message =
        format!("the macro `{}` prints no caller(), so what stands in this call is shown nowhere", called.name);
    let finding = Finding::new(&RULE, registry.layer_of(place), message).at(registry, place, "called with a text");
    let begins = format!("macro {}(", called.name);
    let finding = match text.find(&begins) {
        Some(start) => finding.at_span(shown, Span::new(start + 6, start + begins.len() - 1), "this macro"),
        None => finding,
    };
    Some(finding.mend("print {{ caller() }} in the macro, or print the macro without a call"))
}

/// The macro of that name, as a template sees it: its own, or one that it imports.
fn macro_named(registry: &Registry, file: FileId, name: Name) -> Option<(FileId, SectionId)> {
    let template = registry.template(file)?;
    if let Some(section) = template.section(SectionKind::Macro(name)) {
        return Some((file, section));
    }
    let layer = registry.project().file(file).layer;
    template.refs.iter().filter(|reference| reference.verb == TemplateVerb::Import).find_map(|reference| {
        let other = registry.resolve_template(&reference.target?, layer)?;
        let meant = reference.aliases.iter().find_map(|(local, of)| match of {
            Some(of) => (*local == name).then_some(of.name),
            None => Some(name),
        })?;
        Some((other, registry.template(other)?.section(SectionKind::Macro(meant))?))
    })
}
