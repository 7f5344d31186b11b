//! Pages have no title

use crate::address::{Address, Kind};
use crate::command_line;
use crate::link::{Registry, Runs, Target, Types};
use crate::rules::telling::list;
use crate::rules::{Example, Finding, Level, Rule};
use crate::scan::{ElementKind, Shape};
use crate::source::{FileId, Span};

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "untitled-page",
    level: Level::Warning,
    links: &[],
    awaited: false,
    summary: "Pages have no title",
    explanation: "Browsers show the title in the tab, in bookmarks and in the history, and people who don't see the page are told it first (WCAG, 2.4.2). A template writes the title element, or the feature page-titles does.",
    wrong: Example(&[(
        "markup/layout.html",
        r##"<!doctype html>
<html lang="en">
<head><meta charset="utf-8">{{ place("hook:document-head") }}</head>
<body>
{% block main %}<main>{{ place("region:main") }}</main>{% endblock %}
{{ place("hook:document-end") }}
</body>
</html>
"##,
    )]),
    right: Example(&[(
        "truehook.toml",
        r##"[feature.page-titles]
"##,
    )]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    let feature = Address::new(Kind::Feature, "page-titles");
    // What was most likely meant to be it is told there.
    let is_meant = registry.is_meant(Target::Point(feature));
    if registry.is_on(feature)
        || is_meant
        || registry.blind().placements
        || registry.blind().declarations
        || writes_title(registry)
    {
        return;
    }
    let (mut titled, mut headed): (Vec<Types>, Option<(FileId, Span, Types)>) = (Vec::new(), None);
    for (at, facts) in registry.all_facts().iter().enumerate() {
        let Shape::Template(template) = &facts.shape else { continue };
        let file = FileId(at as u32);
        if template.elements.iter().any(|element| element.kind == ElementKind::Title) {
            titled.push(registry.template_types(file));
        }
        // Several templates may have a head; one of the highest layer is shown.
        let types = registry.template_types(file);
        let layer = registry.project().file(file).layer;
        if template.extends().is_some() {
            continue;
        }
        let is_nearer = headed.as_ref().is_none_or(|(known, ..)| registry.project().file(*known).layer < layer);
        if !types.is_empty() && is_nearer {
            headed = head(registry.project().file(file).text()).map(|span| (file, span, types)).or(headed);
        }
    }
    let Some((file, span, types)) = headed else { return };
    let without: Types = (0..registry.types().len())
        .filter(|at| types.has(*at) && !titled.iter().any(|titled| titled.has(*at)))
        .collect();
    if without.is_empty() {
        return;
    }
    let message = format!("pages of type {} have no title", list(&registry.type_names(without)));
    let finding = Finding::new(&RULE, registry.project().file(file).layer, message);
    let finding = finding.at_span(file, span, "there is no title element in this head");
    found.push(finding.mend(match registry.point(feature).is_some_and(|point| registry.is_offered(point)) {
        true => command_line!["declare", feature],
        false => "write <title>{{ page.heading }}</title> into the head".to_string(),
    }));
}

/// The start tag of the head, where a template has one.
fn head(text: &str) -> Option<Span> {
    if ["<head", "<HEAD"].iter().all(|tag| memchr::memmem::find(text.as_bytes(), tag.as_bytes()).is_none()) {
        return None;
    }
    let lower = text.to_ascii_lowercase();
    let start = lower
        .match_indices("<head")
        .map(|(at, _)| at)
        .find(|at| !lower[at + 5..].starts_with(|c: char| c.is_ascii_alphanumeric()))?;
    let end = start + lower[start..].find('>')? + 1;
    Some(Span::new(start, end))
}

/// May what is attached in the head write a title?
fn writes_title(registry: &Registry) -> bool {
    let Some(point) = registry.head_hook().and_then(|hook| registry.point(hook)) else { return false };
    point.slots.iter().any(|slot| match slot.runs {
        Runs::Callback(_, Some(callback)) => registry.project().file(callback.file).text().contains("<title"),
        Runs::Callback(_, None) => true,
        Runs::Partial(..) => false,
    })
}
