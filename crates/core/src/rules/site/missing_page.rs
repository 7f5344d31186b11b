//! A link leads to a page that the site does not have

use crate::link::{Link, Registry};
use crate::rules::telling::{miss_finding, misses, written};
use crate::rules::{Example, Finding, Level, Rule};

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "missing-page",
    level: Level::Warning,
    links: &[Link::ValueToPage],
    awaited: true,
    summary: "A link leads to a page that the site does not have",
    explanation: "Entries of menus, links in the text of pages and inputs of format page are looked at, where they begin with / and the preview has pages. What lies outside of the site, and files, are left alone.",
    wrong: Example(&[
        (
            "preview/pages/front.toml",
            r##"path = "/"
type = "front"
title = "Today"
body = "front.md"
"##,
        ),
        ("preview/pages/front.md", "Read the [logbook](/lgo/).\n"),
        (
            "preview/pages/log.toml",
            r##"path = "/log/"
type = "list"
title = "Logbook"
"##,
        ),
    ]),
    right: Example(&[("preview/pages/front.md", "Read the [logbook](/log/).\n")]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    for miss in misses(registry, &RULE) {
        let message = format!("`{}` leads to no page of the site", written(registry, miss));
        let mut finding = miss_finding(registry, &RULE, miss, message, "no page has this path");
        if finding.mend.is_none() {
            finding = finding.mend("correct it, or add the page to preview/pages/");
        }
        found.push(finding);
    }
}
