//! A template writes by hand what a feature writes

use crate::address::{Address, Kind};
use crate::link::{Registry, Renderer, menu_partial};
use crate::rules::{Example, Finding, Level, Mend, Rule};
use crate::scan::{ElementKind, Shape, Verb};
use crate::source::{Edit, FileId, LayerId, Place, Span};

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "done-twice",
    level: Level::Warning,
    links: &[],
    awaited: false,
    summary: "A template writes by hand what a feature writes",
    explanation: "With the feature switched on the page has it twice, and browsers and search engines take the one or the other.",
    wrong: Example(&[
        (
            "truehook.toml",
            r##"[feature.page-titles]
"##,
        ),
        (
            "markup/layout.html",
            r##"<!doctype html>
<html lang="en">
<head><title>{{ page.heading }}</title>{{ place("hook:document-head") }}</head>
<body>
{% block main %}<main>{{ place("region:main") }}</main>{% endblock %}
{{ place("hook:document-end") }}
</body>
</html>
"##,
        ),
    ]),
    right: Example(&[(
        "markup/layout.html",
        r##"<!doctype html>
<html lang="en">
<head>{{ place("hook:document-head") }}</head>
<body>
{% block main %}<main>{{ place("region:main") }}</main>{% endblock %}
{{ place("hook:document-end") }}
</body>
</html>
"##,
    )]),
    check,
};

/// The feature that writes such an element, and what it is.
fn writer(kind: ElementKind) -> Option<(&'static str, &'static str)> {
    match kind {
        ElementKind::Title => Some(("page-titles", "the title element")),
        ElementKind::ColourScheme => Some(("colours.schemes", "the colour schemes")),
        ElementKind::ShareCard => Some(("share-cards", "an Open Graph property")),
        ElementKind::FeedLink => Some(("newsfeed", "the link to the feed")),
        ElementKind::StyleSheet
        | ElementKind::Script
        | ElementKind::Resource
        | ElementKind::Link
        | ElementKind::Data(_) => None,
    }
}

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    landmarks(registry, found);
    for (at, facts) in registry.all_facts().iter().enumerate() {
        let Shape::Template(template) = &facts.shape else { continue };
        let file = FileId(at as u32);
        if registry.template_types(file).is_empty() {
            continue;
        }
        for element in &template.elements {
            let Some((name, what)) = writer(element.kind) else { continue };
            let feature = Address::new(Kind::Feature, name);
            if !registry.is_on(feature) {
                continue;
            }
            let place = Place { file, at: element.at };
            let switched = registry.point(feature).and_then(|point| point.layer());
            let layer = registry.layer_of(place).max(switched.unwrap_or(registry.layer_of(place)));
            let message = format!("{what} is written by hand, and `{feature}` writes it, too");
            let finding = Finding::new(&RULE, layer, message).about(feature);
            let finding = finding.at(registry, place, "written by hand");
            let mut finding = finding.at_declaration(registry, feature, "switched on here");
            // The primary place is where the layer that is told can mend it.
            if registry.layer_of(place) != layer {
                finding.places.reverse();
            }
            let edits = vec![Edit { file, span: registry.span(place), new: String::new() }];
            let text = "take away what is written by hand".to_string();
            finding.mend = Some(Mend { text, safe: false, edits });
            found.push(finding);
        }
    }
}

/// Menus inside a `nav` that a template writes, where the host's partial writes one, too.
fn landmarks(registry: &Registry, found: &mut Vec<Finding>) {
    let feature = Address::new(Kind::Feature, "host-parts").with_argument("landmarks".into());
    let partial = registry.point(menu_partial()).and_then(|point| point.renderer);
    // Another theme's partial writes what it likes.
    let is_hosts = |file: FileId| registry.project().file(file).layer == LayerId(0);
    if !registry.is_on(feature) || !matches!(partial, Some(Renderer::Template(file)) if is_hosts(file)) {
        return;
    }
    for point in registry.points().filter(|point| point.address.kind == Kind::Menu) {
        for id in &point.uses {
            let used = registry.use_of(*id);
            let is_plain = used.verb == Verb::Place && !used.open && used.args.iter().all(|arg| arg.name != "with");
            let is_reached = is_plain && !registry.use_reached(*id).is_empty();
            let Some(nav) = registry.template(id.file).filter(|_| is_reached).and_then(|_| {
                nav_around(registry.project().file(id.file).text(), registry.span(registry.use_place(*id)))
            }) else {
                continue;
            };
            let layer = registry.project().file(id.file).layer;
            let message = format!("`{}` is placed in a nav element, and `{feature}` writes one, too", point.address);
            let finding = Finding::new(&RULE, layer, message).about(feature.whole());
            let finding = finding.at_span(id.file, nav, "written by hand");
            let finding = finding.at(registry, registry.use_place(*id), "placed here");
            let finding = finding.at_declaration(registry, feature, "switched on here");
            found.push(finding.mend("write another element in the place of the nav, such as a div"));
        }
    }
}

/// The start tag of the `nav` in which something stands.
fn nav_around(text: &str, inside: Span) -> Option<Span> {
    let before = text.get(..inside.range().start)?;
    let start = before.rfind("<nav").filter(|start| before[*start..].find("</nav").is_none())?;
    let end = start + before[start..].find('>')? + 1;
    Some(Span::new(start, end))
}
