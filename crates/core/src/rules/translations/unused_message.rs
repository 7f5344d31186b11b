//! A translation holds an entry for a message that the theme does not have

use std::collections::HashSet;

use indexmap::IndexMap;
use indexmap::map::Entry;
use rustc_hash::FxBuildHasher;

use crate::link::{Link, Registry, Target};
use crate::name::Name;
use crate::rules::{Example, Finding, Level, Rule};
use crate::source::{LayerId, Place};

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "unused-message",
    level: Level::Warning,
    links: &[],
    awaited: false,
    summary: "A translation holds an entry for a message that the theme does not have",
    explanation: "Entries go by the text of the theme. One that nothing asks for is left over, or belongs to a text that has been changed since.",
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
  <p>{{ "Low water" | t }}</p>
  <main>{{ place("region:main") }}</main>
{% endblock %}
"##,
        ),
        (
            "words/de.po",
            "msgid \"\"\nmsgstr \"Language: de\\n\"\n\nmsgid \"Low water\"\nmsgstr \"Niedrigwasser\"\n\nmsgid \"Dogs stay on the lead\"\nmsgstr \"Hunde an die Leine\"\n",
        ),
    ]),
    right: Example(&[(
        "words/de.po",
        "msgid \"\"\nmsgstr \"Language: de\\n\"\n\nmsgid \"Low water\"\nmsgstr \"Niedrigwasser\"\n",
    )]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    // What doesn't parse may ask for any message.
    let misses_t = registry.misses().iter().any(|miss| miss.link == Link::ImportToModule);
    if registry.blind().placements || registry.blind().imports || misses_t {
        return;
    }
    let used: HashSet<Name> = registry.messages().map(|used| used.message.id.name).collect();
    let mut told: IndexMap<(Name, LayerId), Finding, FxBuildHasher> = IndexMap::default();
    for (file, _) in registry.translations() {
        let Some(words) = registry.words(file) else { continue };
        for entry in words.entries.iter().filter(|entry| !used.contains(&entry.id)) {
            let place = Place { file, at: entry.at };
            if registry.is_referred(Target::Entry(place)) {
                continue;
            }
            let layer = registry.project().file(file).layer;
            match told.entry((entry.id, layer)) {
                Entry::Occupied(mut known) => {
                    let finding = known.get().clone().at(registry, place, "and here");
                    known.insert(finding);
                }
                Entry::Vacant(new) => {
                    let message = format!("`{}` is translated, but nothing asks for it", entry.id);
                    let finding = Finding::new(&RULE, layer, message).at(registry, place, "no text of the theme");
                    new.insert(finding.mend("take the entry away, or write this text with `t` where it belongs"));
                }
            }
        }
    }
    found.extend(told.into_values());
}
