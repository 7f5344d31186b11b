//! A script uses a global name before the script that gives it has run

use crate::link::{Link, Outcome, Point, Registry, Target};
use crate::rules::{Example, Finding, Level, Rule};
use crate::scan::Inline;
use crate::source::Place;

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "early-use",
    level: Level::Error,
    links: &[],
    awaited: false,
    summary: "A script uses a global name before the script that gives it has run",
    explanation: "Browsers run a script in the markup as soon as they come to it. Scripts in files run in the head, where they or what needs them say so, else at the page's end: what they give is not there for a script in the middle of the page. A function that the page calls later finds it.",
    wrong: Example(&[
        (
            "truehook.toml",
            r##"[script.dial]
file = "dial.js"
gives = ["Dial"]
"##,
        ),
        ("media/dial.js", "window.Dial = { turn() {} };\n"),
        (
            "markup/page.html",
            r##"{% extends "layout.html" %}
{% block main %}
  <main>{{ place("region:main") }}</main>
  <script>Dial.turn();</script>
{% endblock %}
"##,
        ),
    ]),
    right: Example(&[(
        "markup/page.html",
        r##"{% extends "layout.html" %}
{% block main %}
  <main>{{ place("region:main") }}</main>
  <script>addEventListener("load", () => Dial.turn());</script>
{% endblock %}
"##,
    )]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    for reference in registry.references().iter().filter(|reference| reference.link == Link::GlobalToScript) {
        let Outcome::Found(Target::Point(giver)) = reference.outcome else { continue };
        let (Some(template), Some(giver)) = (registry.template(reference.from.file), registry.point(giver)) else {
            continue;
        };
        let holds = |inline: &&Inline| inline.script.uses.iter().any(|used| used.at == reference.from.at);
        let Some(inline) = template.scripts.iter().find(holds) else { continue };
        let at_once = inline.script.at_once.contains(&reference.written) && !inline.script.module;
        if !at_once || has_run(registry, giver, Place { file: reference.from.file, at: inline.at }) {
            continue;
        }
        let in_head = registry.comes_in_head(giver);
        let comes = if in_head { "in the head" } else { "at the page's end" };
        let message = format!(
            "a script in the markup uses `{}` at once, but `{}`, which gives it, comes {comes}, after it",
            reference.written, giver.address
        );
        let finding = Finding::new(&RULE, reference.layer, message)
            .at(registry, reference.from, "it is not there yet")
            .at_declaration(registry, giver.address, "this script gives it")
            .about(giver.address);
        found.push(finding.mend(match in_head {
            true => "move the script behind the head's hook".to_string(),
            false => format!(
                "use it in a function that runs once the page is there, or give `{}` at = \"head\"",
                giver.address
            ),
        }));
    }
}

/// Is a script there by the time that another, in the markup, is read? Where both spots are in other files,
/// the head comes first and the page's end last.
fn has_run(registry: &Registry, giver: &Point, inline: Place) -> bool {
    let in_head = registry.comes_in_head(giver);
    let hook = if in_head { registry.head_hook() } else { registry.end_hook() };
    let uses = hook.and_then(|hook| registry.point(hook)).map(|point| point.uses.as_slice()).unwrap_or_default();
    let spots = uses.iter().map(|id| registry.use_place(*id)).filter(|place| place.file == inline.file);
    let start = |place: Place| registry.span(place).start;
    spots.map(|spot| start(spot) < start(inline)).next().unwrap_or(in_head)
}
