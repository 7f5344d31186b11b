//! A feature is switched on, but what it feeds is never used

use rustc_hash::FxHashSet;

use crate::address::{Address, Kind};
use crate::link::{Feature, Fed, Feed, Link, Outcome, Point, Reference, Registry, Target};
use crate::name::Name;
use crate::rules::telling::list;
use crate::rules::{Example, Finding, Level, Rule};
use crate::scan::Shape;
use crate::source::FileId;

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "feature-unshown",
    level: Level::Warning,
    links: &[],
    awaited: true,
    summary: "A feature is switched on, but what it feeds is never used",
    explanation: "Most features show only where the theme uses what they give: a variable, an input, a custom property. Switched on and never used, the feature is not there for anybody.",
    wrong: Example(&[(
        "truehook.toml",
        r##"[feature.pictures]
emblem = true
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
    let top = registry.project().top();
    let blind = registry.blind();
    if registry.project().layer(top).open || blind.placements || blind.declarations {
        return;
    }
    for point in registry.points().filter(|point| registry.is_on(point.address)) {
        let Some(feature) = &point.feature else { continue };
        let mut arguments: Vec<Option<Name>> = feature.feeds.iter().map(|fed| fed.argument).collect();
        arguments.dedup();
        for argument in arguments {
            let asked = argument.map_or(point.address, |argument| point.address.with_argument(argument));
            let feeds: Vec<&Fed> = feature.feeds.iter().filter(|fed| fed.argument == argument).collect();
            if registry.is_on(asked) {
                unshown(registry, point, feature, asked, &feeds, found);
            }
        }
    }
}

/// Is a feature, or one argument of it, on for nobody?
fn unshown(
    registry: &Registry,
    point: &Point,
    feature: &Feature,
    asked: Address,
    feeds: &[&Fed],
    found: &mut Vec<Finding>,
) {
    if feeds.iter().any(|fed| shows_whole(registry, feature, asked, fed)) {
        return;
    }
    let entries = entries(feature, asked, feeds);
    let lost: Vec<&String> =
        entries.iter().filter(|name| !feeds.iter().any(|fed| shows_entry(registry, fed, name))).collect();
    let message = match (entries.is_empty(), lost.len()) {
        (false, 0) => return,
        (false, _) => {
            let names: Vec<String> = lost.iter().map(|name| format!("`{name}`")).collect();
            format!("`{asked}` has {}, but {}", list(&names), nothing(feeds))
        }
        (true, _) => format!("`{asked}` is switched on, but {}", nothing(feeds)),
    };
    let Some(layer) = point.layer() else { return };
    let mut finding = Finding::new(&RULE, layer, message).about(asked);
    let given = asked.argument().and_then(|(_, argument)| feature.given_at(argument));
    finding = match (given, asked.argument()) {
        (Some(given), Some((_, argument))) => {
            let entry = lost.first().map(|name| name.to_string());
            let steps: Vec<String> = [argument.to_string()].into_iter().chain(entry).collect();
            finding.at_part(registry, given.place, &steps, "switched on here")
        }
        _ => finding.at_declaration(registry, point.address, "switched on here"),
    };
    for given in registry.references().iter().filter(|reference| is_given(registry, reference, asked)) {
        finding = finding.at(registry, given.from, "given here, shown nowhere");
    }
    for fed in feeds {
        finding = finding.at(registry, fed.place, "this is what it feeds");
    }
    found.push(finding.mend("use what it feeds, or take it away"));
}

/// The entries of an argument, where each is to show by itself.
fn entries(feature: &Feature, asked: Address, feeds: &[&Fed]) -> Vec<String> {
    let several = |fed: &&&Fed| matches!(fed.feed, Feed::Property(_, true) | Feed::Style(_, true));
    let argument = asked.argument().filter(|_| feeds.iter().any(|fed| several(&fed)));
    let table = argument.and_then(|(_, argument)| feature.argument(argument));
    let entries = table.as_ref().and_then(|table| table.as_object()).into_iter().flatten();
    entries.filter(|(_, entry)| entry.is_object()).map(|(name, _)| name.clone()).collect()
}

/// Does the preview give this? Who gives something does not show it.
fn is_given(registry: &Registry, reference: &Reference, asked: Address) -> bool {
    reference.outcome == Outcome::Found(Target::Point(asked)) && registry.is_given(reference)
}

fn nothing(feeds: &[&Fed]) -> String {
    let feeds = feeds.iter().map(|fed| match fed.feed {
        Feed::Point(address) => format!("`{address}` is placed nowhere"),
        Feed::Input(component, input) => format!("nothing gives `{component}` its `{input}`"),
        Feed::Format(format) => format!("no input has the format `{format}`"),
        Feed::Variable(name) => format!("nothing reads `{name}`"),
        Feed::Property(name, several) => {
            format!("no style reads `var({name}{})`", if several { "…" } else { "" })
        }
        Feed::Style(text, several) => format!("no style says `{text}{}`", if several { "…" } else { "" }),
        Feed::Messages => "no text is translated with `t`".to_string(),
    });
    feeds.collect::<Vec<_>>().join(", and ")
}

/// Would something show an argument of a feature that is switched on?
pub(super) fn would_show(registry: &Registry, point: &Point, feature: &Feature, argument: &str) -> bool {
    let asked = point.address.with_argument(argument.into());
    let mut feeds = feature.feeds.iter().filter(|fed| fed.argument.is_some_and(|own| own == *argument)).peekable();
    feeds.peek().is_none() || feeds.any(|fed| shows_whole(registry, feature, asked, fed))
}

/// Is something used that all of a feature, or of an argument, feeds?
fn shows_whole(registry: &Registry, feature: &Feature, asked: Address, fed: &Fed) -> bool {
    // What was most likely meant by a misspelt use is used.
    let key = match fed.feed {
        Feed::Variable(name) => name.as_str().split_once('.').map(|(_, key)| Name::from(key)),
        Feed::Input(_, name) => Some(name),
        _ => None,
    };
    let several = !entries(feature, asked, &[fed]).is_empty();
    let used = registry.references().iter().any(|reference| {
        let target = Target::Point(asked);
        let (leads, meant) = match reference.outcome {
            Outcome::Found(found) => (found == target, None),
            Outcome::Missing { meant, .. } => (meant.is_some_and(|meant| meant.target == target), meant),
            Outcome::Unknown => (false, None),
        };
        let last = || reference.written.as_str().rsplit('.').next().unwrap_or_default();
        let slip = meant.zip(key).is_some_and(|(meant, key)| key == meant.written || key == *last());
        let asks = leads && reference.link == Link::FeedToFeature && !several;
        (asks || slip) && !is_given(registry, reference, asked)
    });
    used || match fed.feed {
        // A required point that is missing is told by itself, and so is one that no page reaches.
        Feed::Point(address) => registry
            .point(address)
            .is_some_and(|point| address.kind != Kind::Hook || point.required || !point.uses.is_empty()),
        Feed::Input(..) => false,
        Feed::Format(format) => registry.points().any(|point| {
            point.declared.iter().any(|declared| declared.layer.index() > 0)
                && point.inputs.iter().any(|input| input.field.format() == Some(format.as_str()))
        }),
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
        Feed::Property(..) | Feed::Style(..) if lacks_style(registry) => true,
        Feed::Property(_, true) | Feed::Style(_, true) => false,
        Feed::Property(name, false) => says(registry, &format!("var({name}")),
        Feed::Style(text, false) => {
            texts(registry, |shape| matches!(shape, Shape::Style(_))).any(|other| other.contains(text.as_str()))
        }
    }
}

/// Is one entry of an argument used?
fn shows_entry(registry: &Registry, fed: &Fed, name: &str) -> bool {
    match fed.feed {
        Feed::Property(lead, _) => says(registry, &format!("var({lead}{name}")),
        Feed::Style(lead, _) => says(registry, &format!("{lead}{name}")),
        _ => false,
    }
}

/// Does anything that is shown say this, as a whole word?
fn says(registry: &Registry, wanted: &str) -> bool {
    texts(registry, is_shown).any(|text| {
        text.match_indices(wanted).any(|(at, _)| {
            let rest = &text[at + wanted.len()..];
            !rest.starts_with(|c: char| c.is_alphanumeric() || c == '-' || c == '_')
        })
    })
}

fn lacks_style(registry: &Registry) -> bool {
    registry.misses().iter().any(|miss| miss.link == Link::AssetToFile)
        || registry.all_facts().iter().any(|facts| matches!(&facts.shape, Shape::Style(style) if style.broken))
}

fn is_shown(shape: &Shape) -> bool {
    matches!(shape, Shape::Style(_) | Shape::Template(_) | Shape::Module(_))
}

/// The texts of the theme's files of some kind.
fn texts(registry: &Registry, wanted: fn(&Shape) -> bool) -> impl Iterator<Item = &str> {
    let loaded: FxHashSet<FileId> = loaded_styles(registry);
    let files = registry.project().files.iter().zip(registry.all_facts().iter()).enumerate();
    let is_there =
        move |at: usize, shape: &Shape| !matches!(shape, Shape::Style(_)) || loaded.contains(&FileId(at as u32));
    files
        .filter(move |(at, (file, facts))| {
            file.layer.index() > 0 && wanted(&facts.shape) && is_there(*at, &facts.shape)
        })
        .map(|(_, (file, _))| file.text())
}

/// The style sheets that anything names. What another layer's file has taken the place of is not among them.
fn loaded_styles(registry: &Registry) -> FxHashSet<FileId> {
    let found = registry.references().iter().filter_map(|reference| match reference.outcome {
        Outcome::Found(Target::File(file)) => Some(file),
        Outcome::Missing { meant: Some(meant), .. } => match meant.target {
            Target::File(file) => Some(file),
            _ => None,
        },
        _ => None,
    });
    found.collect()
}

fn has_word(text: &str, word: &str) -> bool {
    text.match_indices(word).any(|(at, _)| {
        let part = |c: char| c.is_alphanumeric() || c == '_' || c == '$';
        !text[..at].ends_with(part) && !text[at + word.len()..].starts_with(part)
    })
}
