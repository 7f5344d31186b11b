//! A hook is not where the host needs it

use crate::link::Registry;
use crate::rules::usage::around::{braces, is_inside_head, is_last_in_body};
use crate::rules::{Example, Finding, Level, Rule};
use crate::scan::Verb;

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "wrong-spot",
    level: Level::Error,
    links: &[],
    awaited: false,
    summary: "A hook is not where the host needs it",
    explanation: "Style sheets and titles work in the head alone, and scripts are put where the whole page is there already: as the last thing in the body.",
    wrong: Example(&[(
        "markup/layout.html",
        r##"<!doctype html>
<html lang="en">
<head><title>{{ page.title }}</title></head>
<body>
{{ place("hook:document-head") }}
{% block main %}<main>{{ place("region:main") }}</main>{% endblock %}
{{ place("hook:document-end") }}
</body>
</html>
"##,
    )]),
    right: Example(&[(
        "markup/layout.html",
        r##"<!doctype html>
<html lang="en">
<head><title>{{ page.title }}</title>{{ place("hook:document-head") }}</head>
<body>
{% block main %}<main>{{ place("region:main") }}</main>{% endblock %}
{{ place("hook:document-end") }}
</body>
</html>
"##,
    )]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    for point in registry.points() {
        let Some((inside, last)) = point.inside else { continue };
        for id in &point.uses {
            if registry.use_of(*id).verb != Verb::Place || registry.template(id.file).is_none() {
                continue;
            }
            let place = registry.use_place(*id);
            let text = registry.project().file(id.file).text();
            let Some(range) = braces(text, registry.span(place)) else { continue };
            let (good, wanted) = match (inside.as_str(), last) {
                ("head", _) => (is_inside_head(text, range), "inside the head element"),
                (_, true) => (is_last_in_body(text, range), "the last thing in the body"),
                _ => continue,
            };
            if good == Some(false) {
                let message = format!("`{}` has to be {wanted}, and is not", point.address);
                let finding = Finding::new(&RULE, registry.layer_of(place), message).about(point.address);
                let finding = finding.at(registry, place, "placed here");
                let finding = finding.at_declaration(registry, point.address, "the host says so here");
                found.push(finding.mend(format!("move it, so that it is {wanted}")));
            }
        }
    }
}
