//! A translation lacks a form, or translates another plural

use crate::link::Registry;
use crate::rules::{Example, Finding, Level, Rule};
use crate::source::Place;

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "plural-forms",
    level: Level::Error,
    links: &[],
    awaited: false,
    summary: "A translation lacks a form, or translates another plural",
    explanation: "How many forms a language has is said by the Plural-Forms of the file's header; an entry of a text with a plural has one msgstr for each. An entry whose msgid_plural is not the plural of the text was made for an older one.",
    wrong: Example(&[
        (
            "markup/page.html",
            r##"{% extends "layout.html" %}
{% block main %}
  <main>{{ place("region:main") }}</main>
  <p>{{ "{count} tide" | t(plural="{count} tides", count=2) }}</p>
{% endblock %}
"##,
        ),
        ("truehook.toml", "[feature.translations]\n"),
        (
            "words/pl.po",
            "msgid \"\"\nmsgstr \"Language: pl\\nPlural-Forms: nplurals=3; plural=(n==1 ? 0 : n%10>=2 && n%10<=4 && (n%100<10 || n%100>=20) ? 1 : 2);\\n\"\n\nmsgid \"{count} tide\"\nmsgid_plural \"{count} tides\"\nmsgstr[0] \"{count} przypływ\"\nmsgstr[1] \"{count} przypływy\"\n",
        ),
    ]),
    right: Example(&[(
        "words/pl.po",
        "msgid \"\"\nmsgstr \"Language: pl\\nPlural-Forms: nplurals=3; plural=(n==1 ? 0 : n%10>=2 && n%10<=4 && (n%100<10 || n%100>=20) ? 1 : 2);\\n\"\n\nmsgid \"{count} tide\"\nmsgid_plural \"{count} tides\"\nmsgstr[0] \"{count} przypływ\"\nmsgstr[1] \"{count} przypływy\"\nmsgstr[2] \"{count} przypływów\"\n",
    )]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    let mut seen = Vec::new();
    for used in registry.messages() {
        let Some(plural) = used.message.plural else { continue };
        let (id, wanted) = (used.message.id.name, plural.name);
        if seen.contains(&(id, wanted)) {
            continue;
        }
        seen.push((id, wanted));
        let translations = registry.translations();
        let all = translations.iter().filter_map(|(file, _)| Some((*file, registry.words(*file)?)));
        for (file, words) in all {
            for entry in words.entries.iter().filter(|entry| entry.id == id && !entry.fuzzy) {
                let forms = entry.forms.iter().filter(|form| !form.is_empty()).count();
                // An entry that is empty is no translation yet, and told as that.
                let (message, mend) = match entry.plural {
                    _ if forms == 0 => continue,
                    None => (
                        format!("`{id}` is translated without its plural `{wanted}`"),
                        format!("give the entry a msgid_plural \"{wanted}\", and a msgstr[…] for each form"),
                    ),
                    Some(other) if other != wanted => (
                        format!("the translation of `{id}` is for the plural `{other}`, which is `{wanted}` by now"),
                        format!("look at the translation, and write msgid_plural \"{wanted}\""),
                    ),
                    Some(_) if forms < words.plurals.forms => (
                        format!("the translation of `{id}` has {forms} of {} forms", words.plurals.forms),
                        format!("add the forms up to msgstr[{}]", words.plurals.forms - 1),
                    ),
                    Some(_) => continue,
                };
                let finding = Finding::new(&RULE, registry.project().file(file).layer, message);
                let finding = finding.at(registry, Place { file, at: entry.at }, "translated here");
                let place = Place { file: used.file, at: plural.at };
                found.push(finding.at(registry, place, "the plural of the theme").mend(mend));
            }
        }
    }
}
