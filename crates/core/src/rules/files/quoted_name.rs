//! A file has a name that shells take apart

use std::collections::BTreeSet;

use camino::{Utf8Path, Utf8PathBuf};

use crate::link::{Registry, START};
use crate::rules::{Example, Finding, Level, Rule};
use crate::shell::is_plain;
use crate::source::Place;
use crate::visible::{is_hidden_control, visible};

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "quoted-name",
    level: Level::Note,
    links: &[],
    awaited: false,
    summary: "A file has a name that shells take apart",
    explanation: "In a command, such a name has to stand between quotes, as all commands that are printed here do it. Scripts of others may take it apart, or carry out a part of it.",
    wrong: Example(&[("code/tide (old).js", "export {};\n")]),
    right: Example(&[("code/tide (old).js", ""), ("code/tide-old.js", "export {};\n")]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    let project = registry.project();
    let top = project.top();
    // A folder of media may hold what is also read.
    let files = project.files_of(top).map(|(_, file)| &file.path).chain(&project.layer(top).media);
    let quoted: BTreeSet<&Utf8PathBuf> = files.filter(|path| !is_plain(path.as_str())).collect();
    for path in quoted {
        let file = project.find(top, path.as_str()).unwrap_or(project.layer(top).manifest);
        let message = match path.as_str().chars().any(is_hidden_control) {
            true => format!("`{}` has control characters in its name", visible(path.as_str())),
            false => format!("`{path}` has a name that has to be quoted in a shell"),
        };
        let finding = Finding::new(&RULE, top, message).at(registry, Place { file, at: START }, "");
        found.push(finding.mend(format!("give it another name, as {}", plain(path))));
    }
}

/// A path with nothing in it but letters, figures, dots, dashes and strokes.
fn plain(path: &Utf8Path) -> String {
    let mut plain = String::new();
    for c in path.as_str().chars() {
        let c = if c.is_alphanumeric() || "-_./".contains(c) { c } else { '-' };
        if c != '-' || !plain.ends_with(['-', '/']) {
            plain.push(c);
        }
    }
    plain.replace("-.", ".")
}
