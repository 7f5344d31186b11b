//! A message and its translation, or what is put into it, have other placeholders

use rustc_hash::{FxHashMap, FxHashSet};

use crate::link::{MessageUse, Registry, Wanted};
use crate::name::Name;
use crate::rules::telling::list;
use crate::rules::{Example, Finding, Level, Rule};
use crate::scan::Entry;
use crate::source::{FileId, Place};

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "placeholder-mismatch",
    level: Level::Error,
    links: &[],
    awaited: false,
    summary: "A message and its translation, or what is put into it, have other placeholders",
    explanation: "Placeholders are names in braces, and are not translated. One that nothing is given for is shown as it is, and what no placeholder takes is lost.",
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
  <p>{{ "Low water at {time}" | t(time=page.title) }}</p>
  <main>{{ place("region:main") }}</main>
{% endblock %}
"##,
        ),
        (
            "words/de.po",
            "msgid \"\"\nmsgstr \"Language: de\\n\"\n\nmsgid \"Low water at {time}\"\nmsgstr \"Niedrigwasser um {zeit}\"\n",
        ),
    ]),
    right: Example(&[(
        "words/de.po",
        "msgid \"\"\nmsgstr \"Language: de\\n\"\n\nmsgid \"Low water at {time}\"\nmsgstr \"Niedrigwasser um {time}\"\n",
    )]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    let mut seen = FxHashSet::default();
    let mut entries: FxHashMap<Name, Vec<(FileId, &Entry)>> = FxHashMap::default();
    for (file, _) in registry.translations() {
        let words = registry.words(file).map_or(&[][..], |words| &words.entries);
        for entry in words.iter().filter(|entry| entry.is_translated()) {
            entries.entry(entry.id).or_default().push((file, entry));
        }
    }
    for used in registry.messages() {
        // One that has lost its entry has most likely lost its placeholder with the same slip of the pen.
        if registry.miss_of(Wanted::Message(used.message.id.name)).is_none() {
            arguments(registry, used, found);
        }
        if !seen.insert(used.message.id.name) {
            continue;
        }
        for (file, entry) in entries.get(&used.message.id.name).into_iter().flatten() {
            found.extend(translation(registry, used, *file, entry));
        }
    }
}

/// A translation against the placeholders of its text.
fn translation(registry: &Registry, used: MessageUse<'_>, file: FileId, entry: &Entry) -> Option<Finding> {
    let plural = entry.plural.map(|plural| placeholders(plural.as_str())).unwrap_or_default();
    let known: Vec<&str> = placeholders(&entry.id).into_iter().chain(plural).collect();
    let strange = entry.forms.iter().flat_map(|form| placeholders(form.as_str())).find(|name| !known.contains(name));
    // A form that goes with one number alone may leave it out: "one tide".
    let plurals = registry.words(file).map(|words| &words.plurals)?;
    let alone = |at: usize| entry.plural.is_some() && plurals.numbers(at) == 1;
    let lost = known.iter().find(|name| {
        let mut forms = entry.forms.iter().enumerate().filter(|(at, _)| **name != "count" || !alone(*at));
        forms.any(|(_, form)| !placeholders(form.as_str()).contains(name))
    });
    let message = match (strange, lost) {
        (Some(strange), _) => format!("the translation of `{}` has a placeholder `{strange}` of its own", entry.id),
        (None, Some(lost)) => format!("the translation of `{}` lacks its placeholder `{lost}`", entry.id),
        (None, None) => return None,
    };
    let finding = Finding::new(&RULE, registry.project().file(file).layer, message);
    let finding = finding.at(registry, Place { file, at: entry.at }, "translated here");
    let place = Place { file: used.file, at: used.message.id.at };
    let names: Vec<String> = known.iter().map(|name| format!("{{{name}}}")).collect();
    let mend = match names.is_empty() {
        true => "take the placeholder away".to_string(),
        false => format!("write {} there, as in the text", list(&names)),
    };
    Some(finding.at(registry, place, "the text of the theme").mend(mend))
}

/// What is put into a message against the placeholders that it has.
fn arguments(registry: &Registry, used: MessageUse<'_>, found: &mut Vec<Finding>) {
    let message = used.message;
    let plural = message.plural.map(|plural| placeholders(plural.name.as_str())).unwrap_or_default();
    let known: Vec<&str> = placeholders(message.id.name.as_str()).into_iter().chain(plural).collect();
    let given: Vec<&str> = message.args.iter().map(|arg| arg.name.as_str()).collect();
    let layer = registry.project().file(used.file).layer;
    let mut tell = |text: String, at, label: &str, mend: String| {
        let finding = Finding::new(&RULE, layer, text).at(registry, Place { file: used.file, at }, label);
        let finding = finding.at(registry, Place { file: used.file, at: message.id.at }, "the text of the theme");
        found.push(finding.mend(mend));
    };
    // A name that is given and one that is asked for are most likely the same.
    let strange = message.args.iter().find(|arg| !known.contains(&arg.name.as_str()) && arg.name != "count");
    let lacking = known.iter().find(|name| !given.contains(name) && !message.open);
    match (strange, lacking) {
        (Some(arg), Some(name)) => {
            let text = format!("`{}` has a placeholder `{name}`, and is given `{}`", message.id.name, arg.name);
            tell(text, arg.at, "no placeholder takes this", format!("call it {name}, here or in the text"));
        }
        (Some(arg), None) => {
            let text = format!("`{}` has no placeholder `{}`", message.id.name, arg.name);
            tell(
                text,
                arg.at,
                "no placeholder takes this",
                format!("write {{{}}} in the text, or take it away", arg.name),
            );
        }
        (None, Some(name)) => {
            let text = format!("nothing is given for the placeholder `{name}` of `{}`", message.id.name);
            tell(text, message.id.at, "it is shown as it is", format!("give it {name}=…"));
        }
        (None, None) => {}
    }
}

/// The placeholders of a text: names in braces.
fn placeholders(text: &str) -> Vec<&str> {
    let mut found = Vec::new();
    let mut rest = text;
    while let Some(open) = rest.find('{') {
        rest = &rest[open + 1..];
        let Some(close) = rest.find('}') else { break };
        if crate::names::is_snake(&rest[..close]) {
            found.push(&rest[..close]);
        }
    }
    found
}
