//! A message lacks its translation

use crate::link::{Link, Registry, START, Target, Wanted};
use crate::rules::telling::{list, miss_finding, misses};
use crate::rules::{Example, Finding, Level, Rule};
use crate::source::Place;

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "untranslated",
    level: Level::Warning,
    links: &[Link::MessageToEntry],
    awaited: true,
    summary: "A message lacks its translation",
    explanation: "Without an entry the text of the theme is shown, so that a page is in two languages. A message that was changed has lost its entry, too: entries go by the text.",
    wrong: Example(&[
        (
            "truehook.toml",
            r##"[feature.translations]
"##,
        ),
        (
            "markup/page.html",
            r##"{% extends "layout.html" %}
{% block main %}
  <p>{{ "Low water" | t }} {{ "High water" | t }}</p>
  <main>{{ place("region:main") }}</main>
{% endblock %}
"##,
        ),
        ("words/de.po", "msgid \"\"\nmsgstr \"Language: de\\n\"\n\nmsgid \"Low water\"\nmsgstr \"Niedrigwasser\"\n"),
    ]),
    right: Example(&[(
        "words/de.po",
        "msgid \"\"\nmsgstr \"Language: de\\n\"\n\nmsgid \"Low water\"\nmsgstr \"Niedrigwasser\"\n\nmsgid \"High water\"\nmsgstr \"Hochwasser\"\n",
    )]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    for miss in misses(registry, &RULE) {
        let Wanted::Message(id) = miss.wanted else { continue };
        let lacking: Vec<&str> =
            registry.languages().into_iter().filter(|language| registry.entry(language, &id).is_none()).collect();
        let files: Vec<_> =
            registry.translations().into_iter().filter(|(_, language)| lacking.contains(language)).collect();
        let names: Vec<String> = lacking.iter().map(|language| format!("`{language}`")).collect();
        let message = format!("`{id}` has no translation into {}", list(&names));
        let mut finding = miss_finding(registry, &RULE, miss, message, "the text of the theme is shown");
        // A layer that brings a language has to bring all of it.
        let brings = files.iter().map(|(file, _)| registry.project().file(*file).layer).max();
        finding.layer = brings.map_or(finding.layer, |layer| layer.max(finding.layer));
        if let Some(meant) = miss.meant {
            // The very text may be there, with nothing for it.
            let empty = meant.written == id;
            let label = if empty { "its translation is empty" } else { "has this text been changed?" };
            finding.places[0].label = label.to_string();
            finding = match empty {
                true => finding.mend("write its translation"),
                false => finding.mend(format!("give the entry for `{}` this text for its msgid", meant.written)),
            };
        }
        let near = miss.meant.and_then(|meant| match meant.target {
            Target::Entry(place) => Some(place.file),
            _ => None,
        });
        for (file, _) in &files {
            if Some(*file) != near && registry.project().file(*file).layer == finding.layer {
                finding = finding.at(registry, Place { file: *file, at: START }, "an entry belongs here");
            }
        }
        let own = finding.places.iter().position(|place| registry.project().file(place.file).layer == finding.layer);
        if let Some(own) = own {
            finding.places.swap(0, own);
        }
        if finding.mend.is_none() {
            let own = files.iter().filter(|(file, _)| registry.project().file(*file).layer == finding.layer);
            let words: Vec<String> = own.map(|(file, _)| registry.project().shown(*file)).collect();
            finding = finding.mend(format!("add an entry to {}", list(&words)));
        }
        found.push(finding);
    }
}
