//! Markup is made and thrown away

use crate::link::Registry;
use crate::rules::telling::flaws;
use crate::rules::{Example, Finding, Level, Rule};
use crate::scan::FlawKind;

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "unused-markup",
    level: Level::Error,
    links: &[],
    awaited: false,
    summary: "Markup is made and thrown away",
    explanation: "html`…` makes markup and shows nothing: a listener shows what it returns.",
    wrong: Example(&[
        (
            "code/notes.js",
            r##"import { html } from "truehook";
export function today({ page }) {
  if (page.type === "front") {
    html`<p>Low water today</p>`;
  }
}
"##,
        ),
        (
            "truehook.toml",
            r##"[[attach]]
to = "hook:document-end"
call = "notes.js#today"
"##,
        ),
    ]),
    right: Example(&[(
        "code/notes.js",
        r##"import { html } from "truehook";
export function today({ page }) {
  if (page.type === "front") {
    return html`<p>Low water today</p>`;
  }
}
"##,
    )]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    flaws(registry, &RULE, FlawKind::UnusedMarkup, found);
}
