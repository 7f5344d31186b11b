//! The original of a template that was taken over has changed since

use camino::Utf8Path;

use crate::command_line;
use crate::link::{Link, Registry, START};
use crate::rules::telling::{miss_finding, misses, written};
use crate::rules::{Example, Finding, Level, Rule};
use crate::source::{Place, print_of};

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "stale-copy",
    level: Level::Warning,
    links: &[Link::CopyToOriginal],
    awaited: false,
    summary: "The original of a template that was taken over has changed since",
    explanation: "What the lower layer's new release mends or adds in its template does not reach the copy. `truehook adopt` merges the two, by what is kept of the original in adopted/; without that, compare them and write the new print into [adopted].",
    wrong: Example(&[
        (
            "../shingle/truehook.toml",
            r##"[theme]
name = "shingle"
label = "Shingle"
open = true
"##,
        ),
        (
            "../shingle/markup/layout.html",
            r##"<!doctype html>
<html lang="en">
<head><title>{{ page.title }}</title>{{ place("hook:document-head") }}</head>
<body>
<main>{{ place("region:main") }}</main>
{{ place("hook:document-end") }}
</body>
</html>
"##,
        ),
        (
            "markup/layout.html",
            r##"<!doctype html>
<html lang="en">
<head><title>{{ page.title }}</title>{{ place("hook:document-head") }}</head>
<body>
<main class="wide">{{ place("region:main") }}</main>
{{ place("hook:document-end") }}
</body>
</html>
"##,
        ),
        (
            "truehook.toml",
            r##"[theme]
name = "example"
label = "Example"
base = { path = "../shingle" }

[adopted]
"layout.html" = { from = "shingle", print = "sha256-0000000000000000000000000000000000000000000000000000000000000000" }
"##,
        ),
    ]),
    right: Example(&[(
        "truehook.toml",
        r##"[theme]
name = "example"
label = "Example"
base = { path = "../shingle" }

[adopted]
"layout.html" = { from = "shingle", print = "sha256-ecf608a4f94d0a99076eeb0cb90bf73226a0702550be5dc255d186724ebee4e6" }
"##,
    )]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    for miss in misses(registry, &RULE) {
        let message = format!("`{}` was taken over, but its original is not there", written(registry, miss));
        found.push(miss_finding(registry, &RULE, miss, message, "no such template in that layer"));
    }
    for (layer, file) in registry.manifests() {
        let Some(manifest) = registry.manifest(file) else { continue };
        for copy in &manifest.adopted {
            let Some(original) = registry.original(copy) else { continue };
            let print = print_of(registry.project().file(original).text());
            if copy.print.name == print {
                continue;
            }
            let (name, from) = (copy.template.name, copy.from.name);
            // A copy that was taken away again can't be out of date; only its record is left.
            if registry.project().find(layer, &format!("markup/{name}")).is_none() {
                continue;
            }
            let message = format!("{from}'s {name} has changed since it was taken over");
            let finding = Finding::new(&RULE, layer, message);
            let finding = finding.at(registry, Place { file, at: copy.print.at }, "this is what it was then");
            let finding = finding.at(registry, Place { file: original, at: START }, "this is it now");
            let kept = format!("adopted/{from}/{name}");
            let mend = match registry.project().layer(layer).originals.contains(Utf8Path::new(&kept)) {
                true => command_line!["adopt", name, "--copy"],
                false => format!("bring the copy up to date, then write print = \"{print}\""),
            };
            found.push(finding.mend(mend));
        }
    }
}
