//! A feature is switched on, but what it feeds is never used

use crate::address::Kind;
use crate::link::{Feed, Link, Outcome, Point, Registry, Target};
use crate::name::Name;
use crate::rules::{Example, Finding, Level, Rule};
use crate::scan::Shape;

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "feature-unshown",
    level: Level::Warning,
    summary: "A feature is switched on, but what it feeds is never used",
    explanation: "Most features show only where the theme uses what they give: a variable, an input, a custom property. Switched on and never used, the feature is not there for anybody.",
    wrong: Example(&[(
        "truehook.toml",
        r##"[feature.emblem]
"##,
    )]),
    right: Example(&[(
        "markup/page.html",
        r##"{% extends "layout.html" %}
{% block main %}
  {% if site.emblem %}{{ place("partial:picture", file=site.emblem.file, alt=site.emblem.alt) }}{% endif %}
  <main>{{ place("region:main") }}</main>
{% endblock %}
"##,
    )]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    let top = registry.project.top();
    if registry.project.layer(top).open || registry.blind.placements || registry.blind.declarations {
        return;
    }
    for point in registry.points.values().filter(|point| registry.is_on(point.address)) {
        let Some(feature) = &point.feature else { continue };
        // What was most likely meant by a misspelt use is used.
        let variables: Vec<Name> = feature
            .feeds
            .iter()
            .filter_map(|(feed, _)| match feed {
                Feed::Variable(name) => name.as_str().split_once('.').map(|(_, key)| key.into()),
                Feed::Input(_, name) => Some(*name),
                _ => None,
            })
            .collect();
        let used = registry.references.iter().any(|reference| {
            if let Outcome::Missing { meant: Some(meant), .. } = reference.outcome {
                let last = reference.written.as_str().rsplit('.').next().unwrap_or_default();
                if variables.iter().any(|name| *name == meant.written || *name == *last) {
                    return true;
                }
            }
            let leads = match reference.outcome {
                Outcome::Found(target) => target == Target::Point(point.address),
                Outcome::Missing { meant, .. } => {
                    meant.is_some_and(|meant| meant.target == Target::Point(point.address))
                }
                Outcome::Unknown => false,
            };
            leads && reference.link == Link::FeedToFeature
        });
        if used || feature.feeds.is_empty() || feature.feeds.iter().any(|(feed, _)| shows(registry, *feed)) {
            continue;
        }
        let message = format!("`{}` is switched on, but {}", point.address, nothing(point));
        let Some(layer) = point.layer() else { continue };
        let finding = Finding::new(&RULE, layer, message).about(point.address);
        let mut finding = finding.at_declaration(registry, point.address, "switched on here");
        for (_, place) in &feature.feeds {
            finding = finding.at(registry, *place, "this is what it feeds");
        }
        found.push(finding.mend("use what it feeds, or take it away"));
    }
}

fn nothing(point: &Point) -> String {
    let feeds = point.feature.iter().flat_map(|feature| &feature.feeds).map(|(feed, _)| match feed {
        Feed::Point(address) => format!("`{address}` is placed nowhere"),
        Feed::Input(component, input) => format!("nothing gives `{component}` its `{input}`"),
        Feed::Variable(name) => format!("nothing reads `{name}`"),
        Feed::Property(name, several) => {
            format!("no style reads `var({name}{})`", if *several { "…" } else { "" })
        }
        Feed::Style(text) => format!("no style says `{text}`"),
        Feed::Messages => "no text is translated with `t`".to_string(),
    });
    feeds.collect::<Vec<_>>().join(", and ")
}

/// Is something used that a feature feeds?
fn shows(registry: &Registry, feed: Feed) -> bool {
    match feed {
        // A required point that is missing is told by itself, and so is one that no page reaches.
        Feed::Point(address) => registry
            .point(address)
            .is_some_and(|point| address.kind != Kind::Hook || point.required || !point.uses.is_empty()),
        Feed::Input(..) => false,
        // Entries that nothing asks for are told one by one.
        Feed::Messages => registry
            .translations()
            .iter()
            .any(|(file, _)| registry.words(*file).is_some_and(|words| words.broken || !words.entries.is_empty())),
        // A callback reads it out of its context.
        Feed::Variable(name) => {
            let key = name.as_str().split_once('.').map_or(name.as_str(), |(_, key)| key);
            texts(registry, |shape| matches!(shape, Shape::Module(_))).any(|text| has_word(text, key))
        }
        // What a missing style sheet would say is not known.
        Feed::Property(..) | Feed::Style(_) if lacks_style(registry) => true,
        Feed::Property(name, several) => {
            let text = format!("var({name}{}", if several { "" } else { ")" });
            texts(registry, is_shown).any(|other| other.contains(&text))
        }
        Feed::Style(text) => {
            texts(registry, |shape| matches!(shape, Shape::Style(_))).any(|other| other.contains(text.as_str()))
        }
    }
}

fn lacks_style(registry: &Registry) -> bool {
    registry.misses.iter().any(|miss| miss.link == Link::AssetToFile)
        || registry.facts.iter().any(|facts| matches!(&facts.shape, Shape::Style(style) if style.broken))
}

fn is_shown(shape: &Shape) -> bool {
    matches!(shape, Shape::Style(_) | Shape::Template(_) | Shape::Module(_))
}

/// The texts of the theme's files of some kind.
fn texts(registry: &Registry, wanted: fn(&Shape) -> bool) -> impl Iterator<Item = &str> {
    let files = registry.project.files.iter().zip(registry.facts.iter());
    files.filter(move |(file, facts)| file.layer.index() > 0 && wanted(&facts.shape)).map(|(file, _)| file.text())
}

fn has_word(text: &str, word: &str) -> bool {
    text.match_indices(word).any(|(at, _)| {
        let part = |c: char| c.is_alphanumeric() || c == '_' || c == '$';
        !text[..at].ends_with(part) && !text[at + word.len()..].starts_with(part)
    })
}
