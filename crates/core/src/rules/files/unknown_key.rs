//! A key means nothing where it stands

use crate::link::Registry;
use crate::name::Name;
use crate::names::{certain, nearest};
use crate::rules::telling::{flaws, rewrite, writing};
use crate::rules::{ALL, Example, Finding, Level, Rule, is_rule};
use crate::scan::{FlawKind, Given};
use crate::source::{FileId, Place};

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "unknown-key",
    level: Level::Error,
    links: &[],
    awaited: false,
    summary: "A key means nothing where it stands",
    explanation: "Nothing reads it, so what it was meant to say has no effect. Most often it is misspelt or stands in the wrong table.",
    wrong: Example(&[
        (
            "truehook.toml",
            r##"[region.aside]
lable = "Beside the text"
"##,
        ),
        (
            "markup/page.html",
            r##"{% extends "layout.html" %}
{% block main %}
  <main>{{ place("region:main") }}</main>
  {{ place("region:aside") }}
{% endblock %}
"##,
        ),
    ]),
    right: Example(&[(
        "truehook.toml",
        r##"[region.aside]
label = "Beside the text"
"##,
    )]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    flaws(registry, &RULE, FlawKind::UnknownKey, found);
    page_keys(registry, found);
    let Some(manifest) = registry.top_manifest() else { return };
    let file = registry.project().layer(registry.project().top()).manifest;
    for (name, _) in manifest.check.rules.iter().filter(|(name, _)| !is_rule(&name.name)) {
        let known = || ALL.iter().map(|rule| rule.name);
        let label = match nearest(&name.name, known()) {
            Some(near) => format!("did you mean `{near}`?"),
            None => "there is no rule of that name".to_string(),
        };
        let message = format!("`{}` is not a rule", name.name);
        let finding = Finding::new(&RULE, registry.project().top(), message);
        found.push(finding.at(registry, Place { file, at: name.at }, label));
    }
}

/// Keys of a page that no type of page has.
fn page_keys(registry: &Registry, found: &mut Vec<Finding>) {
    const OWN: [&str; 6] = ["path", "type", "title", "body", "sections", "data"];
    if registry.blind().declarations {
        return;
    }
    let further = registry.types().iter().flat_map(|page_type| &page_type.keys).map(|field| field.name);
    let further: Vec<Name> = further.chain(registry.fed_keys("page")).collect();
    let known: Vec<&str> = OWN.into_iter().chain(further.iter().map(|name| name.as_str())).collect();
    for (file, page) in registry.pages().filter(|(_, page)| !page.broken) {
        unknown(registry, file, ("a page", "pages"), &page.keys, &known, found);
    }
    const SITE: [&str; 8] = ["title", "motto", "language", "now", "options", "menus", "fill", "data"];
    let further = registry.fed_keys("site");
    let known: Vec<&str> = SITE.into_iter().chain(further.iter().map(|name| name.as_str())).collect();
    for (file, site) in registry.sites().filter(|(_, site)| !site.broken) {
        unknown(registry, file, ("the site", "sites"), &site.keys, &known, found);
    }
}

/// The keys among some that are not known.
fn unknown(
    registry: &Registry,
    file: FileId,
    (what, several): (&str, &str),
    given: &[Given],
    known: &[&str],
    found: &mut Vec<Finding>,
) {
    for given in given.iter().filter(|given| !known.contains(&given.name.name.as_str())) {
        let name = given.name.name;
        let place = Place { file, at: given.name.at };
        let label = match nearest(&name, known.iter().copied()) {
            Some(near) => format!("did you mean `{near}`?"),
            None => format!("what {several} need beside that goes under [data]"),
        };
        let message = format!("{what} has no key `{name}`");
        let mut finding = Finding::new(&RULE, registry.layer_of(place), message).at(registry, place, label);
        if let Some(near) = certain(&name, known.iter().copied()) {
            finding.mend = Some(writing(near, true, [rewrite(registry, place, &name, near)]));
        }
        found.push(finding);
    }
}
