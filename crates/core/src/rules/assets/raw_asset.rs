//! A link or script element for a file of the theme

use crate::address::{Address, Kind};
use crate::edit;
use crate::link::Registry;
use crate::names::is_kebab;
use crate::rules::usage::around::is_inside_head;
use crate::rules::{Example, Finding, Level, Mend, Rule};
use crate::scan::{Element, ElementKind, Named, Prefix, Shape};
use crate::source::{Edit, FileId, Place, Span};

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "raw-asset",
    level: Level::Warning,
    links: &[],
    awaited: false,
    summary: "A link or script element for a file of the theme",
    explanation: "A style sheet or script that is declared comes to the pages that need it, once, after what it needs, and other themes can replace it. One that a template writes out is there wherever that template is, as often as it is, and in no order.",
    wrong: Example(&[
        (
            "markup/layout.html",
            r##"<!doctype html>
<html lang="en">
<head>
<title>{{ page.title }}</title>
<link rel="stylesheet" href="{{ asset("media/tide.css") }}">
{{ place("hook:document-head") }}
</head>
<body>
{% block main %}<main>{{ place("region:main") }}</main>{% endblock %}
{{ place("hook:document-end") }}
</body>
</html>
"##,
        ),
        ("media/tide.css", "table { width: 100%; }\n"),
    ]),
    right: Example(&[
        (
            "truehook.toml",
            r##"[style.tide]
file = "tide.css"
"##,
        ),
        (
            "markup/layout.html",
            r##"<!doctype html>
<html lang="en">
<head>
<title>{{ page.title }}</title>
{{ place("hook:document-head") }}
</head>
<body>
{% block main %}<main>{{ place("region:main") }}</main>{% endblock %}
{{ place("hook:document-end") }}
</body>
</html>
"##,
        ),
    ]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    for (at, facts) in registry.all_facts().iter().enumerate() {
        let file = FileId(at as u32);
        if let Shape::Module(module) = &facts.shape {
            module.assets.iter().for_each(|asset| found.extend(in_module(registry, file, asset)));
        }
        let Shape::Template(template) = &facts.shape else { continue };
        for element in &template.elements {
            let kind = match element.kind {
                ElementKind::StyleSheet => Kind::Style,
                ElementKind::Script => Kind::Script,
                _ => continue,
            };
            let Some(path) = path_of(registry, file, element) else { continue };
            let place = Place { file, at: element.at };
            let declared = declared_as(registry, kind, &path);
            let message = match declared {
                Some(point) => format!("`{point}` is loaded by hand, though it is declared"),
                None => format!("`{path}` is loaded by hand, and is no {kind} that the theme declares"),
            };
            let layer = registry.layer_of(place);
            let finding = Finding::new(&RULE, layer, message);
            let mut finding = finding.at(registry, place, "a declared asset comes to the page by itself");
            if let Some(point) = declared {
                finding = finding.at_declaration(registry, point, "declared here").about(point);
            }
            finding.mend = mend(registry, file, element, kind, &path, declared);
            found.push(finding);
        }
    }
}

/// An element that a callback writes: ``html`<link … href="${asset("media/tide.css")}">` ``.
fn in_module(registry: &Registry, file: FileId, asset: &Named) -> Option<Finding> {
    let place = Place { file, at: asset.at };
    let text = registry.project().file(file).text();
    let before = &text[..registry.span(place).range().start];
    let tag = &before[before.rfind('<')?..];
    let kind = if tag.starts_with("<link") && tag.contains("stylesheet") {
        Kind::Style
    } else if tag.starts_with("<script") {
        Kind::Script
    } else {
        return None;
    };
    // An arrow function between the two is no end of a tag, anything else is.
    if tag.replace("=>", "").contains('>') {
        return None;
    }
    let message = format!("`{}` is loaded by hand, in markup that a callback writes", asset.name);
    let finding = Finding::new(&RULE, registry.layer_of(place), message);
    let finding = finding.at(registry, place, "a declared asset comes to the page by itself");
    Some(finding.mend(format!("declare it as {}, and take the element away", kind.one())))
}

/// The file of a theme that an element loads, from its folder: written out, or asked for with `asset`.
fn path_of(registry: &Registry, file: FileId, element: &Element) -> Option<String> {
    let address = element.address?;
    let facts = registry.facts(file);
    let span = facts.span(address.at);
    let asked = facts.shape.assets().iter().find(|asset| {
        let own = facts.span(asset.at);
        span.start <= own.start && own.end <= span.end
    });
    if let Some(asked) = asked {
        let asset = asked.name.parse::<Address>().ok().and_then(|address| registry.point(address));
        return match asset {
            Some(point) => registry.asset_file(point).map(|file| registry.project().file(file).path.to_string()),
            None => Some(Prefix::split(&asked.name).1.to_string()),
        };
    }
    let written = address.name.as_str().trim_start_matches("./").trim_start_matches("../");
    let own = !element.printed && (written.starts_with("media/") || is_media(registry, written));
    own.then(|| written.to_string())
}

fn is_media(registry: &Registry, path: &str) -> bool {
    registry.find_media_file(path, registry.project().top()).is_some()
}

fn declared_as(registry: &Registry, kind: Kind, path: &str) -> Option<Address> {
    let of_kind = registry.points().filter(|point| point.address.kind == kind);
    let is_it = |file: FileId| registry.project().file(file).path == path;
    let mut found = of_kind.filter(|point| registry.asset_file(point).is_some_and(is_it));
    found.next().map(|point| point.address)
}

/// Takes the element away, and declares the file where it isn't yet.
fn mend(
    registry: &Registry,
    file: FileId,
    element: &Element,
    kind: Kind,
    path: &str,
    declared: Option<Address>,
) -> Option<Mend> {
    let source = registry.project().file(file);
    let span = registry.facts(file).span(element.at);
    let mut edits = vec![Edit { file, span: whole_line(source.text(), span), new: String::new() }];
    let mut text = "take the element away".to_string();
    if declared.is_none() {
        let name = path.rsplit('/').next()?.rsplit_once('.')?.0.to_ascii_lowercase().replace(['_', '.', ' '], "-");
        let address = Address::new(kind, name.as_str());
        let mut keys = vec![("file".to_string(), format!("\"{}\"", path.strip_prefix("media/")?))];
        let in_head = is_inside_head(source.text(), span.range()) == Some(true);
        if kind == Kind::Script && in_head {
            keys.push(("at".to_string(), "\"head\"".to_string()));
        }
        let free = is_kebab(&name) && registry.point(address).is_none() && source.layer == registry.project().top();
        if let Some(edit) = free.then(|| edit::manifest::declare(registry.project(), address, &keys).ok()).flatten() {
            edits.push(edit);
            text = format!("declare `{address}`, and take the element away");
        } else {
            return Some(Mend {
                text: format!("declare it as {}, and take the element away", kind.one()),
                ..Mend::default()
            });
        }
    }
    // Only where every page loads it already does nothing change but its place in the head.
    let everywhere = registry.template_types(file) == registry.templated_types();
    Some(Mend { text, safe: everywhere, edits })
}

/// A stretch with the blanks and the line end around it, where nothing else stands on its line.
fn whole_line(text: &str, span: Span) -> Span {
    let range = span.range();
    let start = text[..range.start].trim_end_matches([' ', '\t']).len();
    let after = &text[range.end..];
    let rest = after.trim_start_matches([' ', '\t', '\r']);
    let starts_line = start == 0 || text[..start].ends_with('\n');
    match starts_line && rest.starts_with('\n') {
        true => Span::new(start, range.end + (after.len() - rest.len()) + 1),
        false => span,
    }
}
