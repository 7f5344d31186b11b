//! A callback returns something that its point does not take

use rustc_hash::FxHashSet;
use serde_json::Value;

use crate::address::Role;
use crate::link::{Point, Registry};
use crate::rules::telling::callbacks;
use crate::rules::{Example, Finding, Level, Rule};
use crate::scan::Returned;
use crate::source::{At, Place};

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "unfit-return",
    level: Level::Error,
    links: &[],
    awaited: false,
    summary: "A callback returns something that its point does not take",
    explanation: "A listener and what renders a component return markup or text, an arranger returns a list, a preparer a table of inputs, and a listener at a moment nothing. Of anything else the page gets nothing, and the value stays as it was.",
    wrong: Example(&[
        (
            "truehook.toml",
            r##"[[attach]]
to = "hook:document-start"
call = "notes.js#links"
"##,
        ),
        (
            "markup/layout.html",
            r##"<!doctype html>
<html lang="en">
<head><title>{{ page.title }}</title>{{ place("hook:document-head") }}</head>
<body>
{{ place("hook:document-start") }}
{% block main %}<main>{{ place("region:main") }}</main>{% endblock %}
{{ place("hook:document-end") }}
</body>
</html>
"##,
        ),
        (
            "code/notes.js",
            r##"import { html } from "truehook";
export const links = () => ["#top", "#text"].map((to) => html`<a href="${to}">${to}</a>`);
"##,
        ),
    ]),
    right: Example(&[(
        "code/notes.js",
        r##"import { html } from "truehook";
export const links = () => html`${["#top", "#text"].map((to) => html`<a href="${to}">${to}</a>`)}`;
"##,
    )]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    let mut told = FxHashSet::default();
    for (callback, point, role) in callbacks(registry) {
        let Some(export) = registry.export(callback) else { continue };
        for returned in &export.returns {
            let Some((at, what, wanted)) = misfit(returned, point, role) else { continue };
            let place = Place { file: callback.file, at };
            if !told.insert(place) {
                continue;
            }
            let message = format!("`{}` returns {what} where {wanted} belongs", registry.callback_name(callback));
            let layer = registry.project().file(callback.file).layer;
            let finding = Finding::new(&RULE, layer, message).about(point.address).at(registry, place, "returned here");
            let finding = finding.at_declaration(registry, point.address, "this is what it runs at");
            found.push(finding.mend(match (role, what) {
                (Some(Role::Listener) | None, "a list") => "put the list into html`${…}`, which joins it",
                _ => "return what belongs there",
            }));
        }
    }
}

/// What is returned and does not fit, and what belongs there.
fn misfit(returned: &Returned, point: &Point, role: Option<Role>) -> Option<(At, &'static str, &'static str)> {
    let (at, what) = match returned {
        Returned::List(at) => (*at, "a list"),
        Returned::Table(_, _, at) => (*at, "a table"),
        Returned::Text(at, _) => (*at, "a text"),
        Returned::Value(at, value) if value.is_string() => (*at, "a text"),
        Returned::Value(at, value) if value.is_number() => (*at, "a number"),
        Returned::Value(_, Value::Bool(false)) if matches!(role, Some(Role::Listener) | None) => return None,
        Returned::Value(at, value) if value.is_boolean() => (*at, "true or false"),
        Returned::Value(..) => return None,
    };
    let wanted = match role {
        Some(Role::Listener) if point.moment => "nothing",
        Some(Role::Listener) | None if matches!(what, "a list" | "a table" | "true or false") => "markup or text",
        Some(Role::Arranger) if what != "a list" => "a list",
        Some(Role::Preparer) if what != "a table" => "a table of inputs",
        _ => return None,
    };
    Some((at, what, wanted))
}
